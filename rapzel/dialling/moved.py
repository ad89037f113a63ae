"""What else has been moved since a dial-in began, by the names that people know it by."""

from collections.abc import Iterator
from typing import Any

from rapzel.core.document import places
from rapzel.core.document.places import Document
from rapzel.core.drops.asked import Drops
from rapzel.core.shared.part import inputs_of
from rapzel.ui.inputs import QUANTITIES
from rapzel.workbench.groups import differences

Moved = tuple[str, str, str]  # label, what it was, what it is
_NOTHING = "–"


def moved_between(before: Document, now: Document, imperial: bool) -> list[Moved]:
    """Every input that differs, the drops' own among them; one nameless line for what has no input."""
    if before == now:
        return []
    told = [(label, *texts) for label, texts in differences([before, now], imperial)]
    found: list[Moved] = [(label, old, new) for label, old, new in told]
    found += _of_drops(before.get("drops"), now.get("drops"), imperial)
    return found or [("Something else", "as it was", "changed")]


def _of_drops(before: Any, now: Any, imperial: bool) -> Iterator[Moved]:
    """The inputs of the drops that differ; they stand on the tool's page, not among the scene's."""
    if before == now:
        return
    # Drops that came or went are one change, not forty.
    if before is None or now is None:
        yield (
            "Drops",
            "none" if before is None else "as they were",
            "none" if now is None else "others",
        )
        return
    for asked in inputs_of(Drops):
        old, new = (places.get(each, asked.name) for each in (before, now))
        if old != new:
            yield (
                asked.label,
                _dressed(asked.quantity, old, imperial),
                _dressed(asked.quantity, new, imperial),
            )


def _dressed(quantity: str, value: Any, imperial: bool) -> str:
    if isinstance(value, int | float) and quantity in QUANTITIES:
        return QUANTITIES[quantity].show(value, imperial)
    if isinstance(value, list):
        return f"{len(value)} rows"
    if value is None:
        return _NOTHING
    return str(value)[:40]
