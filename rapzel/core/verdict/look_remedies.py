"""What brings a wanted room to where it is wanted, without darkening what should be seen (science §6).

Aperture and ISO move flash and room alike. So the room alone is moved by ISO against the lights' power: the flash keeps
its exposure, and with a higher ISO its pulse becomes shorter as well.
"""

import math
from collections.abc import Iterator

from rapzel.core.document.gear import fastest_shutter_s, lowest_power
from rapzel.core.document.scene import Scene
from rapzel.core.methods import METHODS, method_of
from rapzel.core.physics import Physics
from rapzel.core.shared.units import (
    ISO_SPEEDS,
    SHUTTERS_S,
    format_shutter,
    format_stops,
)
from rapzel.core.verdict.ambient import wanted_stops
from rapzel.core.verdict.change import Change, Values, dial_until, nearest_mark
from rapzel.core.verdict.ghost import stopping_mark_s, trails

_LOWEST_ISO, _HIGHEST_ISO = 50.0, 25600.0
# of a trail whose strength nobody has said: in the middle of what is seen
VISIBLE_STOPS = -1.5


def against_each_other(scene: Scene, stops: float) -> Values:
    """ISO up by so many stops and every light's power down by as many: the room moves, the flash stays.

    In thirds of a stop, and as far as the lights' ranges and usual ISO speeds reach; empty where nothing can move.
    """
    thirds = round(stops * 3)
    while thirds:
        values = _moved(scene, thirds / 3)
        if values:
            return values
        # What the lights' ranges do not reach is offered as far as they do.
        thirds -= int(math.copysign(1, thirds))
    return ()


def _moved(scene: Scene, stops: float) -> Values:
    iso = nearest_mark(scene.exposure.iso * 2**stops, ISO_SPEEDS)
    if not scene.lights or not _LOWEST_ISO <= iso <= _HIGHEST_ISO:
        return ()
    # by the marking, not by the round number of stops
    factor = scene.exposure.iso / iso
    powers = [light.power * factor for light in scene.lights]
    for power, light in zip(powers, scene.lights, strict=True):
        if not lowest_power(light.strobe) * 0.999 <= power <= 1.001:
            return ()
    lights = [
        (f"lights[{place}].power", min(power, 1.0))
        for place, power in enumerate(powers)
    ]
    return (("exposure.iso", iso), *lights)


def for_level(scene: Scene) -> Iterator[Change]:
    """Proposals for a room that is wanted at another level."""
    physics = Physics(scene)
    if physics.ambient_offset_stops is None or not physics.method.flashes:
        return
    off = physics.ambient_offset_stops - wanted_stops(physics)
    if abs(off) > 1e-6:
        yield from level_changes(physics, off)


def for_trail(scene: Scene) -> Iterator[Change]:
    """Proposals for the trail of a room that is wanted: as long as it should be, or stopped where none should be."""
    physics = Physics(scene)
    if scene.look.room == "streaks":
        yield from _for_streaks(physics)
        return
    if physics.ambient_offset_stops is None or not physics.method.flashes:
        return
    if scene.look.room == "trail":
        yield from _for_trail(physics)
    elif trails(physics):
        yield from _stopping_the_room(physics)


def _stopping_the_room(physics: Physics) -> Iterator[Change]:
    """A shutter that stops moving parts in the room's light as well: this one, or that of high-speed sync."""
    scene, mark = physics.scene, stopping_mark_s(physics.limit_s)
    # A shutter that this body does not have stops nothing.
    if mark is None or mark < fastest_shutter_s(scene.camera) * 0.999:
        return
    shutter = ("exposure.shutter_s", mark)
    # They open all rows at once at any speed, so that the pulse needs no train.
    if scene.camera.shutter in ("leaf", "global"):
        yield Change("ghost", format_shutter(mark), (shutter,))
        return
    hss = METHODS["hss"]
    if not hss.on_camera(scene.camera) and all(
        light.strobe.hss for light in scene.lights
    ):
        values = (("exposure.method", hss.word), shutter, ("trigger.fires", "camera"))
        yield Change("ghost", f"high-speed sync at {format_shutter(mark)}", values)


