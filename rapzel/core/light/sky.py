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
    direct = sun_beam_lux(elevation_deg) * sine
    return direct + 800 + 15_500 * math.sqrt(sine)


def sky_ev100(state: str, elevation_deg: float) -> tuple[float, float, float]:
    """EV at ISO 100 under a sky: usual, least and most. At night the most has a full moon in it, and no lamps."""
    sky, clear = SKIES[state], ev100_from_lux(clear_lux(elevation_deg))
    most = clear + sky.high_stops
    # By day the moon adds nothing that anybody could meter.
    if elevation_deg < 0:
        most = float(np.logaddexp2(most, ev100_from_lux(_FULL_MOON_LUX)))
    return clear + sky.stops, clear + sky.low_stops, most


# How much of the sun's beam a standing subject catches, against a plane that is turned to it. A round body that is lit
# from the side catches on what the camera sees 1/4 where one that is lit from the front catches π/4.
FACINGS = {"sun": 1.0, "across": 1 / math.pi, "away": 0.0}
# How much of the beam each state leaves; where it leaves none, its own steps are those of a standing subject (memory).
_BEAM = {"clear": 1.0, "haze": 0.5}
_GROUND = 0.1  # of the light on the level comes back from it to a standing plane
_FORM_DOUBT = 0.3  # of a subject that is no plane (memory)
_GLOW_DOUBT = 0.7  # of a sky without sun, brighter on the side where it set (memory)


def facing_stops(
    state: str, elevation_deg: float, facing: str | None
) -> tuple[float, float, float]:
    """A standing subject against level ground by where what the camera sees is turned [stops]: usual, least and most.

    facing: a key of `FACINGS`; None is not said, and anything from away to the sun. Source: the IES clear sky (memory).
    """
    beam = _BEAM.get(state, 0.0)
    if not beam:
        return 0.0, 0.0, 0.0
    doubt = _GLOW_DOUBT if elevation_deg < 0 else _FORM_DOUBT
    if facing is not None:
        stops = beam * _standing_stops(elevation_deg, FACINGS[facing])
        return stops, stops - doubt, stops + doubt
    away = beam * _standing_stops(elevation_deg, FACINGS["away"])
    towards = beam * _standing_stops(elevation_deg, FACINGS["sun"])
    # In twilight both are the same, and nobody has said that it is a standing subject's.
    return 0.0, min(away, 0.0) - doubt, max(towards, 0.0) + doubt


def sun_beam_lux(elevation_deg: float) -> float:
    """The sun's beam on a plane that is turned to it, under a clear sky [lx]; 0 below the horizon. IES (memory)."""
    sine = math.sin(math.radians(elevation_deg))
    if sine <= 0:
        return 0.0
    return 127_500 * math.exp(-0.21 / sine)


def _standing_stops(elevation_deg: float, caught: float) -> float:
    """A vertical plane that catches such a share of the beam against level ground, under a clear sky [stops]."""
    height = math.radians(max(elevation_deg, 0.0))
    sine = math.sin(height)
    beam_klx = sun_beam_lux(elevation_deg) / 1000
    diffuse_klx = 0.8 + 15.5 * math.sqrt(sine)
    level_klx = beam_klx * sine + diffuse_klx
    # A plane that stands sees half of the sky, and the ground.
    plane_klx = (
        caught * beam_klx * math.cos(height) + diffuse_klx / 2 + _GROUND * level_klx
    )
    return math.log2(plane_klx / level_klx)


def subject_ev100(
    state: str, elevation_deg: float, facing: str | None
) -> tuple[float, float, float]:
    """EV at ISO 100 on a standing subject under a sky: usual, least and most."""
    level = sky_ev100(state, elevation_deg)
    turned = facing_stops(state, elevation_deg, facing)
    usual = level[0] + turned[0]
    # The sky's own doubt and the subject's are independent of each other.
    below = math.hypot(level[0] - level[1], turned[0] - turned[1])
    above = math.hypot(level[2] - level[0], turned[2] - turned[0])
    return usual, usual - below, usual + above
