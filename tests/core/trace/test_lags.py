"""Lag and jitter against what the simulated bench was told to do."""

from dataclasses import replace

import numpy as np
import pytest

from rapzel.core.trace.measuring.lags import measure_lags, onsets_s
from rapzel.core.trace.reading.samples import Recording, Segment, TraceError
from simulators.light import Settings, pop

SETTINGS = Settings(
    power=1 / 4,
    sweep_s=0.004,
    pre_s=0.001,
    sampling_hz=2e6,
    lag_s=0.0004,
    lag_jitter_s=20e-6,
)


def recording(
    count: int, settings: Settings = SETTINGS
) -> tuple[Recording, list[float]]:
    pops = [pop(settings, number) for number in range(count)]
    segments = tuple(
        Segment(0.0, 1 / settings.sampling_hz, (each.trigger_v, each.light_v))
        for each in pops
    )
    return Recording(("Trigger", "Light"), ("V", "V"), segments), [
        each.lag_s for each in pops
    ]


def test_lag_and_jitter_of_forty_pops() -> None:
    made, lags = recording(40)
    found = measure_lags(made, 0, 1)
    # The light reaches half its height a little after it begins: the same for every pop.
    rise = found.mean_s - np.mean(lags)
    assert 0 < rise < 40e-6
    assert found.jitter_s == pytest.approx(np.std(lags, ddof=1), rel=0.05)
    assert np.allclose(np.array(found.lags_s) - rise, lags, atol=3e-6)
    assert found.unmatched == 0
    assert found.doubts == ()
    assert sum(count for _, _, count in found.histogram()) == 40
    assert found.least_s <= found.mean_s <= found.most_s


def test_few_pops_strays_and_missing_lights_are_told() -> None:
    made, _ = recording(3)
    assert "Only 3 pops" in measure_lags(made, 0, 1).doubts[0]
    late = replace(SETTINGS, lag_s=0.0004)
    pops = [pop(late, number) for number in range(9)]
    dark = replace(late, fault="no light")
    segments = [Segment(0.0, 5e-7, (each.trigger_v, each.light_v)) for each in pops]
    segments.append(Segment(0.0, 5e-7, (pop(dark, 1).trigger_v, pop(dark, 1).light_v)))
    segments.append(
        Segment(0.0, 5e-7, (pops[0].trigger_v, np.roll(pops[0].light_v, 1500)))
    )
    found = measure_lags(Recording(("T", "L"), ("", ""), tuple(segments)), 0, 1)
    assert found.unmatched == 1
    assert any("no light after them" in doubt for doubt in found.doubts)
    assert any("far from the others" in doubt for doubt in found.doubts)


def test_a_sound_counts_from_its_arrival() -> None:
    rate = 192_000
    t = np.arange(rate // 20) / rate
    noise = np.random.default_rng(5).normal(0, 0.002, len(t))
    bang = (
        np.where(
            t >= 0.01,
            np.exp(-(t - 0.01) / 0.004) * np.sin(2 * np.pi * 1500 * (t - 0.01)),
            0.0,
        )
        + noise
    )
    assert onsets_s(bang, 1 / rate)[0] == pytest.approx(0.01, abs=60e-6)


def test_channels_that_make_no_pair_are_refused() -> None:
    made, _ = recording(2)
    with pytest.raises(TraceError, match="two different channels"):
        measure_lags(made, 1, 1)
    with pytest.raises(TraceError, match="channels 1 to 2"):
        measure_lags(made, 0, 5)
    with pytest.raises(TraceError, match="No rise of “Light” is followed"):
        measure_lags(made, 1, 0)
