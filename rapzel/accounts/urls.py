from django.contrib.auth.views import LoginView, LogoutView, PasswordChangeView
from django.urls import path, reverse_lazy

from rapzel.accounts import views
from rapzel.accounts.forms import LoginForm

app_name = "accounts"
log_in = LoginView.as_view(
    template_name="accounts/login.html",
    authentication_form=LoginForm,
    redirect_authenticated_user=True,
)
new_password = PasswordChangeView.as_view(
    template_name="accounts/password.html", success_url=reverse_lazy("accounts:account")
)
urlpatterns = [
    path("", views.account, name="account"),
    path("login/", log_in, name="login"),
    path("logout/", LogoutView.as_view(), name="logout"),
    path("sign-up/", views.sign_up, name="sign_up"),
    path("session/<int:pk>/", views.session, name="session"),
    path("preferences/", views.preferences, name="preferences"),
    path("password/", new_password, name="password"),
    path("everything.zip", views.everything, name="everything"),
    path("farewell/", views.farewell, name="farewell"),
]
