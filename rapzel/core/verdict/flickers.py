"""The margin of flicker: whether the room's light is even over the rows and from frame to frame (science §6).

It is judged where somebody has said how the light flickers; elsewhere a warning tells that nobody has.
"""

from collections.abc import Iterator
from typing import Any

from rapzel.core.document.evaluation import Evaluation, Margin
from rapzel.core.document.scene import Scene
from rapzel.core.light.flicker import Pulsation
from rapzel.core.physics import Physics, around, flickering
from rapzel.core.shared import constants
from rapzel.core.shared.units import (
    SHUTTERS_S,
    format_number,
    format_shutter,
    format_stops,
)
from rapzel.core.shared.working import step
from rapzel.core.verdict.change import Change
from rapzel.core.verdict.margin import margin, state_of

_SOURCE = "m · |sinc(f t)|, handbook §17"
_TEST = "shoot ten frames of a plain wall at {} and look"
# Lamps on the mains of either frequency, at their worst: what may happen where nobody says anything.
_MAINS = (Pulsation(100.0, 1.0), Pulsation(120.0, 1.0))


def flickers(physics: Physics) -> bool:
    """Whether there is something to judge: light in the room, and somebody has said that it flickers."""
    found = physics.scene.ambient.unsteady
    return physics.ev100[0] is not None and found is not None and found.depth != 0


def flicker(physics: Physics) -> Margin:
    """Stops between the brightest and the darkest row or frame, against those that still look even."""
    found = physics.flickering
    if found is None:
        return margin("flicker", None, "stops", "passes", "steady light", [])
    shutter = physics.scene.exposure.shutter_s
    value = constants.EVEN_STOPS - found.change_stops
    working = [
        step("least", found.least, "", "of the room's light, in one opening", _SOURCE),
        step("most", found.most, "", "the same", _SOURCE),
        step("bands", found.bands, "", "T_c · f, over the frame", "row model"),
        step(
            "change",
            found.change_stops,
            "stops",
            "log2(brightest / darkest), by the room's share of what is seen",
            constants.SOURCE_DEFINITION,
        ),
        step(
            "flicker",
            value,
            "stops",
            f"{constants.EVEN_STOPS:.2g} − change",
            constants.SOURCE_PRACTICE,
        ),
    ]
    state = state_of(value)
    shown: dict[str, Any] = {"figure": found.change_stops, "figure_unit": "stops"}
    if state == "passes":
        says = f"even at {format_shutter(shutter)}"
        return margin("flicker", value, "stops", state, says, working, **shown)
    # At its worst it shows; how it really is nobody has said.
    if not found.known:
        says = f"not known how it flickers: {_TEST.format(format_shutter(shutter))}"
        return margin("flicker", None, "stops", "unknown", says, working)
    says = how_it_shows(physics)
    return margin("flicker", value, "stops", state, says, working, **shown)


def how_it_shows(physics: Physics) -> str:
    """What the flicker does to the picture, in words: bands over the frame, and frames that differ."""
    found = physics.flickering
    if found is None:
        return "steady light"
    apart = f"{format_stops(found.change_stops, signed=False)} stops apart"
    if found.bands is None or found.bands < 0.5:
        return f"frames {apart}"
    if found.bands < 1.5:
        return f"rows and frames {apart}"
    return f"{format_number(found.bands, 2)} bands {apart}"


def even_marks(scene: Scene) -> tuple[float | None, float | None]:
    """The nearest marked shutters, faster and slower, at which the room's light is even [s]; None where none is."""
    now = scene.exposure.shutter_s
    even = [
        mark
        for mark in SHUTTERS_S
        if flickering.even_at(scene.ambient.unsteady, mark)
        and abs(mark / now - 1) > 0.01
    ]
    faster = max((mark for mark in even if mark < now), default=None)
    slower = min((mark for mark in even if mark > now), default=None)
    return faster, slower


def for_flicker(
    scene: Scene, now: Evaluation, imperial: bool = False
) -> Iterator[Change]:
    """A shutter that takes in whole periods of the light, or so many that one more or less does not show."""
    for mark in even_marks(scene):
        if mark is not None:
            yield Change(
                "flicker", format_shutter(mark), (("exposure.shutter_s", mark),)
            )


def of_flicker(physics: Physics, margin_: Margin) -> str:
    """What the flicker does, as a part of the sentence."""
    return f"the room's light flickers ({margin_.says})"


def unsaid_flicker(physics: Physics) -> list[str]:
    """The warning where light of lamps is seen and nobody has said whether it flickers; nothing elsewhere."""
    scene = physics.scene
    if not around.may_flicker(scene) or not physics.room_seen:
        return []
    shutter = scene.exposure.shutter_s
    changes = [flickering.change_stops(*one.extremes(shutter), 1.0) for one in _MAINS]
    if max(changes) <= constants.EVEN_STOPS:
        return []
    return [
        "Nobody has said whether the room's light flickers. "
        f"At {format_shutter(shutter)} lamps can leave bands, and frames of different brightness: "
        f"{_TEST.format(format_shutter(shutter))}, then say it in Room."
    ]
