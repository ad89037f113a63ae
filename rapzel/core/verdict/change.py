"""A proposal to change a scene, and the dials that proposals are read off."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.gear import Light
from rapzel.core.document.scene import Scene
from rapzel.core.shared.units import next_mark

Values = tuple[tuple[str, Any], ...]  # by path


@dataclass(frozen=True, slots=True)
class Change:
    """A proposal: the margin it closes, what it says on the link, and the values to set by path."""

    margin: str
    says: str
    values: Values


Remedy = Callable[[Scene, Evaluation, bool], Iterator[Change]]


def dial_until(
    value: float,
    direction: int,
    marks: tuple[float, ...],
    enough: Callable[[float], bool],
) -> float | None:
    """The first marking in a direction that is enough; None where the dial ends before."""
    # No more steps than the dial has marks.
    for _ in marks:
        following = next_mark(value, direction, marks)
        if following == value:
            return None
        value = following
        if enough(value):
            return value
    return None


def last_mark(
    value: float,
    direction: int,
    marks: tuple[float, ...],
    fits: Callable[[float], bool],
) -> float | None:
    """The furthest marking in a direction that still fits; None where the first one does not."""
    furthest = None
    while (following := next_mark(value, direction, marks)) != value and fits(
        following
    ):
        furthest = value = following
    return furthest


def nearest_mark(value: float, marks: tuple[float, ...]) -> float:
    """The marking that is nearest by ratio."""
    return min(marks, key=lambda mark: max(mark / value, value / mark))


def rounded_down(value: float, step: float) -> float:
    """The value in whole steps, not more than it is."""
    return int(value / step + 1e-9) * step


def named(light: Light) -> str:
    """How a proposal calls a light."""
    return light.name or "light"
