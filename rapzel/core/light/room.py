"""The room's own light: EV from what is known of it, and how it exposes the picture (science §6).

Plain functions of numbers or arrays; EV at ISO 100, illuminance in lux, exposures in stops (0 is correct).
"""

import math

import numpy as np
import numpy.typing as npt

from rapzel.core.shared import constants

Number = float | npt.NDArray[np.float64]

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


def room_offset_stops(
    ev100: Number,
    iso: Number,
    f_number: Number,
    shutter_s: Number,
    nd_stops: Number,
    bellows_stops: Number,
) -> Number:
    """Exposure by the room alone [stops]: EV100 + log2(ISO/100) − log2(N²/t) − ND − bellows."""
    return ev100 + np.log2(iso / 100) - np.log2(f_number**2 / shutter_s) - nd_stops - bellows_stops
