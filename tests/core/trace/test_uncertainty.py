"""Uncertainties against what error propagation gives by hand."""

import math

import numpy as np
import pytest

from rapzel.core.trace.measuring import uncertainty
from rapzel.core.trace.measuring.figures import measure

TAU, DT = 1e-3, 2e-6
T = np.arange(6000) * DT
TAIL = np.where(T >= 1e-3, np.exp(-np.maximum(T - 1e-3, 0) / TAU), 0.0)


def test_a_clean_curve_is_as_sure_as_its_sampling() -> None:
    found = uncertainty.of(TAIL, DT, 0.0, measure(TAIL, DT, 0.0), 0.0)
    # Two crossings, each evenly likely within an interval: 2 · dt/√6 for a coverage of two deviations.
    assert found["u_t05_s"] == pytest.approx(2 * DT / math.sqrt(6))
    assert found["u_t01_s"] == pytest.approx(2 * DT / math.sqrt(6))
    assert found["u_light_integral"] == 0


def test_a_converters_step_counts_by_the_slope_of_the_tail() -> None:
    step = 1 / 256
    found = uncertainty.of(TAIL, DT, 0.0, measure(TAIL, DT, 0.0), step)
    # By hand: at a level L of an exponential the slope is L/τ, so a step moves the last crossing by step (1 + L) τ / L.
    for name, level in (("u_t05_s", 0.5), ("u_t01_s", 0.1)):
        assert found[name] == pytest.approx(
            2 * step * (1 + level) * TAU / level, rel=0.02
        )


def test_the_baselines_doubt_moves_the_tails_crossing() -> None:
    u, none = 0.002, {"u_t05_s": 0.0, "u_t01_s": 0.0, "u_light_integral": 0.0}
    found = uncertainty.with_baseline(none, TAIL, DT, 0.0, u)
    # By hand: raised by u, the curve falls through L (1 + u) when e^(−t/τ) = L (1 + u) − u, that is u (1 − L) lower.
    for name, level in (("u_t05_s", 0.5), ("u_t01_s", 0.1)):
        expected = TAU * math.log((level * (1 - u) + u) / (level * (1 + u) - u))
        assert found[name] == pytest.approx(expected, rel=0.02)
    assert uncertainty.with_baseline(none, TAIL, DT, 0.0, 0.0) == {}


def test_noise_on_a_curve_without_a_model_is_repeated() -> None:
    soft = np.exp(-(((T - 4e-3) / 1e-3) ** 2))
    doubts = []
    for sd in (0.005, 0.02, 0.08):
        noisy = soft + np.random.default_rng(4).normal(0, sd, len(T))
        found = uncertainty.of(noisy, DT, sd, measure(noisy, DT, sd), 0.0)
        doubts.append(found["u_t05_s"])
        assert (
            abs(measure(noisy, DT, sd).t05_s - 2e-3 * math.sqrt(math.log(2)))
            <= found["u_t05_s"]
        )
    assert doubts == sorted(doubts)


def test_what_cannot_be_read_has_no_uncertainty() -> None:
    rising = np.linspace(0, 1, 800)
    found = uncertainty.of(rising, DT, 0.0, measure(rising, DT, 0.0), 0.0)
    assert (found["u_t05_s"], found["u_t01_s"]) == (None, None)


def test_two_rulers_that_differ_doubt_each_other() -> None:
    figures = measure(TAIL, DT, 0.0)
    ruler = {
        "t05_s": figures.t05_s + 1e-4,
        "t01_s": figures.t01_s,
        "light_integral": figures.light_integral,
        "u_t05_s": 1e-5,
        "u_t01_s": 2e-5,
        "u_light_integral": 0.0,
    }
    found = uncertainty.by_two_rulers(ruler, figures)
    assert found["t05_s"] == ruler["t05_s"]
    assert found["u_t05_s"] == pytest.approx(1e-5 + 0.7e-4)
    assert found["u_t01_s"] == pytest.approx(2e-5)
