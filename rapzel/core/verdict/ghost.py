"""The margin of the ghost: what the room's light draws of a moving part beside its flash-lit image (science §6).

A trail that is wanted is judged by its length and by whether it is seen; every other by whether it is not. What stands
still in the room's light, or what the same shutter stops, draws none, however bright the room is.
"""

import math
from typing import Any

from rapzel.core.document.evaluation import Margin, State
from rapzel.core.physics import Physics
from rapzel.core.shared import constants
from rapzel.core.shared.units import (
    SHUTTERS_S,
    format_length,
    format_number,
    format_shutter,
    format_stops,
)
from rapzel.core.shared.working import Step, step
from rapzel.core.verdict.ambient import room_steps
from rapzel.core.verdict.margin import margin, state_of
from rapzel.core.verdict.streaks import streaks, where_the_trail_lies

_STOPPERS = "high-speed sync, a leaf or global shutter, or a fast shutter alone"


def stopping_mark_s(limit_s: float) -> float | None:
    """The slowest marked shutter that stops the motion [s]; None where the dial has none."""
    return max((mark for mark in SHUTTERS_S if mark <= limit_s * 1.001), default=None)


def trails(physics: Physics) -> bool:
    """Whether the moving part goes further than the criterion in the room's light."""
    return physics.room_trail_px > physics.frame.criterion_px * (1 + 1e-9)


def ghost(physics: Physics) -> Margin:
    """Stops by which the room is further under the flash than the clear threshold asks, where its trail is long."""
    if physics.scene.look.room == "streaks":
        return streaks(physics)
    if not physics.method.room_apart:
        # The same shutter stops both, and the freeze margin judges it.
        says = "no trail of its own"
        if physics.scene.look.room == "trail":
            return margin("ghost", None, "stops", "fails", f"{says}: one is wanted", [])
        return margin("ghost", None, "stops", "passes", says, [])
    way = "way of the image while the shutter is open"
    trail = physics.room_trail_px
    working = [
        *room_steps(physics),
        step("trail", trail, "px", way, constants.SOURCE_DEFINITION),
    ]
    if physics.scene.look.room == "trail":
        return _wanted(physics, working)
    return _unwanted(physics, working)


def _unwanted(physics: Physics, working: list[Step]) -> Margin:
    limits, under = physics.scene.ambient, physics.ghost_margin_stops
    if physics.ev100[1] is None:
        return margin("ghost", None, "stops", "passes", "room said to be dark", [])
    trail, allowed = physics.room_trail_px, physics.frame.criterion_px
    # What does not move in the room's light leaves no ghost, however bright the room is.
    if not trails(physics):
        says = f"no trail: {format_number(trail, 2)} px of {format_number(allowed, 2)}"
        shown: dict[str, Any] = {"figure": trail, "figure_unit": "px"}
        return margin("ghost", None, "stops", "passes", says, working, **shown)
    if under is None:
        if physics.scene.lights:
            says = "no flash to outshine the room"
            return margin("ghost", None, "stops", "fails", says, working)
        return margin("ghost", None, "stops", "unknown", "no light yet", working)
    # The margin is a difference of two levels that are known independently.
    doubt = (physics.flash_doubt_stops**2 + physics.room_doubt_stops**2) ** 0.5
    value = under - limits.clear_stops
    mark = stopping_mark_s(physics.limit_s)
    working += [
        step(
            "flash",
            physics.flash_offset_stops,
            "stops",
            "best-lit row",
            constants.SOURCE_ISO_1230,
        ),
        step("under", under, "stops", "flash − room", constants.SOURCE_DEFINITION),
        step(
            "ghost",
            value,
            "stops",
            f"under − {limits.clear_stops:g}",
            constants.SOURCE_PRACTICE,
        ),
        step("doubt", doubt, "stops", "of flash and room", constants.SOURCE_MEMORY),
        step("stopped by", mark, "s", f"the shutter: {_STOPPERS}", "row model"),
    ]
    asked = format_number(limits.clear_stops)
    says = f"{format_stops(under, signed=False)} under, {asked} asked"
    # A room that is wanted is not made darker: what is told is its trail, and what would stop it.
    if physics.scene.look.room == "lit":
        says = f"trails {format_number(trail, 2)} px; {_stopped_by(mark)}"
    state = state_of(value, doubt)
    if state == "fails" and under - limits.trail_stops >= -1e-9:
        state, says = "unsure", f"faint trail, {says}"  # between the two thresholds
    elif state == "unsure":
        says = f"probably {says}"
    return margin("ghost", value, "stops", state, says, working, doubt)


def _stopped_by(mark: float | None) -> str:
    if mark is None:
        return "no marked shutter stops it"
    return f"{format_shutter(mark)} stops it"


def _wanted(physics: Physics, working: list[Step]) -> Margin:
    """A deliberate trail: as long as it should be within a third of a stop, and strong enough to be seen."""
    length, wanted = physics.room_trail_m, physics.scene.look.trail_m
    shown: dict[str, Any] = {
        "figure": physics.room_trail_px,
        "figure_unit": "px",
        "within": constants.RIGHT_STOPS,
    }
    if wanted and length > 0:
        off = math.log2(length / wanted)
    elif not wanted:
        off = 0.0
    else:
        # A trail that is wanted and has no length is as far off as it can be told.
        off = -9.0
    says = f"trail {format_length(length)}"
    if wanted:
        says += f", wanted {format_length(wanted)}"
    says += f", {where_the_trail_lies(physics)}"
    working = [
        *working,
        step("length", length, "m", "trail on the subject", constants.SOURCE_THIN_LENS),
        step("off", off, "stops", "log2(length / wanted)", constants.SOURCE_DEFINITION),
    ]
    state = state_of(constants.RIGHT_STOPS - abs(off), 0.0)
    seen, why = _seen(physics)
    if state != "fails" and seen != "passes":
        return margin("ghost", off, "stops", seen, why, working, **shown)
    return margin("ghost", off, "stops", state, says, working, **shown)


def _seen(physics: Physics) -> tuple[State, str]:
    """Whether a trail is bright enough beside the flash to be seen at all."""
    under, asked = physics.ghost_margin_stops, physics.scene.ambient.trail_stops
    if physics.ambient_offset_stops is None:
        return "fails", "a dark room draws no trail"
    if under is None:
        if physics.scene.lights:
            return "fails", "no flash beside the trail"
        return "unknown", "no flash beside the trail"
    doubt = math.hypot(physics.flash_doubt_stops, physics.room_doubt_stops)
    says = f"trail {format_stops(under, signed=False)} under the flash, seen within {asked:g}"
    return state_of(asked - under, doubt), says
