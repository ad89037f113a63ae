"""The stated uncertainty must cover the truth in at least nine of ten noisy recordings (200 seeded runs each)."""

import numpy as np
import pytest

from rapzel.core.pulse.shape import Discharge, quenched_at
from rapzel.core.trace import analyse

# The model is fitted in both cases; other shapes are measured in test_known_shapes without noise.
SHAPES = {
    "full": Discharge(1.9e-3, 19e-6),
    "a sixteenth": quenched_at(1 / 16, 1.9e-3, 19e-6, 28e-6),
}


def runs(shape: Discharge, decibels: float, count: int):
    """(t.5, its uncertainty, t.1, its uncertainty) over seeded runs; dB is the peak over the noise's sd."""
    dt = shape.width_s(0.1) / 800
    t = (np.arange(4000) - 500) * dt
    clean = np.where(t >= 0, shape.intensity(np.maximum(t, 0)), 0.0)
    for seed in range(count):
        noise = np.random.default_rng(seed).normal(0, 10 ** (-decibels / 20), len(t))
        found = analyse(clean + noise, dt)
        assert found.codes == set(), (seed, found.codes)
        yield found.t05_s, found.u_t05_s, found.t01_s, found.u_t01_s


@pytest.mark.parametrize("decibels", [20, 40])
@pytest.mark.parametrize("name", SHAPES)
def test_uncertainty_covers_the_truth(name: str, decibels: float) -> None:
    shape = SHAPES[name]
    found = np.array(list(runs(shape, decibels, 200)))
    for column, level in ((0, 0.5), (2, 0.1)):
        truth = shape.width_s(level)
        covered = np.abs(found[:, column] - truth) <= found[:, column + 1]
        assert covered.mean() >= 0.9
        # An uncertainty that covers everything by being huge would say nothing.
        assert np.median(found[:, column + 1]) < (0.25 if decibels == 20 else 0.08) * truth
