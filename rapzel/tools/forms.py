"""The form of a tool, made from what it asks: people's units in, SI out, the core's refusal on the field at fault."""

from typing import Any

from django import forms

from rapzel.core.shared.errors import DocumentError
from rapzel.core.shared.refusals import spoken
from rapzel.core.tools import Tool
from rapzel.ui.quantities import QuantityField


class ToolForm(forms.Form):
    """One field for each labelled input of a tool; `asked` holds what the core took, once it is valid."""

    def __init__(self, tool: Tool, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.tool = tool
        self.asked: Any = None
        for name, info in tool.asks.model_fields.items():
            said = info.json_schema_extra
            if isinstance(said, dict) and "x-quantity" in said:
                self.fields[name] = QuantityField(
                    str(said["x-quantity"]),
                    label=str(said["x-label"]),
                    required=info.is_required(),
                    help_text=str(said.get("x-hint", "")),
                )

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or self.cleaned_data
        if self.errors:
            return cleaned
        given = {name: value for name, value in cleaned.items() if value is not None}
        for name, info in self.tool.asks.model_fields.items():
            if info.annotation is int and name in given:
                given[name] = int(given[name])
        try:
            self.asked = self.tool.read(given)
        except DocumentError as error:
            for problem in error.problems:
                self.add_error(
                    problem.path if problem.path in self.fields else None, spoken(problem.reason)
                )
        return cleaned
