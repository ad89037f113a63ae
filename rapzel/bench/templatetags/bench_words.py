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
def codes(warnings: list[dict[str, Any]]) -> str:
    """The headings of several warnings in a row."""
    return ", ".join(code_words(warning["code"]) for warning in warnings)


@register.filter
def percent1(share: float) -> str:
    """0.0123 -> '1.2 %'."""
    return f"{share * 100:.1f} %"


@register.filter
def marks(pop: dict[str, Any]) -> str:
    """Where the plot draws levels and begins: as JSON for the script."""
    names = ("first05_s", "last05_s", "first01_s", "last01_s", "peak", "baseline", "inverted")
    return json.dumps({name: pop[name] for name in names})
