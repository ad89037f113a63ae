"""Words of the bench for templates."""

import json
from typing import Any

from django import template

register = template.Library()

CODES = {
    "two_levels": "Two levels", "clipped": "Clipped", "tail_missing": "Tail missing", "undersampled": "Undersampled",
    "slow_detector": "Slow detector", "baseline_drift": "Baseline", "ripple": "Ripple",
    "several_pulses": "Several pulses", "inverted": "Inverted", "no_pulse": "No pulse",
}  # fmt: skip


@register.filter
def code_words(code: str) -> str:
    """The heading of a warning."""
    return CODES.get(code, code)


@register.filter
def codes(names: list[str]) -> str:
    """The headings of several warnings in a row."""
    return ", ".join(code_words(name) for name in names)


@register.filter
def percent1(share: float) -> str:
    """0.0123 -> '1.2 %'."""
    return f"{share * 100:.1f} %"


@register.filter
def marks(result: dict[str, Any]) -> str:
    """Where the first pop's crossings lie on the recording's clock [s]: as JSON for the plot."""
    pop, begin = result["pops"][0], result["segments"][0][0]
    at = {name: pop[f"{name}_s"] for name in ("first05", "last05", "first01", "last01")}
    return json.dumps(
        {name: None if value is None else begin + value for name, value in at.items()}
    )
