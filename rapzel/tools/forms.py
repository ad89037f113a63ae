"""The form of a tool, made from what it asks: people's units in, SI out, the core's refusal on the field at fault."""

import re
from collections.abc import Mapping
from typing import Any

from django import forms

from rapzel.core.shared.errors import DocumentError
from rapzel.core.shared.refusals import spoken
from rapzel.core.tools import Tool
from rapzel.tools.devices import DevicesField
from rapzel.tools.rows import ROWS, RowsField
from rapzel.ui.quantities import QuantityField


def _field(name: str, said: Mapping[str, Any], required: bool) -> forms.Field:
    """The field for what the core says of one input."""
    quantity, label, hint = (
        str(said["x-quantity"]),
        str(said["x-label"]),
        str(said.get("x-hint", "")),
    )
    if quantity == "choice":
        return forms.ChoiceField(
            choices=tuple(said["x-choices"].items()), label=label, help_text=hint
        )
    if quantity == "text":
        return forms.CharField(label=label, required=False, max_length=200, help_text=hint)
    if name in ROWS:
        columns, example, single = ROWS[name]
        if single:
            said_how = hint
        else:
            said_how = f"one a line: {hint}"
        return RowsField(columns, example, single, label=label, help_text=said_how)
    if quantity == "rows":
        return DevicesField(
            label=f"{label}, one a line", help_text="name; cells; mA waiting; mAs an event; by day"
        )
    return QuantityField(quantity, label=label, required=required, help_text=hint)


class ToolForm(forms.Form):
    """One field for each labelled input of a tool; `asked` holds what the core took, once it is valid."""

    def __init__(self, tool: Tool, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.tool = tool
        self.asked: Any = None
        for name, info in tool.asks.model_fields.items():
            said = info.json_schema_extra
            if isinstance(said, dict) and "x-quantity" in said:
                self.fields[name] = _field(name, said, info.is_required())

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or self.cleaned_data
        if self.errors:
            return cleaned
        cleaned = {name: self._exact(name, value) for name, value in cleaned.items()}
        given = {name: value for name, value in cleaned.items() if value is not None}
        for name, info in self.tool.asks.model_fields.items():
            if info.annotation is int and name in given:
                given[name] = int(given[name])
        try:
            self.asked = self.tool.read(given)
        except DocumentError as error:
            for problem in error.problems:
                own = re.split(r"[.\[]", problem.path, maxsplit=1)[0]
                self.add_error(own if own in self.fields else None, spoken(problem.reason))
        return cleaned

    def _exact(self, name: str, value: Any) -> Any:
        """The value with all of its digits, where the text is still the one that it was dressed in."""
        field, begins = self.fields[name], self.initial.get(name)
        same = isinstance(field, QuantityField) and not field.has_changed(
            begins, self.data.get(name)
        )
        if same:
            return begins
        return value
