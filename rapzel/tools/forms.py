"""The form of a tool, made from what it asks: people's units in, SI out, the core's refusal on the field at fault."""

import re
from typing import Any

from django import forms

from rapzel.core.shared.errors import DocumentError
from rapzel.core.shared.part import InputSpec, inputs_of
from rapzel.core.shared.refusals import spoken
from rapzel.core.tools import Tool
from rapzel.tools.devices import DevicesField
from rapzel.tools.rows import ROWS, RowsField
from rapzel.ui.inputs import QuantityField


def _field(asked: InputSpec) -> forms.Field:
    """The field for what the core says of one input."""
    label, hint = asked.label, asked.hint
    if asked.quantity == "choice":
        return forms.ChoiceField(choices=asked.choices, label=label, help_text=hint)
    if asked.quantity == "text":
        return forms.CharField(
            label=label, required=False, max_length=200, help_text=hint
        )
    if asked.name in ROWS:
        columns, example, single = ROWS[asked.name]
        said_how = hint if single else f"one a line: {hint}"
        return RowsField(columns, example, single, label=label, help_text=said_how)
    if asked.quantity == "rows":
        return DevicesField(
            label=f"{label}, one a line",
            help_text="name; cells; mA waiting; mAs an event; by day",
        )
    return QuantityField(
        asked.quantity, label=label, required=asked.required, help_text=hint
    )


class ToolForm(forms.Form):
    """One field for each labelled input of a tool; `asked` holds what the core took, once it is valid."""

    def __init__(self, tool: Tool, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.tool = tool
        self.asked: Any = None
        self.inputs = {asked.name: asked for asked in inputs_of(tool.asks)}
        for name, asked in self.inputs.items():
            self.fields[name] = _field(asked)

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or self.cleaned_data
        if self.errors:
            return cleaned
        cleaned = {name: self._exact(name, value) for name, value in cleaned.items()}
        # What was left empty is left to the class: it knows its defaults, and what may be unknown.
        given = {name: value for name, value in cleaned.items() if value is not None}
        for name, asked in self.inputs.items():
            if asked.whole and name in given:
                given[name] = int(given[name])
        try:
            self.asked = self.tool.read(given)
        except DocumentError as error:
            for problem in error.problems:
                # A problem deep in a row stands at the field that holds the rows.
                own = re.split(r"[.\[]", problem.path, maxsplit=1)[0]
                self.add_error(
                    own if own in self.fields else None, spoken(problem.reason)
                )
        return cleaned

    def _exact(self, name: str, value: Any) -> Any:
        """The value with all of its digits, where the text is still the one that it was dressed in."""
        field, begins = self.fields[name], self.initial.get(name)
        dressed = isinstance(field, QuantityField | RowsField)
        if dressed and not field.has_changed(begins, self.data.get(name)):
            return begins
        return value
