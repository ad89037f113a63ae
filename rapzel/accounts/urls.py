from django.contrib.auth.views import LoginView, LogoutView
from django.urls import path

from rapzel.accounts import views

app_name = "accounts"
urlpatterns = [
    path(
        "login/", LoginView.as_view(template_name="accounts/login.html", redirect_authenticated_user=True), name="login"
    ),
    path("logout/", LogoutView.as_view(), name="logout"),
    path("sign-up/", views.sign_up, name="sign_up"),
    path("preferences/", views.preferences, name="preferences"),
]
