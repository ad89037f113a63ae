"""The look *streaks*: the camera follows, the subject stays, and all that stands still streaks by it (handbook §17)."""

import math

from rapzel.core.document.evaluation import Margin, State
from rapzel.core.physics import Physics
from rapzel.core.shared import constants
from rapzel.core.shared.units import format_length, format_number, format_stops
from rapzel.core.shared.working import step
from rapzel.core.verdict.margin import margin, state_of

_STILL = "the camera does not follow, so nothing streaks"


def streaks(physics: Physics) -> Margin:
    """How near the streaks are to their wanted length [stops], long enough in the light of a room that is seen."""
    if not physics.frame.follows:
        return margin("ghost", None, "stops", "fails", _STILL, [])
    length, wanted = physics.streak_m, physics.scene.look.trail_m
    working = [
        step(
            "streaks",
            length,
            "m",
            "way of the subject while the shutter is open",
            constants.SOURCE_DEFINITION,
        )
    ]
    off: float | None = None
    state: State = "passes"
    says = f"streaks {format_length(length)}"
    if wanted:
        # What stands still has no way, and so is as far off as it can be told.
        off = math.log2(length / wanted) if length > 0 else -9.0
        says += f", wanted {format_length(wanted)}"
        formula = "log2(length / wanted)"
        working.append(step("off", off, "stops", formula, constants.SOURCE_DEFINITION))
        state = state_of(constants.RIGHT_STOPS - abs(off))
    seen, why = _seen(physics)
    if state != "fails" and seen != "passes":
        state, says = seen, why
    return margin(
        "ghost",
        off,
        "stops",
        state,
        says,
        working,
        within=constants.RIGHT_STOPS,
    )


def _seen(physics: Physics) -> tuple[State, str]:
    """Whether the room is bright enough that what it lights is seen to streak."""
    level = physics.ambient_offset_stops
    if level is None:
        return "fails", "a dark room draws no streaks"
    least = physics.scene.ambient.trail_stops
    says = f"the room is at {format_stops(level)}, and streaks show from {format_number(-least)} on"
    return state_of(level + least, physics.room_doubt_stops), says


def where_the_trail_lies(physics: Physics) -> str:
    """Before or behind the subject, in words: what the room draws after the light lies where the subject goes."""
    ahead = physics.trail_ahead
    if ahead > _MOST:
        return "before the subject"
    if ahead < 1 - _MOST:
        return "behind the subject"
    return "on both sides of the subject"


_MOST = 0.7  # of a trail: so much of it on one side is what one sees
