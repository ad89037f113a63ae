"""Sound on its way through air: how fast it is, and how loud it arrives (science §11)."""

import math

from rapzel.core.shared import constants
from rapzel.core.shared.errors import OutOfRange

_MOIST_FROM_C, _MOIST_TO_C = 0.0, 30.0  # within these Cramer's polynomial was fitted
_COLDEST_C, _HOTTEST_C = -40.0, 60.0  # of air in which anybody photographs
_PRESSURE_PA = 101_325.0


def speed_of_sound_m_s(
    temperature_c: float, humidity_percent: float | None = None
) -> float:
    """Speed of sound in air [m/s]: 331.3 √(1 + T/273.15), 2.9 ms per metre at 20 °C; with moisture a little more.

    humidity_percent: relative humidity 0 … 100, None for dry air. Checked against CoolProp. Raises OutOfRange for a
    humidity outside its range, or beside a temperature outside −40 … 60 °C.
    """
    dry = constants.SOUND_AT_0C_M_S * math.sqrt(
        1 + temperature_c / constants.ZERO_CELSIUS_K
    )
    if humidity_percent is None:
        return dry
    if not 0 <= humidity_percent <= 100:
        raise OutOfRange("humidity_percent", humidity_percent, "between 0 and 100")
    if not _COLDEST_C <= temperature_c <= _HOTTEST_C:
        allowed = f"between {_COLDEST_C:g} and {_HOTTEST_C:g} where a humidity is given"
        raise OutOfRange("temperature_c", temperature_c, allowed)
    return dry + _moisture_gain_m_s(
        temperature_c, _water_share(temperature_c, humidity_percent)
    )


def _water_share(temperature_c: float, humidity_percent: float) -> float:
    """Mole fraction of water vapour at sea level (Davis 1992, CIPM-81/91, as Cramer uses it)."""
    kelvin = temperature_c + constants.ZERO_CELSIUS_K
    # Coefficients as published; temperatures in kelvin here, in degrees below.
    saturated_pa = math.exp(
        1.2811805e-5 * kelvin**2
        - 1.9509874e-2 * kelvin
        + 34.04926034
        - 6353.6311 / kelvin
    )
    enhanced = 1.00062 + 3.14e-8 * _PRESSURE_PA + 5.6e-7 * temperature_c**2
    return humidity_percent / 100 * enhanced * saturated_pa / _PRESSURE_PA


def _moisture_gain_m_s(temperature_c: float, water: float) -> float:
    """What water vapour adds [m/s]: the terms in x_w of Cramer 1993, JASA 93, eq. 15.

    The polynomial was fitted from 0 to 30 °C; outside, the coefficients of the nearer end are taken with the real
    share of water. Against CoolProp's mixture within 0.02 m/s from −20 to 30 °C, 0.3 m/s at 45 °C.
    """
    # A polynomial runs away outside of what it was fitted to; its coefficients hardly change there.
    at = min(max(temperature_c, _MOIST_FROM_C), _MOIST_TO_C)
    return (51.471935 + 0.1495874 * at - 0.000782 * at**2) * water - 2.835149 * water**2


def level_db(distance_m: float, from_m: float = 1.0) -> float:
    """Level of a small source at a distance against its level at `from_m` [dB]: −20 log10(d / d0), no walls."""
    return -20 * math.log10(distance_m / from_m)
