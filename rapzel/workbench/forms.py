"""The facts of a shoot."""

from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from django import forms
from django.utils import timezone

from rapzel.shoots.models import Shoot
from rapzel.ui import zones

_WHEN = {"type": "datetime-local"}
_HOURS = ("starts_at", "ends_at")


class ShootForm(forms.ModelForm):
    """The facts of a shoot. Its hours are those of its own clock: another zone leaves what the clock shows."""

    class Meta:
        model = Shoot
        fields = [
            "name",
            "client",
            "place",
            "zone",
            "starts_at",
            "ends_at",
            "people",
            "notes",
        ]
        widgets = {
            "starts_at": forms.DateTimeInput(_WHEN, format="%Y-%m-%dT%H:%M"),
            "ends_at": forms.DateTimeInput(_WHEN, format="%Y-%m-%dT%H:%M"),
            "notes": forms.Textarea({"rows": 2}),
        }

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        unknown = f"as in the account: {timezone.get_current_timezone_name()}"
        # A zone that the browser knows by an older name stays among the choices.
        offered = dict(
            zones.choices(unknown if not self.instance.zone else "as in the account")
        )
        offered.setdefault(self.instance.zone, self.instance.zone)
        self.fields["zone"].widget = forms.Select(choices=list(offered.items()))

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or self.cleaned_data
        begins, ends = cleaned.get("starts_at"), cleaned.get("ends_at")
        if begins and ends and ends < begins:
            self.add_error(None, "The end must not be before the beginning.")
        return cleaned


def with_its_clock(shoot: Shoot, name: str, value: Any) -> dict[str, Any]:
    """What is stored with a fact that was changed: it, and what keeps the hours of the shoot what people read.

    An hour is meant on the clock of the shoot, so that another zone moves the instant and not the hour; and the first
    hour that is said fixes the zone, or it would move when its owner travels.
    """
    stored = {name: value}
    if name == "zone":
        clock = value or getattr(shoot.owner, "zone", "") or "UTC"
        stored |= {
            hours: _same_hour(shoot, getattr(shoot, hours), clock) for hours in _HOURS
        }
    if name in _HOURS and value and not shoot.zone:
        stored["zone"] = timezone.get_current_timezone_name()
    return stored


def _same_hour(shoot: Shoot, at: datetime | None, zone: str) -> datetime | None:
    """What the clock of the shoot shows then, on the clock of that zone."""
    if at is None:
        return None
    return timezone.localtime(at, shoot.clock).replace(tzinfo=ZoneInfo(zone))
