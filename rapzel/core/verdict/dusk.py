"""The dark window: from when to when the look holds on a day outdoors, as the sun goes down and up (science §6)."""

import math
from dataclasses import dataclass

from rapzel.core.document.scene import Scene
from rapzel.core.document.sky import SkyAt
from rapzel.core.document.surroundings import Ambient
from rapzel.core.light import sky
from rapzel.core.physics import Physics, daylight
from rapzel.core.shared.constants import RIGHT_STOPS
from rapzel.core.verdict.ambient import room
from rapzel.core.verdict.exposed import light

_STEP_H = 1 / 12  # five minutes
_EV_STEP = 0.25
_DARKEST, _BRIGHTEST = -16.0, 18.0
_FINE = 8  # halvings of a step in EV


@dataclass(frozen=True)
class Instant:
    """One time of the day: hour of the clock (over 24: the next day), sun [°], EV usual, least and most."""

    hour: float
    elevation_deg: float
    ev100: float
    low: float
    high: float
    holds: str  # surely, perhaps, no


@dataclass(frozen=True)
class Window:
    """A stretch of time in which the look holds: surely, or by some light that the sky may have."""

    begin_h: float
    end_h: float
    sure: bool


@dataclass(frozen=True)
class Dusk:
    """A day from noon to noon: its instants, the rooms in which the look holds [EV], and the windows."""

    at: SkyAt
    instants: list[Instant]
    holding: list[tuple[float, float]]
    windows: list[Window]


def dusk_of(scene: Scene) -> Dusk | None:
    """The day of a scene from noon to noon; None where no sky, place and date are known."""
    at = scene.ambient.sky
    if at is None:
        return None
    holding = holding_evs(scene)
    if at.hour >= 12:
        # From noon to noon, so that an evening and its dawn are one stretch.
        first = 12.0
    else:
        first = -12.0
    instants = [
        _instant(at, first + step * _STEP_H, holding)
        for step in range(int(24 / _STEP_H) + 1)
    ]
    return Dusk(at, instants, holding, _windows(instants))


def _instant(at: SkyAt, hour: float, holding: list[tuple[float, float]]) -> Instant:
    height = daylight.elevation_deg(at, hour)
    usual, low, high = sky.subject_ev100(at.state, height, at.facing)
    # Surely: whatever the sky does within its doubt; perhaps: somewhere within it.
    surely = any(begin <= low and high <= end for begin, end in holding)
    perhaps = any(begin <= high and low <= end for begin, end in holding)
    if surely:
        word = "surely"
    elif perhaps:
        word = "perhaps"
    else:
        word = "no"
    return Instant(hour, height, usual, low, high, word)


def _windows(instants: list[Instant]) -> list[Window]:
    """The stretches of instants of one kind, to half a step."""
    windows, begin = [], 0
    for place in range(1, len(instants) + 1):
        if place < len(instants) and instants[place].holds == instants[begin].holds:
            continue
        if instants[begin].holds != "no":
            edges = (instants[begin].hour, instants[place - 1].hour)
            windows.append(Window(*edges, instants[begin].holds == "surely"))
        begin = place
    return windows


def holding_evs(scene: Scene) -> list[tuple[float, float]]:
    """The rooms in which the look holds and the light is right [EV at ISO 100], as stretches; −∞ is a dark room."""
    evs = [
        _DARKEST + step * _EV_STEP
        for step in range(int((_BRIGHTEST - _DARKEST) / _EV_STEP) + 1)
    ]
    held = [holds_at(scene, ev) for ev in evs]
    stretches: list[tuple[float, float]] = []
    begin: float | None = -math.inf if held[0] else None
    for place in range(1, len(evs)):
        # Only where it changes is an edge, and only edges are searched finely.
        if held[place] == held[place - 1]:
            continue
        edge = _edge(scene, evs[place - 1], evs[place], held[place - 1])
        if held[place]:
            begin = edge
        elif begin is not None:
            stretches.append((begin, edge))
            begin = None
    if begin is not None:
        stretches.append((begin, math.inf))
    return stretches


def _edge(scene: Scene, low: float, high: float, held_at_low: bool) -> float:
    """Where it begins or ends to hold, to a thousandth of an EV."""
    for _ in range(_FINE):
        middle = (low + high) / 2
        if holds_at(scene, middle) == held_at_low:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def holds_at(scene: Scene, ev100: float) -> bool:
    """Whether the room is as wanted, and does not make the picture too bright, in a room of that light."""
    ambient = Ambient(
        ev100=ev100,
        trail_stops=scene.ambient.trail_stops,
        clear_stops=scene.ambient.clear_stops,
        black_stops=scene.ambient.black_stops,
    )
    physics = Physics(scene.model_copy(update={"ambient": ambient}))
    # No margin of the flash is asked: by dusk only the room changes. That a hand trails in it is no matter of the sky,
    # and is told by another margin at any hour.
    level = room(physics)
    if level.state in ("fails", "unknown") or level.leans:
        return False
    lit = light(physics).value
    return lit is None or lit <= RIGHT_STOPS + 1e-9
