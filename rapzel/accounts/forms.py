from django.contrib.auth.forms import UserCreationForm

from rapzel.accounts.models import User


class SignUpForm(UserCreationForm):
    class Meta(UserCreationForm.Meta):
        model = User
        fields = ("username",)
