"""Who you are, and how you like units and the screen."""

from typing import Any

from django.contrib.auth.models import AbstractUser
from django.db import models

from rapzel.accounts.names import look_of
from rapzel.ui import zones


class User(AbstractUser):
    """A person with an account."""

    class Theme(models.TextChoices):
        DARK = "dark", "Dark"
        PAPER = "paper", "Paper"
        SET = "set", "Set mode"

    theme = models.CharField(max_length=8, choices=Theme.choices, default=Theme.DARK)
    imperial = models.BooleanField("feet and miles", default=False)
    zone = models.CharField(
        "time zone",
        max_length=zones.LONGEST_NAME,
        blank=True,
        validators=[zones.require_known],
    )
    look = models.CharField(
        "what the name looks like", max_length=150, editable=False, default=""
    )

    class Meta(AbstractUser.Meta):
        indexes = [models.Index(fields=["look"])]

    def save(self, *args: Any, **kwargs: Any) -> None:
        self.look = look_of(self.username)
        super().save(*args, **kwargs)


class SignUpAttempt(models.Model):
    """One sign-up from an address, kept for the limit an hour."""

    address = models.GenericIPAddressField(null=True, db_index=True)
    at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return f"{self.address} at {self.at:%H:%M}"


class DoorTry(models.Model):
    """One try at a door that is closed after several: a wrong password, or a letter that was asked for."""

    class Kind(models.TextChoices):
        PASSWORD = "password", "a wrong password"
        LETTER = "letter", "a letter for a new password"

    kind = models.CharField(max_length=8, choices=Kind.choices)
    address = models.GenericIPAddressField(null=True)
    account = models.ForeignKey(
        User, null=True, on_delete=models.CASCADE, related_name="+"
    )
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        indexes = [models.Index(fields=["kind", "address", "at"])]

    def __str__(self) -> str:
        return f"{self.kind} from {self.address} at {self.at:%H:%M}"
