"""The simulated bench does what its settings say: what is measured with it stands on that."""

import math
from dataclasses import replace

import numpy as np
import pytest

from simulators.light import (
    FAULTS,
    STROBES,
    Settings,
    amplified,
    fitting,
    pop,
    series,
    to_csv,
)

QUIET = replace(
    fitting(Settings(power=1 / 16)), noise=0.0, offset_v=0.0, bits=16, lag_jitter_s=0.0
)


def test_a_quiet_pop_is_the_pulse_itself() -> None:
    swept = pop(QUIET)
    lit = swept.times_s >= 0
    truth = np.where(lit, swept.shape.intensity(np.maximum(swept.times_s, 0)), 0.0)
    scale = swept.light_v.max()
    assert swept.light_v / scale == pytest.approx(truth, abs=0.01)
    assert swept.light_v[~lit].max() == pytest.approx(0, abs=0.005)


@pytest.mark.parametrize("circuit", ["quenched", "voltage", "banks"])
def test_less_power_does_what_the_circuit_does(circuit: str) -> None:
    """Handbook §4: quenched and banks get shorter, voltage-controlled does not."""
    strobe = next(each for each in STROBES.values() if each.circuit == circuit)
    full, low = strobe.shape(1.0).width_s(0.1), strobe.shape(1 / 8).width_s(0.1)
    assert (low == pytest.approx(full)) if circuit == "voltage" else (low < 0.6 * full)


def test_a_series_scatters_as_told_and_repeats_by_its_seed() -> None:
    told = replace(QUIET, strobe="Old voltage monobloc 500", seed=3)
    stops = [math.log2(each.light_v.max()) for each in series(told, 60)]
    # sixty draws tell a deviation to a fifth
    assert np.std(stops, ddof=1) == pytest.approx(0.05, rel=0.3)
    again = [math.log2(each.light_v.max()) for each in series(told, 60)]
    assert stops == again
    assert stops != [
        math.log2(each.light_v.max()) for each in series(replace(told, seed=4), 60)
    ]


@pytest.mark.parametrize("bandwidth", [2e3, 2e4])
def test_a_slow_amplifier_rises_in_two_point_two_time_constants(
    bandwidth: float,
) -> None:
    """10–90 % of a first-order step response: ln 9 = 2.197 time constants, τ = 1 / (2π bandwidth)."""
    settings = replace(QUIET, bandwidth_hz=bandwidth, sampling_hz=1e7)
    step = amplified(np.ones(20_000), settings)
    first, last = (int(np.argmax(step >= share)) / 1e7 for share in (0.1, 0.9))
    assert last - first == pytest.approx(
        math.log(9) / (2 * math.pi * bandwidth), rel=0.01
    )
    assert step[-1] == pytest.approx(1.0)


def test_the_trigger_leads_the_light_by_the_lag() -> None:
    settings = replace(QUIET, lag_s=0.0004, lag_jitter_s=20e-6)
    lags = []
    for swept in series(settings, 30):
        edge = swept.times_s[int(np.argmax(swept.trigger_v > 1.6))]
        light = swept.times_s[
            int(np.argmax(swept.light_v > 0.01 * swept.light_v.max()))
        ]
        assert light - edge == pytest.approx(swept.lag_s, abs=3e-6)
        lags.append(swept.lag_s)
    assert np.mean(lags) == pytest.approx(0.0004, abs=12e-6)  # thirty draws of 20 µs
    assert np.std(lags) == pytest.approx(20e-6, rel=0.35)


@pytest.mark.parametrize("bits", [8, 12])
def test_the_converter_has_its_steps(bits: int) -> None:
    levels = np.unique(pop(replace(fitting(Settings()), bits=bits)).light_v)
    steps = levels / (8.0 / 2**bits)
    assert steps == pytest.approx(np.round(steps), abs=1e-6)


@pytest.mark.parametrize("fault", FAULTS)
def test_every_fault_changes_the_sweep(fault: str) -> None:
    settings = fitting(Settings(power=1 / 16, fault=fault))
    plain = pop(replace(settings, fault="none")).light_v
    assert np.array_equal(pop(settings).light_v, plain) == (fault == "none")


@pytest.mark.parametrize("power", [1.0, 1 / 128])
def test_a_fitting_sweep_has_room_and_samples(power: float) -> None:
    for name in STROBES:
        settings = fitting(Settings(strobe=name, power=power))
        shape = STROBES[name].shape(power)
        assert settings.pre_s >= 1.5 * settings.lag_s
        assert settings.sweep_s - settings.pre_s >= 7.9 * shape.width_s(0.1)
        assert shape.width_s(0.5) * settings.sampling_hz >= 59


def test_the_csv_says_what_was_set() -> None:
    lines = to_csv(series(QUIET, 2), QUIET).splitlines()
    assert lines[1:3] == ["Strobe,Monobloc 600 quenched", "Power,0.0625"]
    assert lines.count("Time (s),Light (V),Trigger (V)") == 2
    assert len([line for line in lines if line.count(",") == 2]) == 2 + 2 * len(
        pop(QUIET).times_s
    )