def level_changes(physics: Physics, off: float) -> Iterator[Change]:
    """The room moved by ISO against power, or by the shutter where that is free."""
    scene = physics.scene
    by_iso = _by_iso(physics, off, "room")
    if by_iso is not None:
        yield by_iso
    # The shutter moves the room and leaves the flash alone, as long as all of it fits in.
    wanted = scene.exposure.shutter_s * 2**-off
    if off < 0:
        direction = 1
    else:
        direction = -1
    mark = dial_until(
        scene.exposure.shutter_s,
        direction,
        SHUTTERS_S,
        lambda mark: mark >= wanted * 0.9 if direction > 0 else mark <= wanted * 1.1,
    )
    if mark is not None:
        yield Change("room", format_shutter(mark), (("exposure.shutter_s", mark),))


def _by_iso(physics: Physics, off: float, margin: str) -> Change | None:
    """The room that many stops down by ISO against the lights' power; None where nothing can move."""
    scene = physics.scene
    values = against_each_other(scene, -off)
    if not values:
        return None
    iso = dict(values)["exposure.iso"]
    by = format_stops(math.log2(scene.exposure.iso / iso))
    return Change(margin, f"ISO {iso:g}, lights {by} stops", values)


def trail_shutter_s(physics: Physics) -> float | None:
    """The marked shutter that draws a trail of the wanted length [s]; None where none is wanted or nothing moves."""
    wanted, length = physics.scene.look.trail_m, physics.room_trail_m
    if physics.scene.look.room == "streaks":
        length = physics.streak_m
    if not wanted or length <= 0:
        return None
    return nearest_mark(physics.scene.exposure.shutter_s * wanted / length, SHUTTERS_S)


def followed_trail(scene: Scene) -> Values:
    """The shutter for the wanted trail, with ISO against power so that the trail is as bright as it should be."""
    physics = Physics(scene)
    mark, room = trail_shutter_s(physics), physics.ambient_offset_stops
    if mark is None or method_of(scene).by_hand:
        return ()
    shutter = ("exposure.shutter_s", mark)
    if room is None or not scene.lights:
        return (shutter,)
    under = scene.look.room_stops
    if under is not None:
        wanted = under
    elif scene.look.room == "streaks":
        # What streaks is not lit by the flash, and is seen by the room alone.
        wanted = VISIBLE_STOPS
    else:
        wanted = (physics.flash_offset_stops or 0.0) + VISIBLE_STOPS
    # The longer shutter has brightened the room already.
    after = room + math.log2(mark / scene.exposure.shutter_s)
    return (shutter, *against_each_other(scene, wanted - after))


def _for_trail(physics: Physics) -> Iterator[Change]:
    values = followed_trail(physics.scene)
    if not values:
        return
    shutter = format_shutter(dict(values)["exposure.shutter_s"])
    yield Change("ghost", shutter, values[:1])
    if len(values) > 1:
        iso = dict(values)["exposure.iso"]
        by = format_stops(math.log2(physics.scene.exposure.iso / iso))
        yield Change("ghost", f"{shutter} with ISO {iso:g}, lights {by} stops", values)


def _for_streaks(physics: Physics) -> Iterator[Change]:
    """A camera that follows; then the shutter that draws them as long as they should be."""
    if not physics.frame.follows:
        yield Change(
            "ghost", "the camera following", (("exposure.panning", {"error": None}),)
        )
        return
    level = physics.ambient_offset_stops
    yield from _for_trail(physics)
    if level is not None and level < VISIBLE_STOPS:
        brighter = _by_iso(physics, level - VISIBLE_STOPS, "ghost")
        yield from [brighter] if brighter else []


def followed_look(scene: Scene) -> Values:
    """What follows as soon as somebody says how the room should be: the settings that bring it there, if any can."""
    physics = Physics(scene)
    room, wanted = physics.ambient_offset_stops, scene.look.room_stops
    if scene.look.room in ("trail", "streaks"):
        return followed_trail(scene)
    if (
        scene.look.room != "lit"
        or room is None
        or wanted is None
        or not physics.method.flashes
    ):
        return ()
    return against_each_other(scene, wanted - room)
