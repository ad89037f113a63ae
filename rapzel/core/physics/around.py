"""The room's own light in a scene: how bright it is, how well that is known, and whether it flickers (science §6)."""

import math

from rapzel.core.document.scene import Scene
from rapzel.core.document.surroundings import Ambient
from rapzel.core.light import room
from rapzel.core.physics import daylight
from rapzel.core.shared import constants
from rapzel.core.shared.working import Step, step


def room_ev100(ambient: Ambient) -> tuple[float | None, Step | None]:
    """EV at ISO 100 of the room without lamps, with its working; None for a dark room."""
    if ambient.ev100 is not None:
        return ambient.ev100, step(
            "EV100", ambient.ev100, "EV", "as given", constants.SOURCE_DEFINITION
        )
    if ambient.lux is not None:
        value = room.ev100_from_lux(ambient.lux)
        formula = f"log2(E · 100 / C), E = {ambient.lux:g} lx"
    elif ambient.meter is not None:
        meter = ambient.meter
        value = room.ev100_from_reading(meter.f_number, meter.shutter_s, meter.iso)
        formula = "log2(N²/t) − log2(ISO/100) of the reading"
    elif ambient.sky is not None:
        return daylight.ev100_of(ambient.sky)
    else:
        return None, None
    return value, step("EV100", value, "EV", formula, constants.SOURCE_ISO_2720)


def lamps_lux(scene: Scene, shutter_s: float) -> float:
    """Illuminance by the lamps [lx], mean over an opening: one that is lit for a part of it counts by that part."""
    return sum(
        room.lamp_lux(lamp.lux_1m, lamp.distance_m, lamp.loss_stops, lamp.count)
        * min((lamp.lit_s or shutter_s) / shutter_s, 1.0)
        for lamp in scene.lamps
    )


def room_doubt_stops(ambient: Ambient) -> float:
    """How far the room without lamps may be off [stops]."""
    if ambient.sky is not None:
        return daylight.doubt_stops(ambient.sky)
    # Each way to know the room has a doubt of its own: a meter is better than a word for the
    # room.
    ways = (
        ("ev100", ambient.ev100),
        ("lux", ambient.lux),
        ("meter", ambient.meter),
    )
    return next(
        (constants.ROOM_DOUBT[name] for name, value in ways if value is not None),
        0.0,
    )


def with_lamps_stops(room_stops: float, room_ev: float | None, lux: float) -> float:
    """The doubt of room and lamps together [stops]: each by its share of their light.

    room_stops: the room's own doubt; room_ev: its EV at ISO 100, None in the dark; lux: of the lamps.
    """
    if lux <= 0:
        return room_stops
    together = room.together_ev100(room_ev, lux)
    assert together is not None, "the lamps are there"
    part = 2.0 ** (room.ev100_from_lux(lux) - together)
    return math.hypot(part * constants.LAMP_DOUBT, (1 - part) * room_stops)


def may_flicker(scene: Scene) -> bool:
    """Whether the room has light that may come from lamps, and nobody has said whether it flickers."""
    ambient = scene.ambient
    if ambient.unsteady is not None:
        return False
    if scene.lamps:
        return True
    level = room_ev100(ambient)[0]
    # No hall by lamps is brighter; what is lit by the sky has it from the sun.
    lit = level is not None and level <= constants.BRIGHTEST_LAMPS_EV
    return lit and ambient.sky is None
