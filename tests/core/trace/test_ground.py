"""The ground under a pulse, against what was put into it."""

import math

import numpy as np
import pytest

from rapzel.core.pulse.shape import Discharge
from rapzel.core.trace import analyse
from rapzel.core.trace.measuring.ground import (
    converter_step,
    grouping,
    in_blocks,
    look,
    noise_of,
)

DT = 1e-5
TIMES = np.arange(6000) * DT  # 60 ms: six periods of 100 Hz
LIGHT = np.where(TIMES >= 0.02, np.exp(-np.maximum(TIMES - 0.02, 0) / 5e-4), 0.0)


def noise(sd: float, seed: int = 1) -> np.ndarray:
    return np.random.default_rng(seed).normal(0, sd, len(TIMES))


@pytest.mark.parametrize("sd", [0.001, 0.02, 0.1])
def test_noise_is_told_on_a_moving_curve(sd: float) -> None:
    # 6000 draws tell it to a few percent
    assert noise_of(LIGHT + noise(sd)) == pytest.approx(sd, rel=0.06)
    assert look(LIGHT + noise(sd), DT).noise == pytest.approx(sd, rel=0.1)
    assert noise_of(LIGHT) < 1e-6


@pytest.mark.parametrize("level", [-0.9, 0.0, 0.4])
@pytest.mark.parametrize("sign", [1, -1])
def test_level_and_polarity(level: float, sign: int) -> None:
    found = look(level + sign * LIGHT + noise(0.005), DT)
    assert found.sign == sign
    assert found.baseline == pytest.approx(level, abs=0.002)
    assert found.peak == pytest.approx(1.0, abs=0.05)
    assert found.drift == 0
    assert found.ripple_hz is None
    assert not found.begins_lit


@pytest.mark.parametrize("over_the_sweep", [0.1, -0.25])
def test_a_drift_is_told_with_its_sign_and_size(over_the_sweep: float) -> None:
    found = look(LIGHT + over_the_sweep * TIMES / TIMES[-1] + noise(0.003), DT)
    assert found.drift == pytest.approx(over_the_sweep, rel=0.05)
    # The baseline belongs to the time at which it was read: there, and not at 0, the line passes through it.
    assert found.baseline == pytest.approx(
        over_the_sweep * found.baseline_at_s / TIMES[-1], abs=0.002
    )


@pytest.mark.parametrize("hertz", [50.0, 60.0, 100.0, 120.0])
def test_mains_ripple_is_told_by_frequency_and_size(hertz: float) -> None:
    found = look(
        LIGHT + 0.03 * np.sin(math.tau * hertz * TIMES + 0.4) + noise(0.004), DT
    )
    assert found.ripple_hz == hertz
    assert found.ripple == pytest.approx(0.06, rel=0.05)
    assert np.hypot(*found.wave) == pytest.approx(0.03, rel=0.05)


def test_another_hum_is_no_mains_ripple_of_that_size() -> None:
    assert look(LIGHT + noise(0.01), DT).ripple_hz is None
    assert look(LIGHT[:3000], DT).ripple_hz is None


def test_a_sweep_that_begins_in_the_light() -> None:
    found = look(LIGHT[2005:] + 0.2, DT)
    assert found.begins_lit
    assert (found.sign, found.baseline) == (1, pytest.approx(0.2, abs=0.001))


def test_windows_hold_the_light_and_part_what_is_apart() -> None:
    one = look(LIGHT, DT).windows
    assert len(one) == 1
    assert one[0][0] == 2000
    # down to 4 % of the peak
    assert one[0][1] == pytest.approx(2000 + 50 * math.log(1 / 0.04), abs=3)
    two = look(LIGHT + np.roll(LIGHT, 2500), DT).windows
    assert [begin for begin, _ in two] == [2000, 4500]


def test_blocks_keep_every_extreme() -> None:
    values = np.random.default_rng(3).normal(0, 1, 100_003).astype(np.float32)
    values[77_777], values[100_002] = 50.0, -60.0
    blocks = in_blocks(values)
    assert len(blocks.mean) <= 2 * 8192
    assert blocks.high.max() == 50.0
    assert blocks.low.min() == -60.0, "in the rest that fills no block of its own"
    assert np.average(blocks.mean) == pytest.approx(
        values[: len(blocks.mean) * blocks.size].mean(), abs=1e-5
    )


@pytest.mark.parametrize("step", [1 / 256, 1 / 4096])
def test_the_converters_step(step: float) -> None:
    assert converter_step(
        np.round((LIGHT + noise(0.01)) / step) * step
    ) == pytest.approx(step, rel=1e-6)
    assert converter_step(LIGHT + noise(0.01)) == 0


@pytest.mark.parametrize(
    ("samples", "above", "group"),
    [(5000, 900, 1), (80_000, 40_000, 2), (4_000_000, 900, 2)],
)
def test_long_windows_are_grouped_but_the_pulse_keeps_its_samples(
    samples: int, above: int, group: int
) -> None:
    assert grouping(samples, above) == group


@pytest.mark.parametrize("hertz", [400.0, 1234.0, 4000.0, 25_000.0])
@pytest.mark.parametrize("amplitude", [0.01, 0.05, 0.2])
def test_a_ripple_of_any_frequency_is_named_and_does_not_move_the_figures(
    hertz: float, amplitude: float
) -> None:
    """A pulse of some 150 µs over a disturbance that is no part of it: the figures must be those of the pulse alone."""
    dt_s = 1e-6
    times = np.arange(10_000) * dt_s
    shape = Discharge(60e-6, 3e-6)
    after = np.maximum(times - 2e-3, 0)
    light = np.where(times >= 2e-3, shape.intensity(after), 0.0)
    hum = amplitude * np.sin(math.tau * hertz * times + 1.0)
    found = analyse(
        light + hum + np.random.default_rng(0).normal(0, 0.003, len(times)), dt_s
    )
    assert found.codes == {"ripple"}
    assert look(light + hum, dt_s).ripple_hz == pytest.approx(hertz, rel=1e-3)
    assert abs(found.t01_s - shape.width_s(0.1)) <= found.u_t01_s
    assert found.t05_s == pytest.approx(shape.width_s(0.5), rel=0.03)


def test_a_train_of_pulses_is_no_ripple() -> None:
    """High-speed sync: the light itself comes and goes."""
    times = np.arange(8000) * 1e-6
    train = np.where(
        (times > 1e-3) & (times < 6e-3),
        0.6 + 0.4 * np.sin(math.tau * 20_000 * times),
        0.0,
    )
    assert (
        look(
            train + np.random.default_rng(2).normal(0, 0.003, len(times)), 1e-6
        ).ripple_hz
        is None
    )
