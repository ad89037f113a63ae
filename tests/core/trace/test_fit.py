"""The circuit model gives back what a pulse was made of, and says when it does not fit."""

import math

import numpy as np
import pytest

from rapzel.core.pulse.shape import Discharge, quenched_at
from rapzel.core.trace.measuring.figures import measure
from rapzel.core.trace.measuring.fit import as_ruler, described, solve


def solved(shape: Discharge, sd: float = 0.0, seed: int = 0):
    dt = shape.width_s(0.1) / 700
    t = (np.arange(3500) - 400) * dt
    curve = np.where(t >= 0, shape.intensity(np.maximum(t, 0)), 0.0)
    curve = curve + np.random.default_rng(seed).normal(0, sd, len(t)) if sd else curve
    solution = solve(curve, dt, sd, measure(curve, dt, sd))
    assert solution is not None
    return solution


@pytest.mark.parametrize("decay", [3e-4, 1.9e-3])
@pytest.mark.parametrize("sd", [0.0, 0.01])
def test_the_decay_of_an_untruncated_discharge(decay: float, sd: float) -> None:
    fit = described(solved(Discharge(decay, decay / 100), sd))
    assert fit.circuit == "exponential"
    assert fit.decay_s == pytest.approx(decay, rel=0.02)
    assert fit.quench_s is None
    assert not any("another shape" in doubt for doubt in fit.doubts)


@pytest.mark.parametrize("power", [1 / 4, 1 / 16, 1 / 64])
@pytest.mark.parametrize("sd", [0.0, 0.01])
def test_the_quench_and_the_afterglow(power: float, sd: float) -> None:
    shape = quenched_at(power, 1.9e-3, 19e-6, 28e-6)
    fit = described(solved(shape, sd))
    assert fit.circuit == "quenched"
    assert fit.quench_s == pytest.approx(shape.quench_s, rel=0.05)
    assert fit.afterglow_s == pytest.approx(28e-6, rel=0.06)
    # about seven samples a point
    assert fit.residual_share == pytest.approx(sd / math.sqrt(7), rel=0.3, abs=0.002)


def test_the_ruler_agrees_with_the_truth_and_owns_its_doubt() -> None:
    shape = quenched_at(1 / 16, 1.9e-3, 19e-6, 28e-6)
    ruler = as_ruler(solved(shape, 0.03))
    assert ruler is not None
    for name, level in (("t05_s", 0.5), ("t01_s", 0.1)):
        assert abs(ruler[name] - shape.width_s(level)) <= ruler[f"u_{name}"]
        assert ruler[f"u_{name}"] < 0.05 * shape.width_s(level)


def test_more_noise_is_more_doubt() -> None:
    shape = Discharge(1.9e-3, 19e-6)
    doubts = [as_ruler(solved(shape, sd))["u_t01_s"] for sd in (0.01, 0.02, 0.04)]
    assert doubts == sorted(doubts)
    assert doubts[2] > 2 * doubts[0]


def test_a_pulse_of_another_shape_has_no_ruler() -> None:
    t = np.arange(3000) * 1e-6
    bumps = np.exp(-(((t - 8e-4) / 2e-4) ** 2)) + 0.8 * np.exp(
        -(((t - 1.6e-3) / 2e-4) ** 2)
    )
    noisy = bumps + np.random.default_rng(1).normal(0, 0.01, len(t))
    solution = solve(noisy, 1e-6, 0.01, measure(noisy, 1e-6, 0.01))
    assert solution is not None
    assert as_ruler(solution) is None
    assert any("another shape" in doubt for doubt in described(solution).doubts)


def test_nothing_is_fitted_where_t01_cannot_be_read() -> None:
    rising = np.linspace(0, 1, 500)
    assert solve(rising, 1e-6, 0.0, measure(rising, 1e-6, 0.0)) is None
