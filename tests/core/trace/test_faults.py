"""Every fault of the simulated bench is found by its name, and none on clean sweeps."""

from dataclasses import replace

import numpy as np
import pytest

from rapzel.core.trace import analyse, analyse_recording
from rapzel.core.trace.reading.samples import Recording, Segment
from simulators.light import FAULTS, STROBES, Settings, fitting, pop, series

EXPECTED = {
    "none": set(), "clipping": {"clipped"}, "logic": {"two_levels"}, "ripple": {"ripple"}, "drift": {"baseline_drift"},
    "inverted": {"inverted"}, "preflash": {"several_pulses"}, "hss": {"several_pulses"}, "no light": {"no_pulse"},
}  # fmt: skip


@pytest.mark.parametrize("power", [1.0, 1 / 16, 1 / 128])
@pytest.mark.parametrize("strobe", STROBES)
@pytest.mark.parametrize("fault", FAULTS)
def test_each_fault_and_nothing_else(fault: str, strobe: str, power: float) -> None:
    settings = fitting(Settings(strobe=strobe, power=power, fault=fault))
    found = analyse(pop(settings).light_v, 1 / settings.sampling_hz)
    assert found.codes == EXPECTED[fault]
    for warning in found.warnings:
        assert warning.says.endswith(".")
        assert len(warning.says) > 60


@pytest.mark.parametrize("fault", ["none", "ripple", "drift", "inverted", "preflash"])
def test_figures_survive_what_can_be_taken_out(fault: str) -> None:
    settings = fitting(Settings(power=1 / 16, fault=fault))
    swept = pop(settings)
    found = analyse(swept.light_v, 1 / settings.sampling_hz)
    assert found.t05_s == pytest.approx(swept.shape.width_s(0.5), rel=0.03)
    assert found.t01_s == pytest.approx(swept.shape.width_s(0.1), rel=0.05)
    assert found.usable == (fault != "preflash")


def sweep(**changes) -> tuple[np.ndarray, float]:
    settings = replace(fitting(Settings(power=1 / 16)), **changes)
    return pop(settings).light_v, 1 / settings.sampling_hz


def test_a_trace_that_ends_too_early_has_no_t01() -> None:
    values, dt = sweep()
    shape = STROBES["Monobloc 600 quenched"].shape(1 / 16)
    begin = fitting(Settings(power=1 / 16)).pre_s / dt
    short = values[: int(begin + 0.6 * shape.width_s(0.5) / dt)]
    found = analyse(short, dt)
    assert "tail_missing" in found.codes
    assert found.t01_s is None
    assert "Record longer" in found.warnings[0].says


def test_a_trace_that_begins_in_the_light_is_told() -> None:
    values, dt = sweep()
    found = analyse(values[int(values.argmax()) - 20 :], dt)
    assert "tail_missing" in found.codes
    assert any(
        "begins when the light is on" in warning.says for warning in found.warnings
    )


def test_too_few_samples_are_told() -> None:
    shape = STROBES["Monobloc 600 quenched"].shape(1 / 16)
    values, dt = sweep(sampling_hz=5 / shape.width_s(0.5), noise=0.001)
    found = analyse(values, dt)
    assert "undersampled" in found.codes
    assert not found.usable


def test_a_train_tells_its_frequency_and_plateau() -> None:
    settings = fitting(Settings(power=1 / 4, fault="hss"))
    found = analyse(pop(settings).light_v, 1 / settings.sampling_hz)
    lit = 0.75 * (settings.sweep_s - settings.pre_s)
    assert found.train is not None
    assert found.train.frequency_hz == pytest.approx(
        40 / (settings.sweep_s - settings.pre_s), rel=0.02
    )
    assert found.train.plateau_s == pytest.approx(lit, rel=0.06)
    assert found.t05_s == pytest.approx(lit, rel=0.06), (
        "the length of the train, not of one of its pulses"
    )
    assert len(found.pulses) == pytest.approx(30, abs=1)


def test_pulses_are_told_apart_with_their_shares() -> None:
    settings = fitting(Settings(power=1 / 16, fault="preflash"))
    found = analyse(pop(settings).light_v, 1 / settings.sampling_hz)
    assert len(found.pulses) == 2
    assert sum(pulse.share for pulse in found.pulses) == pytest.approx(1)
    assert found.pulses[0].at_s < found.pulses[1].at_s
    assert found.pulses[1].share > 0.5


def recording(traces, settings: Settings) -> Recording:
    segments = tuple(
        Segment(0.0, 1 / settings.sampling_hz, (each.light_v,)) for each in traces
    )
    return Recording(("Light",), ("V",), segments)


def test_statistics_over_pops() -> None:
    settings = fitting(
        Settings(strobe="Old voltage monobloc 500", power=1.0, noise=0.002)
    )
    found = analyse_recording(recording(series(settings, 12), settings))
    assert len(found.pops) == 12
    assert found.spreads["t01_s"].count == 12
    assert found.spreads["t01_s"].sd < 0.02 * found.mean("t01_s")
    # the simulated scatter; 12 draws tell it roughly
    assert found.light_sd_stops == pytest.approx(0.05, abs=0.03)
    assert found.light_spread_stops > found.light_sd_stops


def test_pops_in_one_long_sweep_are_parted_and_their_drift_told() -> None:
    settings = replace(fitting(Settings(power=1 / 16)), sweep_s=0.02, sampling_hz=1e6)
    pops = [pop(settings, number).light_v * 2 ** (-0.1 * number) for number in range(4)]
    one = Recording(("Light",), ("V",), (Segment(0.0, 1e-6, (np.concatenate(pops),)),))
    found = analyse_recording(one)
    assert len(found.pops) == 4
    assert found.light_drift_stops == pytest.approx(-0.3, abs=0.12)
    assert found.warnings == []


def test_two_alike_pulses_close_together_are_not_two_pops() -> None:
    values, dt = sweep(noise=0.001)
    shape = STROBES["Monobloc 600 quenched"].shape(1 / 16)
    twice = values + np.roll(values - 0.02, int(5 * shape.width_s(0.1) / dt))
    found = analyse_recording(
        Recording(("Light",), ("V",), (Segment(0.0, dt, (twice,)),))
    )
    assert len(found.pops) == 1
    assert {warning.code for warning in found.warnings} == {"several_pulses"}
    assert len(found.pops[0].pulses) == 2


def test_the_channel_with_the_light_is_chosen() -> None:
    settings = fitting(Settings())
    swept = pop(settings)
    both = Recording(
        ("Trigger", "Light"),
        ("V", "V"),
        (Segment(0.0, 1 / settings.sampling_hz, (swept.trigger_v, swept.light_v)),),
    )
    assert both.channel() == 1
    assert analyse_recording(both).channel == "Light"
