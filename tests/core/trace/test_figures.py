"""The ruler itself: crossings, peaks and integrals on curves that are known."""

import math

import numpy as np
import pytest

from rapzel.core.trace.measuring.figures import measure
from rapzel.core.trace.measuring.smoothing import smoothed

DT = 1e-6
T = np.arange(4000) * DT
TAU = 400e-6
TAIL = np.where(T >= 200e-6, np.exp(-np.maximum(T - 200e-6, 0) / TAU), 0.0)


def test_a_straight_flank_is_read_between_samples() -> None:
    ramp = np.interp(np.arange(400.0), [0, 100, 150, 350, 399], [0, 0, 1, 0, 0])
    found = measure(ramp, DT, 0.0)
    # By hand: up from sample 100 to 150, down from 150 to 350; each level is reached between samples.
    assert found.first05_s == pytest.approx(125 * DT)
    assert found.last05_s == pytest.approx(250 * DT)
    assert found.first01_s == pytest.approx(105 * DT)
    assert found.last01_s == pytest.approx(330 * DT)
    assert found.rise_s == pytest.approx(40 * DT)
    assert found.time_to_peak_s == pytest.approx(45 * DT)
    assert found.light_integral == pytest.approx(125 * DT)


def test_five_to_ninety_five_percent_of_a_rectangle_is_nine_tenths_of_it() -> None:
    box = np.where((T >= 1e-3) & (T < 2e-3), 1.0, 0.0)
    assert measure(box, DT, 0.0).light_span_s == pytest.approx(0.9e-3, rel=2e-3)


def test_the_span_of_an_exponential_by_its_own_integral() -> None:
    assert measure(TAIL, DT, 0.0).light_span_s == pytest.approx(
        TAU * math.log(0.95 / 0.05), rel=5e-3
    )


def test_a_curve_that_never_falls_or_begins_lit_has_no_width() -> None:
    rising = measure(np.minimum(T / 1e-3, 1.0), DT, 0.0)
    assert (rising.t05_s, rising.t01_s, rising.last01_s) == (None, None, None)
    assert rising.ends_at == pytest.approx(1.0)
    begun = measure(np.exp(-T / TAU), DT, 0.0)
    assert begun.first05_s is None
    assert begun.rise_s is None
    assert begun.light_span_s is None


def test_overshoot_beside_an_edge_is_not_taken_for_a_peak() -> None:
    step = np.where(T >= 1e-3, 0.65, 0.0) + np.where(
        (T >= 2e-3) & (T < 3e-3), 0.35, 0.0
    )
    assert smoothed(step, 101).max() > 1.01
    assert measure(step, DT, 0.01, width=101).peak == 1.0


@pytest.mark.parametrize("seed", range(4))
def test_a_touch_of_noise_far_ahead_does_not_begin_the_pulse(seed: int) -> None:
    curve = TAIL + np.random.default_rng(seed).normal(0, 0.03, len(T))
    curve[5:9] += 0.5
    found = measure(curve, DT, 0.03)
    assert found.first01_s == pytest.approx(200e-6, abs=25e-6)
