from django.contrib.auth.views import LogoutView
from django.urls import path

from rapzel.accounts import doors, views

app_name = "accounts"
urlpatterns = [
    path("", views.account, name="account"),
    path("login/", doors.LogIn.as_view(), name="login"),
    path("logout/", LogoutView.as_view(), name="logout"),
    path("sign-up/", views.sign_up, name="sign_up"),
    path("session/<int:pk>/", views.session, name="session"),
    path("preferences/", views.preferences, name="preferences"),
    path("clock/", views.clock, name="clock"),
    path("password/", doors.NewPassword.as_view(), name="password"),
    path("forgotten/", doors.Forgotten.as_view(), name="forgotten"),
    path("anew/<uidb64>/<token>/", doors.SetAnew.as_view(), name="set_anew"),
    path("letters/", views.letters, name="letters"),
    path("everything.zip", views.everything, name="everything"),
    path("farewell/", views.farewell, name="farewell"),
]
