"""Daylight by the height of the sun and the state of the sky, through twilight into the night (science §6).

Elevations in degrees, light in EV at ISO 100 for an incident reading on a surface that looks up.
"""

import math
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from astral import Observer
from astral.sun import elevation

from rapzel.core.light.room import ev100_from_lux


@dataclass(frozen=True)
class Sky:
    """A state of the sky: how far it is from a clear one [stops], least to most, and where that is from."""

    title: str
    stops: float
    low_stops: float
    high_stops: float
    source: str


_GUIDE = "exposure guides' steps from sun to shade (memory)"
SKIES: dict[str, Sky] = {
    "clear": Sky("clear, sun", 0.0, -0.4, 0.4, "Explanatory Supplement to the Almanac, clear sky (memory)"),
    "haze": Sky("haze or thin cloud", -1.0, -1.6, -0.4, _GUIDE),
    "cloud": Sky("bright cloud", -2.0, -2.7, -1.3, _GUIDE),
    "heavy": Sky("heavy cloud", -3.3, -4.5, -2.3, _GUIDE),
    "shade": Sky("open shade under a clear sky", -3.0, -3.8, -2.2, _GUIDE),
}  # fmt: skip
# Illuminance of a level surface under a clear sky by the sun's elevation, without moon. Explanatory Supplement to the
# Astronomical Almanac (1992), table of sun and twilight, to 20°; above by sun through a clear atmosphere and its sky
# (IES, 127.5 klx · e^(−0.21 / sin h) · sin h + 0.8 + 15.5 √sin h klx). Both (memory).
_CLEAR_LUX = (
    (-18.0, 6.51e-4), (-12.0, 8.31e-3), (-6.0, 3.40), (-0.8, 453.0), (5.0, 4760.0), (10.0, 10_900.0),
    (15.0, 18_700.0), (20.0, 27_300.0),
)  # fmt: skip
_STEEP_FROM = 30.0
_FULL_MOON_LUX = 0.3  # at most; (memory)
TWILIGHTS = (
    (-0.833, "sunset"),
    (-6.0, "civil"),
    (-12.0, "nautical"),
    (-18.0, "astronomical"),
)


def sun_elevation_deg(latitude_deg: float, longitude_deg: float, at: datetime) -> float:
    """Height of the sun above the horizon with refraction [°]; `at` knows its offset from UTC."""
    return float(elevation(Observer(latitude_deg, longitude_deg), at))


def clear_lux(elevation_deg: float) -> float:
    """Illuminance of a level surface under a clear sky without moon [lx]; that of a starlit night below −18°."""
    heights = [height for height, _ in _CLEAR_LUX] + [_STEEP_FROM]
    lux = [value for _, value in _CLEAR_LUX] + [_steep_lux(_STEEP_FROM)]
    if elevation_deg >= _STEEP_FROM:
        return _steep_lux(elevation_deg)
    # Through twilight light falls by the thousand: straight lines between its logarithms.
    return float(2.0 ** np.interp(elevation_deg, heights, np.log2(lux)))


def _steep_lux(elevation_deg: float) -> float:
    sine = math.sin(math.radians(elevation_deg))
    # Through 1 / sin h of the air of the zenith, on a surface that the sun meets at h.
    direct = 127_500 * math.exp(-0.21 / sine) * sine
    return direct + 800 + 15_500 * math.sqrt(sine)


def sky_ev100(state: str, elevation_deg: float) -> tuple[float, float, float]:
    """EV at ISO 100 under a sky: usual, least and most. At night the most has a full moon in it, and no lamps."""
    sky, clear = SKIES[state], ev100_from_lux(clear_lux(elevation_deg))
    most = clear + sky.high_stops
    # By day the moon adds nothing that anybody could meter.
    if elevation_deg < 0:
        most = float(np.logaddexp2(most, ev100_from_lux(_FULL_MOON_LUX)))
    return clear + sky.stops, clear + sky.low_stops, most
