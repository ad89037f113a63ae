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
    "Sunset, open sky": 8.0,
    "Overcast day": 12.0,
    "Sunny day": 15.0,
}


def ev100_from_lux(lux: float) -> float:
    """EV at ISO 100 of an illuminance [lx]: E·S/C = N²/t with C = 250 (ISO 2720)."""
    return math.log2(lux * 100 / constants.FLAT_RECEPTOR_C)


def lamp_lux(lux_1m: float, distance_m: float, loss_stops: float, count: int) -> float:
    """Illuminance by so many alike lamps [lx], each a point: E = E₁ₘ / d² · 2^−loss (ISO 2720's photometric terms)."""
    return float(count * lux_1m / distance_m**2 * 2.0**-loss_stops)


def together_ev100(ev100: float | None, lux: float) -> float | None:
    """EV at ISO 100 of a room and lamps together; None for neither."""
    if lux <= 0:
        return ev100
    lamps = ev100_from_lux(lux)
    if ev100 is None:
        return lamps
    # EVs are logarithms: light adds up below them.
    return float(np.logaddexp2(ev100, lamps))


def ev100_from_reading(f_number: float, shutter_s: float, iso: float) -> float:
    """EV at ISO 100 of a meter reading: log2(N²/t) − log2(ISO/100)."""
    return math.log2(f_number**2 / shutter_s) - math.log2(iso / 100)


def room_offset_stops(
    ev100: Number,
    iso: Number,
    f_number: Number,
    shutter_s: Number,
    filter_stops: Number,
    bellows_stops: Number,
) -> Number:
    """Exposure by the room alone [stops]: EV100 + log2(ISO/100) − log2(N²/t) − filters − bellows."""
    return (
        ev100
        + np.log2(iso / 100)
        - np.log2(f_number**2 / shutter_s)
        - filter_stops
        - bellows_stops
    )
