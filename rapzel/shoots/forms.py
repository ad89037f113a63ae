from typing import Any

from django import forms

from rapzel.shoots.models import Shoot

_WHEN = {"type": "datetime-local"}


class ShootForm(forms.ModelForm):
    """The facts of a shoot."""

    class Meta:
        model = Shoot
        fields = ["name", "client", "place", "starts_at", "ends_at", "people", "notes"]
        widgets = {
            "starts_at": forms.DateTimeInput(_WHEN, format="%Y-%m-%dT%H:%M"),
            "ends_at": forms.DateTimeInput(_WHEN, format="%Y-%m-%dT%H:%M"),
            "notes": forms.Textarea({"rows": 2}),
        }

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or self.cleaned_data
        begins, ends = cleaned.get("starts_at"), cleaned.get("ends_at")
        if begins and ends and ends < begins:
            self.add_error(None, "The end must not be before the beginning.")
        return cleaned
