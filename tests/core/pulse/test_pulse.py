"""Shapes against scipy.signal.peak_widths and numerical integration; tables against their own rows."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.signal import peak_widths

from rapzel.core.pulse import Plateau, pulse_at
from rapzel.core.pulse.setting import Setting
from rapzel.core.pulse.shape import Discharge, quenched_at, span_s

CLAIM = Setting(power=1.0, t01_s=0.0045, provenance="claimed")
MEASURED = Setting(power=1 / 256, t01_s=0.0001, provenance="measured")
TWO = (CLAIM, MEASURED)
SHAPES = {
    "full": Discharge(0.0019, 19e-6),
    "cut late": quenched_at(0.5, 0.0019, 19e-6, 40e-6),
    "cut at a sixteenth": quenched_at(1 / 16, 0.0019, 19e-6, 40e-6),
    "cut in the rise": quenched_at(1 / 512, 0.0019, 19e-6, 40e-6),
    "all afterglow": quenched_at(1 / 256, 0.0019, 5e-6, 300e-6),
}


@pytest.mark.parametrize("shape", SHAPES.values(), ids=SHAPES)
@pytest.mark.parametrize(("level", "rel_height"), [(0.5, 0.5), (0.1, 0.9)])
def test_widths_agree_with_scipy_peak_widths(
    shape: Discharge, level: float, rel_height: float
) -> None:
    # scipy measures from the foot of the tail, which must be at nothing
    length = shape.width_s(0.01) * 3
    times = np.linspace(-length * 0.02, length, 800_001)
    samples = np.where(times >= 0, shape.intensity(times), 0.0)
    found = peak_widths(samples, [int(np.argmax(samples))], rel_height=rel_height)[0][
        0
    ] * (times[1] - times[0])
    assert shape.width_s(level) == pytest.approx(found, rel=2e-3)


@pytest.mark.parametrize("shape", SHAPES.values(), ids=SHAPES)
def test_the_running_integral_is_the_integral_of_the_intensity(
    shape: Discharge,
) -> None:
    end = shape.time_at_s(0.9999) * 2
    kinks = [t for t in (shape.peak_s, shape.quench_s) if math.isfinite(t)]
    whole = quad(shape.intensity, 0, end, points=kinks, limit=400)[0]
    for until in np.linspace(0.1, 1, 5) * shape.time_at_s(0.95):
        inside = [t for t in kinks if t < until]
        part = quad(shape.intensity, 0, until, points=inside or None, limit=400)[0]
        assert float(shape.cumulative(until)) == pytest.approx(part / whole, abs=2e-4)


@pytest.mark.parametrize("shape", SHAPES.values(), ids=SHAPES)
def test_time_at_a_share_undoes_the_running_integral(shape: Discharge) -> None:
    for share in (0.05, 0.5, 0.933, 0.95):
        assert float(shape.cumulative(shape.time_at_s(share))) == pytest.approx(
            share, abs=1e-6
        )


def test_a_pure_exponential_has_the_widths_of_the_textbook() -> None:
    """t.5 = τ ln 2, t.1 = τ ln 10, ratio 3.322, reached as the rise becomes short."""
    shape = Discharge(decay_s=1e-3, rise_s=1e-9)
    assert shape.width_s(0.5) == pytest.approx(1e-3 * math.log(2), rel=1e-3)
    assert shape.width_s(0.1) == pytest.approx(1e-3 * math.log(10), rel=1e-3)
    assert shape.width_s(0.1) / shape.width_s(0.5) == pytest.approx(3.322, rel=1e-3)


@given(st.floats(-9, -0.01), st.floats(1e-4, 1e-2), st.floats(0.001, 0.2))
@settings(max_examples=60)
def test_power_is_a_share_of_the_energy(
    stops: float, decay_s: float, afterglow_share: float
) -> None:
    power, rise = 2.0**stops, decay_s / 100
    shape = quenched_at(power, decay_s, rise, decay_s * afterglow_share)
    assert shape.energy_s / (decay_s - rise) == pytest.approx(power, rel=1e-5)


def test_stretching_multiplies_every_time() -> None:
    shape = SHAPES["cut at a sixteenth"]
    twice = shape.stretched(2)
    assert twice.width_s(0.1) == pytest.approx(2 * shape.width_s(0.1))
    assert span_s(twice) == pytest.approx(2 * span_s(shape))


def test_plateau_is_a_rectangle() -> None:
    plateau = Plateau(0.004)
    assert plateau.width_s(0.1) == plateau.width_s(0.9) == 0.004
    assert span_s(plateau) == pytest.approx(0.9 * 0.004)
    assert plateau.cumulative([-1, 0.001, 1]).tolist() == pytest.approx([0, 0.25, 1])


# --- tables ---------------------------------------------------------------------------------------------------------


def test_known_settings_come_back_with_their_provenance() -> None:
    full, low = pulse_at("quenched", TWO, 1.0), pulse_at("quenched", TWO, 1 / 256)
    assert (full.t01_s, full.provenance) == (pytest.approx(0.0045), "claimed")
    assert (low.t01_s, low.provenance) == (pytest.approx(0.0001), "measured")
    assert full.shape.width_s(0.1) == pytest.approx(0.0045)


def test_between_two_settings_the_circuit_is_fitted_and_said_to_be_estimated() -> None:
    curve = [pulse_at("quenched", TWO, 2.0**-stop) for stop in range(9)]
    assert all(known.provenance == "estimated" for known in curve[1:-1])
    assert curve[4].basis == "fitted to the 2 known settings"
    durations = [known.t01_s for known in curve]
    assert durations == sorted(durations, reverse=True), (
        "a quenched strobe gets shorter with less power"
    )
    ratios = [known.t01_s / known.t05_s for known in curve]
    assert min(ratios[1:4]) < 1.4 < ratios[0], (
        "a cut tail brings t.1 close to t.5 at middle powers"
    )
    assert ratios[-1] > 2.5, "near the floor the afterglow dominates both"


def test_three_settings_are_interpolated_monotonously() -> None:
    table = (*TWO, Setting(power=1 / 16, t01_s=0.0003, provenance="measured"))
    between = [
        pulse_at("quenched", table, power) for power in np.geomspace(1 / 256, 1, 40)
    ]
    durations = [known.t01_s for known in between]
    assert all(a <= b * 1.0001 for a, b in pairwise(durations))
    assert pulse_at("quenched", table, 1 / 16).t01_s == pytest.approx(0.0003)
    assert (
        pulse_at("quenched", table, 1 / 8).basis
        == "interpolated between 3 known settings"
    )
    assert (
        pulse_at("quenched", table, 1 / 400).basis
        == "extrapolated beyond the 3 known settings"
    )


def test_the_shape_is_stretched_to_the_table() -> None:
    table = (*TWO, Setting(power=1 / 16, t01_s=0.0003, provenance="measured"))
    for power in (1.0, 1 / 8, 1 / 16, 1 / 100):
        known = pulse_at("quenched", table, power)
        assert known.shape.width_s(0.1) == pytest.approx(known.t01_s, rel=1e-6)


@pytest.mark.parametrize(("circuit", "factor"), [("voltage", 1.0), ("banks", 0.25)])
def test_other_circuits_with_one_known_setting(circuit: str, factor: float) -> None:
    quarter = pulse_at(circuit, (CLAIM,), 0.25)
    assert quarter.t01_s == pytest.approx(0.0045 * factor)
    assert quarter.provenance == "estimated"
    assert 3.0 < quarter.t01_s / quarter.t05_s < 3.33, (
        "an uncut tail: about three times, common practice"
    )


def test_a_voltage_strobe_may_become_longer_with_less_power() -> None:
    table = (CLAIM, Setting(power=1 / 16, t01_s=0.006, provenance="measured"))
    assert 0.0045 < pulse_at("voltage", table, 1 / 4).t01_s < 0.006


def test_a_claimed_t05_becomes_an_estimated_t01() -> None:
    known = pulse_at(
        "voltage", (Setting(power=1.0, t05_s=0.001, provenance="claimed"),), 1.0
    )
    assert known.t05_s == pytest.approx(0.001)
    # × 3.322 for a bare exponential, a little less with a rise
    assert known.t01_s == pytest.approx(0.00322, rel=0.03)
    assert known.provenance == "estimated"
    assert "claimed t.5" in known.basis


def test_a_measurement_outranks_a_claim_at_the_same_power() -> None:
    table = (CLAIM, Setting(power=1.0, t01_s=0.0060, provenance="measured"), MEASURED)
    known = pulse_at("quenched", table, 1.0)
    assert (known.t01_s, known.provenance) == (pytest.approx(0.0060), "measured")


@pytest.mark.parametrize("low_t01", [1e-6, 0.0044, 0.01])
def test_figures_that_no_quenched_circuit_has_are_interpolated_instead(
    low_t01: float,
) -> None:
    table = (CLAIM, Setting(power=1 / 256, t01_s=low_t01, provenance="claimed"))
    known = pulse_at("quenched", table, 1 / 16)
    low, high = sorted((low_t01, 0.0045))
    assert low <= known.t01_s <= high
    assert math.isfinite(known.t05_s)


def test_a_highest_known_setting_below_full_still_anchors_the_decay() -> None:
    table = (Setting(power=0.25, t01_s=0.0006, provenance="measured"), MEASURED)
    assert pulse_at("quenched", table, 0.25).t01_s == pytest.approx(0.0006)
    assert pulse_at("quenched", table, 1.0).t01_s > 0.0006
