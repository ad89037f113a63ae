"""Who you are, and how you like units and the screen."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class User(AbstractUser):
    """A person with an account."""

    class Theme(models.TextChoices):
        DARK = "dark", "Dark"
        PAPER = "paper", "Paper"
        SET = "set", "Set mode"

    theme = models.CharField(max_length=8, choices=Theme.choices, default=Theme.DARK)
    imperial = models.BooleanField("feet and miles", default=False)


class SignUpAttempt(models.Model):
    """One sign-up from an address, kept for the limit an hour."""

    address = models.GenericIPAddressField(null=True, db_index=True)
    at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"{self.address} at {self.at:%H:%M}"
