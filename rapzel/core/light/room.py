"""The room: how far its light is under the flash (science §6)."""

import math

from rapzel.core.document.scene import Ambient, Exposure
from rapzel.core.shared import constants
from rapzel.core.shared.working import Step, step

# Usual rooms and skies, as EV at ISO 100; (memory), to be replaced by a meter reading.
PRESETS = {
    "Dark studio": -3.0,
    "Candle light": 3.0,
    "Stage, dim": 5.0,
    "Room with lamps": 6.0,
    "Sports hall": 8.0,
    "Dusk": 9.0,
    "Overcast day": 12.0,
    "Sunny day": 15.0,
}


def ev100_from_lux(lux: float) -> float:
    """EV at ISO 100 of an illuminance [lx]: E·S/C = N²/t with C = 250 (ISO 2720)."""
    return math.log2(lux * 100 / constants.FLAT_RECEPTOR_C)


def ev100_from_reading(f_number: float, shutter_s: float, iso: float) -> float:
    """EV at ISO 100 of a meter reading: log2(N²/t) − log2(ISO/100)."""
    return math.log2(f_number**2 / shutter_s) - math.log2(iso / 100)


def ev100_of(ambient: Ambient) -> tuple[float | None, Step | None]:
    """EV at ISO 100 of the room with its working; None for a dark room."""
    if ambient.ev100 is not None:
        return ambient.ev100, step("EV100", ambient.ev100, "EV", "as given", constants.SOURCE_DEFINITION)
    if ambient.lux is not None:
        value = ev100_from_lux(ambient.lux)
        return value, step(
            "EV100", value, "EV", f"log2(E · 100 / C), E = {ambient.lux:g} lx", constants.SOURCE_ISO_2720
        )
    if ambient.meter is not None:
        value = ev100_from_reading(ambient.meter.f_number, ambient.meter.shutter_s, ambient.meter.iso)
        return value, step("EV100", value, "EV", "log2(N²/t) − log2(ISO/100) of the reading", constants.SOURCE_ISO_2720)
    return None, None


def ambient_offset_stops(ev100: float, exposure: Exposure) -> float:
    """Exposure by the room alone [stops, 0 is correct]: EV100 + log2(ISO/100) − log2(N²/t) − ND."""
    return (
        ev100 + math.log2(exposure.iso / 100) - math.log2(exposure.f_number**2 / exposure.shutter_s) - exposure.nd_stops
    )
