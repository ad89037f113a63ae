"""Forms of an account."""

from typing import Any

from django import forms
from django.contrib.auth.forms import AuthenticationForm, UserCreationForm
from django.contrib.auth.models import AbstractBaseUser

from rapzel.accounts.models import User

LONGEST_NAME = 150


class SignUpForm(UserCreationForm):
    class Meta(UserCreationForm.Meta):
        model = User
        fields = ("username",)


class LoginForm(AuthenticationForm):
    """Django's form; a name that no account can have is not even asked for, nor written into the log of tries."""

    def clean_username(self) -> str:
        name = str(self.cleaned_data["username"])
        if len(name) > LONGEST_NAME:
            raise forms.ValidationError(f"A name has at most {LONGEST_NAME} characters.")
        return name


class FarewellForm(forms.Form):
    """The password, to be sure who deletes the account."""

    password = forms.CharField(
        label="Your password", widget=forms.PasswordInput(attrs={"autocomplete": "off"})
    )

    def __init__(self, *args: Any, user: AbstractBaseUser, **kwargs: Any) -> None:
        self.user = user
        super().__init__(*args, **kwargs)

    def clean_password(self) -> str:
        if not self.user.check_password(self.cleaned_data["password"]):
            raise forms.ValidationError("That is not your password. Nothing was deleted.")
        return str(self.cleaned_data["password"])
