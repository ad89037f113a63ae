"""Conversions of light figures against each other and against worked examples of the definitions."""

import math

import pytest

from rapzel.core.shared.errors import OutOfRange
from rapzel.core.strobes import leaflets


def test_luminous_exposure_by_the_standard() -> None:
    """ISO 2720: N² = H · S / C with C = 250 for a flat receptor; 160 lx s at 1 m and ISO 100 give f/8, so GN 8."""
    assert leaflets.from_lux_seconds(160, 1).guide_number_m == pytest.approx(8)
    assert leaflets.from_lux_seconds(640, 1).guide_number_m == pytest.approx(16)


def test_every_way_meets_the_same_light() -> None:
    """GN 50 at ISO 100: f/10 at 5 m; H at 5 m from N² = H·100/250; I = H·d². ISO 2720 and ISO 1230 together."""
    lux_s = 10.0**2 * 250 / 100
    assert leaflets.from_f_number(10, 5).guide_number_m == pytest.approx(50)
    assert leaflets.from_lux_seconds(lux_s, 5).guide_number_m == pytest.approx(50)
    assert leaflets.from_bcps(lux_s * 25).guide_number_m == pytest.approx(50)
    assert leaflets.from_guide_number(
        50 * math.sqrt(2), iso=200
    ).guide_number_m == pytest.approx(50)


def test_scaling() -> None:
    base = leaflets.from_f_number(8, 2).guide_number_m
    assert leaflets.from_f_number(8, 2, power=1 / 4).guide_number_m == pytest.approx(
        2 * base
    )
    assert leaflets.from_f_number(8, 2, iso=400).guide_number_m == pytest.approx(
        base / 2
    )
    assert leaflets.from_watt_seconds(400).guide_number_m == pytest.approx(
        2 * leaflets.from_watt_seconds(100).guide_number_m
    )


def test_each_says_how_sure_it_is() -> None:
    spreads = [
        leaflets.from_f_number(8, 2).spread_stops,
        leaflets.from_guide_number(50).spread_stops,
        leaflets.from_watt_seconds(300).spread_stops,
    ]
    assert spreads == sorted(spreads)
    assert leaflets.from_watt_seconds(300).provenance == "estimated"
    assert leaflets.from_watt_seconds(300).source == "memory"
    with pytest.raises(
        OutOfRange, match="energy_ws is 0, but must be a number above 0"
    ):
        leaflets.from_watt_seconds(0)


def test_own_hss_loss_is_what_the_slit_leaves() -> None:
    # T_c = 3 ms, t_s = 1 ms: the slit alone costs log2(4) = 2 stops.
    assert leaflets.own_hss_loss_stops(2.7, 3e-3, 1e-3) == pytest.approx(0.7)
    assert leaflets.own_hss_loss_stops(1.5, 3e-3, 1e-3) == 0.0
