"""Smoothing: as much as the noise asks for, and never across a sudden flank."""

import math

import numpy as np
import pytest

from rapzel.core.trace.measuring.smoothing import smoothed, smoothing, sudden

DT = 1e-6
T = np.arange(4000) * DT
TAU = 400e-6
TAIL = np.where(T >= 200e-6, np.exp(-np.maximum(T - 200e-6, 0) / TAU), 0.0)
WIDTH = 101


def ramp(length: int, first: int = 1000, end: int = 3000) -> np.ndarray:
    """Up from 0 to 1 over so many samples from `first` on, and down at once at `end`."""
    x = np.arange(4000.0)
    return np.where(x < end, np.clip((x - first + 1) / max(length, 1), 0.0, 1.0), 0.0)


@pytest.mark.parametrize(
    ("sd", "smooths"), [(0.0, False), (0.0005, False), (0.01, True), (0.05, True)]
)
def test_only_noisy_curves_are_smoothed_and_never_over_much_of_the_pulse(
    sd: float, smooths: bool
) -> None:
    curve = TAIL + np.random.default_rng(2).normal(0, sd, len(T)) if sd else TAIL
    width = smoothing(curve, sd)
    assert (width > 1) == smooths
    assert width % 2 == 1
    assert width <= 0.12 * TAU * math.log(2) / DT + 1


def test_smoothing_leaves_parabolas_alone_and_quiets_noise() -> None:
    bend = (T / T[-1]) ** 2
    assert smoothed(bend, 51)[100:-100] == pytest.approx(bend[100:-100], abs=1e-12)
    rough = np.random.default_rng(3).normal(0, 1, 20_000)
    # Savitzky and Golay 1964: a quadratic over n points keeps 9/(4 n) of the variance, for n large.
    assert smoothed(rough, 101)[200:-200].std() == pytest.approx(
        math.sqrt(9 / (4 * 101)), rel=0.05
    )


@pytest.mark.parametrize("sd", [0.01, 0.1])
def test_a_jump_is_found_to_the_sample_and_left_standing(sd: float) -> None:
    for seed in range(20):
        box = ramp(1) + np.random.default_rng(seed).normal(0, sd, len(T))
        up, down = sudden(box, WIDTH)
        assert up == pytest.approx((1000, 1000), abs=1)
        assert down == pytest.approx((3000, 3000), abs=1)
        shape = smoothed(box, WIDTH)
        assert abs(shape[990]) < 5 * sd / math.sqrt(WIDTH)
        assert abs(shape[1010] - 1) < 5 * sd / math.sqrt(WIDTH)


@pytest.mark.parametrize("length", [4, 10, 20])
def test_a_short_ramp_keeps_its_length(length: int) -> None:
    curve = ramp(length) + np.random.default_rng(1).normal(0, 0.005, len(T))
    first, last = sudden(curve, WIDTH)[0]
    assert first == pytest.approx(1000, abs=2)
    assert last - first == pytest.approx(length, abs=0.4 * length)
    shape = smoothed(curve, WIDTH)
    tenth, ninth = (int(np.argmax(shape > level)) for level in (0.1, 0.9))
    assert ninth - tenth == pytest.approx(0.8 * length, abs=2)


@pytest.mark.parametrize(
    "curve",
    [
        ramp(400, end=4000),
        np.exp(-(((T - 2e-3) / 4e-4) ** 2)),
        0.3 * ramp(1) + T / T[-1],
    ],
)
def test_what_is_slow_or_low_is_no_sudden_flank(curve: np.ndarray) -> None:
    assert sudden(curve, WIDTH) == []


def test_a_sudden_rise_leaves_the_decay_unbent() -> None:
    shape = smoothed(TAIL, 41)
    assert shape == pytest.approx(TAIL, abs=0.002)
    assert int(np.argmax(shape)) == pytest.approx(200, abs=1)


def test_a_short_curve_is_left_as_it_is() -> None:
    few = np.array([0.0, 1.0, 1.0, 0.0])
    assert smoothed(few, 5) is few
    assert sudden(few, 5) == []
