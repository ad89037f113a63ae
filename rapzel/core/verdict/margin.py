"""How a margin is put together: its state from value and doubt, and the words for what is not known."""

import math
from typing import Any

from rapzel.core.document.evaluation import Margin, State
from rapzel.core.shared import constants
from rapzel.core.shared.working import Step

_ROUNDING = 1e-9
# So that of all that passes at most one world in a hundred is wrong (tests.hunt.exposures).
_MOST_BEYOND = 0.015


def state_of(value: float, doubt: float = 0.0, better: float = 0.0) -> State:
    """passes where even the pessimistic end is at or above zero, unsure where only the best guess is, else fails.

    better: how much better it may be than the best guess; then what may hold does not fail.
    """
    # Sums of stops end in ones and zeros a billionth away from the mark that was meant.
    if value < -_ROUNDING:
        if better and value + better >= -_ROUNDING:
            return "unsure"
        return "fails"
    if value - doubt >= -_ROUNDING:
        return "passes"
    return "unsure"


def two_sided(
    value: float, doubt: float, tolerance: float, better: float = 0.0
) -> State:
    """The same for a figure that is right within a tolerance on either side of zero.

    It may be wrong on both sides, so its pessimistic end is not enough: what passes is wrong in few worlds of all.
    """
    state = state_of(tolerance - abs(value), doubt, better)
    if state == "passes" and _share_beyond(value, doubt, tolerance) > _MOST_BEYOND:
        return "unsure"
    return state


def _share_beyond(value: float, doubt: float, tolerance: float) -> float:
    """Share of worlds in which a figure of this doubt (nine in ten, normal) is off by more than the tolerance."""
    if doubt == 0:
        return 0.0
    root = doubt / constants.NINE_IN_TEN_SD * math.sqrt(2)
    above = math.erfc((tolerance - value) / root) / 2
    below = math.erfc((tolerance + value) / root) / 2
    return above + below


def margin(
    name: Any,
    value: float | None,
    unit: str,
    state: State,
    says: str,
    working: list[Step],
    doubt: float | None = None,
    **shown: Any,
) -> Margin:
    """A margin; `figure` and `figure_unit` are given where what is shown large is not the value itself.

    `within`: how far off either way holds, where zero is right instead of zero and above.
    """
    return Margin(
        name=name,
        value=value,
        unit=unit,
        state=state,
        passes=state == "passes",
        doubt=doubt,
        says=says,
        figure=shown.get("figure", value),
        figure_unit=shown.get("figure_unit", unit),
        two_sided=shown.get("within") is not None,
        within=shown.get("within"),
        working=working,
    )


def listed(parts: list[str], last: str = "and") -> str:
    """`a, b and c`."""
    if len(parts) == 1:
        return parts[0]
    return f"{', '.join(parts[:-1])} {last} {parts[-1]}"
