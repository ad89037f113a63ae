"""The room's margin where the room is wanted in the picture: lit at so many stops, or as a trail (science §6).

A room that is wanted is never a fault by itself. It is judged by what is wanted of it, on both sides, and moving parts
that it lights must stand still in its light as well, unless a trail is the very look.
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
from rapzel.core.verdict.margin import margin, state_of, two_sided

_STOPPERS = "high-speed sync, a leaf or global shutter, or a fast shutter alone"


def room_steps(physics: Physics) -> list[Step]:
    """The working that every room has: its EV, its exposure, and how far the moving part goes in its light."""
    formula = "EV100 + log2(ISO/100) − log2(N²/t) − ND"
    ev, trail = physics.ev100[1], physics.room_trail_px
    room = step(
        "room",
        physics.ambient_offset_stops,
        "stops",
        formula,
        constants.SOURCE_DEFINITION,
    )
    way = "way of the image while the shutter is open"
    return [
        *([ev] if ev else []),
        room,
        step("trail", trail, "px", way, constants.SOURCE_DEFINITION),
    ]


def stopping_mark_s(limit_s: float) -> float | None:
    """The slowest marked shutter that stops the motion [s]; None where the dial has none."""
    return max((mark for mark in SHUTTERS_S if mark <= limit_s * 1.001), default=None)


def wanted_room(physics: Physics) -> Margin:
    """The margin of a room that is wanted in the picture [stops]; two-sided."""
    working = room_steps(physics)
    # Without a flash the room is the picture, and the light margin judges it.
    if not physics.method.flashes:
        return margin(
            "ghost", None, "stops", "passes", "the room lights the picture", working
        )
    if physics.ambient_offset_stops is None:
        says = "a dark room shows nothing: say how bright it is"
        return margin("ghost", None, "stops", "fails", says, working)
    lit = physics.scene.look.room == "lit"
    if lit:
        return _lit(physics, working)
    return _trail(physics, working)


def wanted_stops(physics: Physics) -> float:
    """At how many stops the room is wanted; as it is where nothing is said."""
    wanted = physics.scene.look.room_stops
    if wanted is None:
        return physics.ambient_offset_stops or 0.0
    return wanted


def trails_by_the_room(physics: Physics) -> State | None:
    """What a wanted room does to moving parts: None where they stand still in it or are not seen, else its state.

    A trail within the criterion is none, and the thresholds of brightness are those of every trail.
    """
    if not physics.method.room_apart:
        return None  # the same shutter stops both, and the freeze margin judges it
    if physics.room_trail_px <= physics.frame.criterion_px * (1 + 1e-9):
        return None
    under, room = physics.ghost_margin_stops, physics.scene.ambient
    if under is None:
        if physics.scene.lights:
            return "fails"
        return "unknown"
    # So far under the flash no trail is seen, even of a room that should be.
    if under >= room.clear_stops - 1e-9:
        return None
    if under >= room.trail_stops - 1e-9:
        return "unsure"
    return "fails"


def _lit(physics: Physics, working: list[Step]) -> Margin:
    room, wanted = physics.ambient_offset_stops or 0.0, wanted_stops(physics)
    off, doubt = room - wanted, physics.room_doubt_stops
    working = [
        *working,
        step("wanted", wanted, "stops", "the look", constants.SOURCE_DEFINITION),
        step("off", off, "stops", "room − wanted", constants.SOURCE_DEFINITION),
        step("doubt", doubt, "stops", "of the room", constants.SOURCE_MEMORY),
    ]
    trailing = trails_by_the_room(physics)
    level = two_sided(off, doubt, constants.RIGHT_STOPS)
    says = f"room {format_stops(room)}, wanted {format_stops(wanted)}"
    # The worse of the two is told: how bright the room is, or what it does to moving parts.
    if trailing is None or (level == "fails" and trailing != "fails"):
        return margin(
            "ghost", off, "stops", level, says, working, doubt, two_sided=True
        )
    px = format_number(physics.room_trail_px, 2)
    if trailing == "unknown":
        return margin("ghost", off, "stops", trailing, "no light yet", working, doubt)
    mark = stopping_mark_s(physics.limit_s)
    if mark is None:
        stops = "no marked shutter stops it"
    else:
        stops = f"{format_shutter(mark)} stops it"
    working.append(
        step("stopped by", mark, "s", f"the shutter: {_STOPPERS}", "row model")
    )
    short = math.log2(physics.frame.criterion_px / physics.room_trail_px)
    words = f"room trails {px} px; {stops}"
    if trailing == "unsure":
        words = f"faint {words}"
    return margin(
        "ghost",
        short,
        "stops",
        trailing,
        words,
        working,
        figure=physics.room_trail_px,
        figure_unit="px",
    )


def _trail(physics: Physics, working: list[Step]) -> Margin:
    """A deliberate trail: as long as it should be within a third of a stop, and strong enough to be seen."""
    length, wanted = physics.room_trail_m, physics.scene.look.trail_m
    shown: dict[str, Any] = {
        "figure": physics.room_trail_px,
        "figure_unit": "px",
        "two_sided": True,
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
    working = [
        *working,
        step("length", length, "m", "trail on the subject", constants.SOURCE_THIN_LENS),
        step("off", off, "stops", "log2(length / wanted)", constants.SOURCE_DEFINITION),
    ]
    state = state_of(constants.RIGHT_STOPS - abs(off), 0.0)
    strength, weak = _strength(physics)
    if state != "fails" and strength != "passes":
        return margin("ghost", off, "stops", strength, weak, working, **shown)
    return margin("ghost", off, "stops", state, says, working, **shown)


def _strength(physics: Physics) -> tuple[State, str]:
    """Whether a trail is as bright as it should be: at its stops, or above what a trail needs to be seen."""
    room, under = physics.ambient_offset_stops or 0.0, physics.ghost_margin_stops
    wanted, doubt = physics.scene.look.room_stops, physics.room_doubt_stops
    if under is None:
        return (
            "unknown" if not physics.scene.lights else "fails",
            "no flash beside the trail",
        )
    if wanted is not None:
        says = f"trail at {format_stops(room)}, wanted {format_stops(wanted)}"
        return two_sided(room - wanted, doubt, constants.RIGHT_STOPS), says
    seen = physics.scene.ambient.trail_stops
    says = f"trail {format_stops(under, signed=False)} under the flash, seen within {seen:g}"
    return state_of(seen - under, doubt), says
