"""Form fields for quantities."""

from typing import Any

from django import forms

from rapzel.core.shared.errors import UnitError
from rapzel.ui.inputs.quantities import QUANTITIES


class QuantityField(forms.CharField):
    """A form field for a quantity: the cleaned value is SI, None when left empty and not required."""

    def __init__(self, quantity: str, **kwargs: Any) -> None:
        self.quantity = QUANTITIES[quantity]
        super().__init__(**kwargs)
        self.widget.attrs.setdefault("autocomplete", "off")

    def prepare_value(self, value: Any) -> str:
        """What the field shows: the value dressed, or what was typed, as it was typed."""
        if isinstance(value, int | float):
            return self.quantity.show(value)
        return value or ""

    def clean(self, value: Any) -> float | None:
        text = super().clean(value)
        if not text:
            return None
        try:
            return self.quantity.parse(text)
        except UnitError as error:
            raise forms.ValidationError(str(error)) from error

    def has_changed(self, initial: Any, data: Any) -> bool:
        """A field that still shows its value has not changed: the value keeps the digits that are not shown."""
        return self.prepare_value(initial) != (data or "").strip()
