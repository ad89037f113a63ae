"""Forms of an account."""

from typing import Any

from django import forms
from django.contrib.auth.forms import AuthenticationForm, UserCreationForm
from django.contrib.auth.models import AbstractBaseUser

from rapzel.accounts.models import User
from rapzel.accounts.names import look_of
from rapzel.ui import zones

LONGEST_NAME = 150


class SignUpForm(UserCreationForm):
    class Meta(UserCreationForm.Meta):
        model = User
        fields = ("username",)

    def clean_username(self) -> str:
        name = str(super().clean_username() or "")
        # A Cyrillic а reads like a Latin one: two such names could pass for each other.
        if User.objects.filter(look=look_of(name)).exists():
            raise forms.ValidationError(
                "A name that looks like this one is taken. Choose another."
            )
        return name


class LoginForm(AuthenticationForm):
    """Django's form; a name that no account can have is not even asked for, nor written into the log of tries."""

    def clean_username(self) -> str:
        name = str(self.cleaned_data["username"])
        # The log of tries is read by people; a page of text as a name would bury the rest.
        if len(name) > LONGEST_NAME:
            raise forms.ValidationError(
                f"A name has at most {LONGEST_NAME} characters."
            )
        return name


class ClockForm(forms.ModelForm):
    """Whose clock times are shown on, where a shoot does not say."""

    class Meta:
        model = User
        fields = ("zone",)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        offered = dict(zones.choices("not said: UTC"))
        # A zone that the list has no more stays chosen until the person chooses another.
        offered.setdefault(self.instance.zone, self.instance.zone)
        self.fields["zone"].widget = forms.Select(
            {"data-zone-to-choose": "", "class": "entry wide-auto"},
            choices=list(offered.items()),
        )


class WithPassword(forms.Form):
    """The password, to be sure who asks."""

    nothing_done = "Nothing was changed."
    password = forms.CharField(
        label="Your password", widget=forms.PasswordInput(attrs={"autocomplete": "off"})
    )

    def __init__(self, *args: Any, user: AbstractBaseUser, **kwargs: Any) -> None:
        self.user = user
        super().__init__(*args, **kwargs)

    def clean_password(self) -> str:
        if not self.user.check_password(self.cleaned_data["password"]):
            raise forms.ValidationError(
                f"That is not your password. {self.nothing_done}"
            )
        return str(self.cleaned_data["password"])


class FarewellForm(WithPassword):
    """Who deletes the account."""

    nothing_done = "Nothing was deleted."


class LettersForm(WithPassword):
    """Where a letter goes when the password is forgotten; empty for nowhere."""

    email = forms.EmailField(label="E-mail", required=False)
    field_order = ("email", "password")
