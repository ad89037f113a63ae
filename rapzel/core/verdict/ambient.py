"""The margin of the room's level: what only the room lights, against the look (science §6).

Black means that the room is so many stops under correct exposure, and the backdrop as dark under the flash's spill; lit
and trail mean that the room is within half a stop of what is wanted. What it draws of moving parts is another margin,
the ghost: noon at −0.3 stop has no trail by high-speed sync, and is not black.
"""

from rapzel.core.document.evaluation import Margin, State
from rapzel.core.physics import Physics
from rapzel.core.shared import constants
from rapzel.core.shared.units import format_number, format_stops
from rapzel.core.shared.working import Step, step
from rapzel.core.verdict.margin import margin, state_of, two_sided


def room_steps(physics: Physics) -> list[Step]:
    """The working that every room has: its EV and its exposure."""
    formula = "EV100 + log2(ISO/100) − log2(N²/t) − ND"
    ev = physics.ev100[1]
    level = step(
        "room",
        physics.ambient_offset_stops,
        "stops",
        formula,
        constants.SOURCE_DEFINITION,
    )
    return [*([ev] if ev else []), level]


def wanted_stops(physics: Physics) -> float:
    """At how many stops the room is wanted; as it is where nothing is said."""
    wanted = physics.scene.look.room_stops
    if wanted is None:
        return physics.ambient_offset_stops or 0.0
    return wanted


def room(physics: Physics) -> Margin:
    """How far the room's level is from what the look wants [stops]; two-sided where it is wanted."""
    if physics.scene.look.room == "black":
        return _black(physics)
    return _wanted(physics)


def by_backdrop(physics: Physics) -> bool:
    """Whether the backdrop under the lights' spill is lighter than the room, and so what is seen behind the subject."""
    level, around = physics.ambient_offset_stops, physics.backdrop_offset_stops
    return around is not None and (level is None or around > level)


def _black(physics: Physics) -> Margin:
    """Stops by which the lighter of room and backdrop is darker than black has to be."""
    asked = physics.scene.ambient.black_stops
    level, around = physics.ambient_offset_stops, physics.backdrop_offset_stops
    working = room_steps(physics)
    if level is None and around is None:
        return margin("room", None, "stops", "passes", "room said to be dark", working)
    if around is not None:
        formula = "flash + 2 log2(d / (d + b)) + log2(ρ / 0.18) − flags, and the room"
        working.append(
            step("backdrop", around, "stops", formula, "inverse square, ISO 2720")
        )
    if around is not None and by_backdrop(physics):
        lighter, doubt, what = around, physics.backdrop_doubt_stops, "backdrop "
    else:
        lighter, doubt, what = level or 0.0, physics.room_doubt_stops, ""
    value = -asked - lighter
    working += [
        step("black", value, "stops", f"−{asked:g} − level", constants.SOURCE_PRACTICE),
        step("doubt", doubt, "stops", "of that level", constants.SOURCE_MEMORY),
    ]
    says = f"{what}at {format_stops(lighter)}, black is −{format_number(asked)}"
    # A room may be as much darker than told as brighter.
    state = state_of(value, doubt, better=doubt)
    if state == "unsure":
        says = f"probably {'not: ' if value < 0 else ''}{says}"
    return margin("room", value, "stops", state, says, working, doubt)


def _wanted(physics: Physics) -> Margin:
    """How near a wanted room is to the stops at which it is wanted."""
    working, level = room_steps(physics), physics.ambient_offset_stops
    if level is None:
        says = "a dark room shows nothing: say how bright it is"
        return margin(
            "room",
            None,
            "stops",
            "fails",
            says,
            working,
            within=constants.ROOM_WITHIN_STOPS,
        )
    if physics.scene.look.room_stops is None:
        # Nobody said how bright it should be: then it is taken as it is, and nobody is told that it is as wanted.
        says = f"room {format_stops(level)}, as it is"
        return margin("room", None, "stops", "passes", says, working)
    wanted, doubt = wanted_stops(physics), physics.room_doubt_stops
    off = level - wanted
    working += [
        step("wanted", wanted, "stops", "the look", constants.SOURCE_DEFINITION),
        step("off", off, "stops", "room − wanted", constants.SOURCE_DEFINITION),
        step("doubt", doubt, "stops", "of the room", constants.SOURCE_MEMORY),
    ]
    within = constants.ROOM_WITHIN_STOPS
    state: State = two_sided(off, doubt, within, better=doubt)
    says = f"room {format_stops(level)}, wanted {format_stops(wanted)}"
    if state == "unsure":
        says = f"probably {'not: ' if abs(off) > within else ''}{says}"
    return margin(
        "room",
        off,
        "stops",
        state,
        says,
        working,
        doubt,
        within=within,
    )


def stops_too_bright(margin_: Margin) -> float:
    """By how much the room has to go down [stops]; negative: up. 0 where it is as it should be."""
    value = margin_.value
    if value is None:
        return 0.0
    if margin_.two_sided:
        return value
    return max(-value, 0.0)
