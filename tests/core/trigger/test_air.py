"""Sound in air against CoolProp: dry, and moist as a mixture of real gases."""

from typing import Any

import pytest

from rapzel.core.shared.errors import OutOfRange
from rapzel.core.trigger.air import level_db, speed_of_sound_m_s

SEA_LEVEL_PA = 101_325.0
DRY = {"Nitrogen": 0.7812, "Oxygen": 0.2096, "Argon": 0.0092}


def moist_m_s(coolprop: Any, celsius: float, percent: float) -> float:
    """CoolProp's speed of sound in nitrogen, oxygen, argon and as much water as its humid-air model says."""
    kelvin = celsius + 273.15
    water = coolprop.HAPropsSI("Y", "T", kelvin, "P", SEA_LEVEL_PA, "R", percent / 100)
    air = coolprop.AbstractState("HEOS", "&".join([*DRY, "Water"]))
    air.set_mole_fractions([*(share * (1 - water) for share in DRY.values()), water])
    air.specify_phase(coolprop.iphase_gas)
    air.update(coolprop.PT_INPUTS, SEA_LEVEL_PA, kelvin)
    return float(air.speed_sound())


@pytest.mark.parametrize("celsius", [-20, 0, 10, 20, 30, 45])
@pytest.mark.parametrize("percent", [0, 50, 100])
def test_moist_air_against_coolprop(
    coolprop: Any, celsius: float, percent: float
) -> None:
    """Within 0.12 %: the dry formula is 0.06 % low, and moisture beyond 30 °C is carried on, not fitted."""
    assert speed_of_sound_m_s(celsius, percent) == pytest.approx(
        moist_m_s(coolprop, celsius, percent), rel=1.2e-3
    )
    gain = speed_of_sound_m_s(celsius, percent) - speed_of_sound_m_s(celsius)
    expected = moist_m_s(coolprop, celsius, percent) - moist_m_s(coolprop, celsius, 0)
    assert gain == pytest.approx(expected, abs=0.02 if celsius <= 30 else 0.3)


def test_two_centimetres_are_fifty_eight_microseconds() -> None:
    # common practice
    assert 0.02 / speed_of_sound_m_s(20) == pytest.approx(58e-6, abs=0.5e-6)


def test_levels_fall_by_six_decibels_a_doubling() -> None:
    assert level_db(2.0) == pytest.approx(-6.02, abs=0.01)
    assert level_db(0.5, from_m=0.5) == 0


@pytest.mark.parametrize(("celsius", "percent", "says"), [
    (20, 101, "humidity_percent is 101, but must be between 0 and 100"),
    (70, 50, "temperature_c is 70, but must be between -40 and 60"),
])  # fmt: skip
def test_what_is_not_air_is_refused(celsius: float, percent: float, says: str) -> None:
    with pytest.raises(OutOfRange, match=says):
        speed_of_sound_m_s(celsius, percent)
