"""The smallest single relaxations that let something fit: one limit widened, the others kept (science §8).

A wider limit never loses a hit, so that the mildest widening that succeeds is found by halving.
"""

import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import partial
from typing import Any, NamedTuple

from rapzel.core.document.gear import fastest_shutter_s
from rapzel.core.document.scene import Scene
from rapzel.core.search.find import Beat, Kit, Progress, Search
from rapzel.core.search.limits import BARE, MOST_LIGHTS, Limits
from rapzel.core.search.ways import DISTANCES_M
from rapzel.core.shared.units import (
    F_NUMBERS,
    ISO_SPEEDS,
    SHUTTERS_S,
    format_f_number,
    format_length,
    format_number,
    format_shutter,
    format_stops,
)

# No lens of this work opens wider; beyond f/22 diffraction undoes what is gained.
_WIDEST, _NARROWEST = 1.2, 22.0
_MOST_SMEAR_STOPS = 3.0
# lights from which one kind at a time is tried: of two kinds there are too many
_ALONE_FROM = 4


@dataclass(frozen=True)
class Relaxation:
    """One limit widened: which, from and to, in words, and the limits that follow."""

    limit: str
    value: Any
    says: str
    limits: Limits

    def to_document(self) -> dict[str, Any]:
        return {"limit": self.limit, "to": self.value, "says": self.says}


class Relaxations(NamedTuple):
    """What would do, and how many limits were left untried because they took too long."""

    found: list[Relaxation]
    untried: int = 0


@dataclass(frozen=True)
class _Try:
    """A limit with the values that it may be widened to, the mildest first."""

    name: str
    values: Sequence[Any]
    limits: Callable[[Any], Limits]
    says: Callable[[Any], str]


def relaxations_of(
    scene: Scene,
    kit: Kit,
    limits: Limits,
    progress: Progress | None = None,
    patience_s: float | None = None,
) -> Relaxations:
    """For each limit the mildest widening with which something fits; none where even the widest does not help.

    patience_s: limits whose turn comes later are left untried.
    """
    tries = list(_tries(scene, kit, limits))
    found: list[Relaxation] = []
    begun = time.monotonic()
    for number, one in enumerate(tries):
        # What was left untried is counted and told, not silently missing.
        if patience_s is not None and time.monotonic() - begun > patience_s:
            return Relaxations(found, len(tries) - number)
        beat = partial(progress or _nobody, number / len(tries))
        mildest = _mildest(scene, kit, one, beat)
        if mildest is not None:
            relaxed = one.limits(mildest)
            found.append(Relaxation(one.name, mildest, one.says(mildest), relaxed))
    return Relaxations(found)


def _nobody(share: float) -> None:
    """Nobody wants to know how far it is."""


def _fits(scene: Scene, kit: Kit, limits: Limits, beat: Beat) -> bool:
    return Search(scene, kit, limits, mixed=limits.lights < _ALONE_FROM).any_hit(beat)


def _mildest(scene: Scene, kit: Kit, one: _Try, beat: Beat) -> Any:
    """The first of the values, from mild to strong, with which something fits; None where the strongest does not."""
    values = one.values
    # The widest first: where that fails, no milder one has to be tried.
    if not values or not _fits(scene, kit, one.limits(values[-1]), beat):
        return None
    # The last one succeeds, as was just tried; before the first, nothing does.
    low, high = -1, len(values) - 1
    while high - low > 1:
        middle = (low + high) // 2
        if _fits(scene, kit, one.limits(values[middle]), beat):
            high = middle
        else:
            low = middle
    return values[high]


def _wider(
    limits: Limits,
    name: str,
    marks: Sequence[float],
    words: Callable[[float], str],
    side: int,
) -> _Try:
    """A range widened at its lower (0) or upper (1) end through the markings."""
    low, high = getattr(limits, name)
    if side == 1:
        # From the mark beside the limit outwards: the mildest come first.
        values = sorted(mark for mark in marks if mark > high * 1.01)
    else:
        values = sorted((mark for mark in marks if mark < low / 1.01), reverse=True)

    def relaxed(value: float) -> Limits:
        return limits.relaxed(**{name: (low, value) if side == 1 else (value, high)})

    old = words(high if side == 1 else low)
    if name == "iso":
        prefix = "ISO "
    else:
        prefix = ""
    return _Try(
        name, values, relaxed, lambda value: f"{prefix}{words(value)} instead of {old}"
    )


def _tries(scene: Scene, kit: Kit, limits: Limits) -> Iterator[_Try]:
    fastest = fastest_shutter_s(scene.camera)
    apertures = [mark for mark in F_NUMBERS if _WIDEST <= mark <= _NARROWEST]
    shutters = [mark for mark in SHUTTERS_S if mark >= fastest / 1.001]
    # Upper ends first: a higher ISO is what people give up most easily.
    for side in (1, 0):
        yield _wider(limits, "iso", ISO_SPEEDS, lambda value: f"{value:g}", side)
        yield _wider(limits, "f_number", apertures, format_f_number, 1 - side)
        yield _wider(limits, "distance_m", DISTANCES_M, format_length, 1 - side)
        yield _wider(limits, "shutter_s", shutters, format_shutter, 1 - side)
    yield _Try(
        "lights",
        range(limits.lights + 1, MOST_LIGHTS + 1),
        lambda value: limits.relaxed(lights=value),
        lambda value: f"{value} lights instead of {limits.lights}",
    )
    # In thirds of a stop, down to three stops of smear.
    smears = [step / 3 for step in range(1, int(_MOST_SMEAR_STOPS * 3) + 1)]
    yield _Try(
        "freeze_stops",
        [limits.freeze_stops - step for step in smears],
        lambda value: limits.relaxed(freeze_stops=value),
        lambda value: f"a freeze margin of {format_stops(value)} stops",
    )
    yield from _conditions(kit, limits)


def _conditions(kit: Kit, limits: Limits) -> Iterator[_Try]:
    """Limits that are wishes: rate, depth, equal powers, which strobes, which methods, which modifiers."""
    if limits.frames_per_s:
        yield _less(
            limits, "frames_per_s", " frames/s", lambda rate: format_number(rate, 2)
        )
    if limits.depth_m:
        yield _less(limits, "depth_m", " of depth", format_length)
    # Wishes that can only be given up, not widened.
    free: list[tuple[str, Any, str]] = []
    if limits.equal_power:
        free.append(("equal_power", False, "powers that differ"))
    if limits.strobes is not None and len(limits.strobes) < len(kit.strobes):
        free.append(("strobes", None, "every strobe of the kit"))
    if limits.methods is not None:
        free.append(("methods", None, "every method of the camera"))
    if limits.modifiers is None or BARE not in limits.modifiers:
        bare = (*(limits.modifiers or ()), BARE)
        free.append(("modifiers", bare, "bare reflectors"))
    for name, value, says in free:
        yield _Try(name, [value], _setter(limits, name), _always(says))


def _less(limits: Limits, name: str, unit: str, words: Callable[[float], str]) -> _Try:
    """Less of what is asked for, down to a sixteenth."""
    asked = getattr(limits, name)
    return _Try(
        name,
        [asked * 2 ** (-step / 3) for step in range(1, 13)],
        lambda value: limits.relaxed(**{name: value}),
        lambda value: f"{words(value)}{unit} instead of {words(asked)}",
    )


def _setter(limits: Limits, name: str) -> Callable[[Any], Limits]:
    return lambda value: limits.relaxed(**{name: value})


def _always(words: str) -> Callable[[Any], str]:
    return lambda value: words
