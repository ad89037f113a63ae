"""Recordings made sample by sample, with onset, level and threshold known beforehand."""

import io
import math

import numpy as np
import pytest
from scipy.io import wavfile

from rapzel.core.trace.measuring.loudness import analyse_file
from rapzel.core.trace.reading.samples import TraceError

RATE = 48_000


def recording(
    at_s: list[float], rise_s: float = 0.0, noise: float = 0.002, seconds: float = 6.0
) -> np.ndarray:
    """Silence with noise, and a tone of 2 kHz that dies out from each instant; its amplitude grows over `rise_s`."""
    time = np.arange(round(seconds * RATE)) / RATE
    wave = noise * np.random.default_rng(1).uniform(-1, 1, time.size)
    for at in at_s:
        since = time - at
        grown = np.clip(since / rise_s, 0, 1) if rise_s else 1.0
        dies = np.exp(-np.maximum(since, 0) / 0.02)
        wave += np.where(
            since >= 0, 0.8 * grown * dies * np.cos(math.tau * 2000 * since), 0
        )
    return wave


def as_wav(wave: np.ndarray, kind: str = "int16") -> bytes:
    out, full = (
        io.BytesIO(),
        {"int16": 2**15 - 1, "int32": 2**31 - 1, "float32": 1.0}[kind],
    )
    wavfile.write(out, RATE, (np.clip(wave, -1, 1) * full).astype(kind))
    return out.getvalue()


@pytest.mark.parametrize("kind", ["int16", "int32", "float32"])
def test_a_clap_is_found_to_the_sample(kind: str) -> None:
    found = analyse_file(as_wav(recording([2.5]), kind))
    assert found.onset_s == pytest.approx(2.5, abs=1.5 / RATE)
    assert found.peak == pytest.approx(0.8, abs=0.01)
    assert found.over_db == pytest.approx(20 * math.log10(0.8 / 0.00197), abs=0.3)
    assert found.threshold == pytest.approx(math.sqrt(0.8 * 0.008), rel=0.05), (
        "never nearer than 1/100 of the event"
    )
    assert found.to_threshold_s == pytest.approx(0, abs=1.5 / RATE), (
        "a clap is there at once"
    )
    assert (found.events, found.false_triggers) == (1, 0)
    assert any("One event only" in doubt for doubt in found.doubts)


def test_a_slow_rise_takes_its_time_to_the_threshold() -> None:
    """Growing to 0.8 over 4 ms, the threshold is passed at its share of the rise, within a half wave of the tone."""
    found = analyse_file(as_wav(recording([1.0, 2.5, 4.0], rise_s=0.004)))
    assert found.events == 3
    assert found.threshold is not None
    expected = 0.004 * found.threshold / 0.8
    assert found.to_threshold_s == pytest.approx(expected, abs=0.25e-3)
    assert found.jitter_s == pytest.approx(0, abs=0.1e-3)
    assert found.onsets_s == pytest.approx((1.0, 2.5, 4.0), abs=0.3e-3)


def test_what_else_fires_it_is_counted() -> None:
    wave = recording([3.0])
    for at in (
        0.5,
        0.55,
        1.5,
        5.0,
    ):  # knocks a fifth as loud; the second within the lock-out of the first
        begin = round(at * RATE)
        wave[begin : begin + 48] += 0.16
    found = analyse_file(as_wav(wave))
    assert found.loudest_else == pytest.approx(0.16, abs=0.005)
    assert found.threshold == pytest.approx(math.sqrt(0.8 * 0.16), rel=0.03)
    assert found.false_triggers == 0, "the proposed threshold stands above them"


def test_a_noisy_place_has_no_threshold() -> None:
    found = analyse_file(as_wav(recording([3.0], noise=0.6)))
    assert found.threshold is None
    assert found.false_triggers is None
    assert any("nearly as loud" in doubt for doubt in found.doubts)


def test_clipping_and_an_early_begin_are_told() -> None:
    doubts = " ".join(analyse_file(as_wav(3 * recording([0.01]))).doubts)
    assert "clipped" in doubts
    assert "begins with the event" in doubts


def test_the_louder_of_two_channels_is_taken() -> None:
    wave = recording([2.0])
    out = io.BytesIO()
    wavfile.write(out, RATE, np.stack([wave / 10, wave], axis=1).astype("float32"))
    assert analyse_file(out.getvalue()).peak == pytest.approx(0.8, abs=0.01)


@pytest.mark.parametrize(("data", "says"), [
    (b"", "cannot be read"),
    (b"RIFF" + b"\0" * 60, "cannot be read"),
    (as_wav(recording([1.0]))[:30], "cannot be read"),
    (as_wav(np.zeros(RATE)), "Nothing is heard"),
    (as_wav(np.zeros(3)), "shorter than a millisecond|Nothing is heard"),
    (as_wav(np.array([0.1, np.nan, 0.2] * 100), "float32"), "not finite"),
])  # fmt: skip
def test_hostile_recordings_are_refused_in_words(data: bytes, says: str) -> None:
    with pytest.raises(TraceError, match=says):
        analyse_file(data)


def test_another_rate_is_refused() -> None:
    out = io.BytesIO()
    wavfile.write(out, 100, np.ones(1000, dtype="int16"))
    with pytest.raises(TraceError, match="accepted: 4 kHz to 400 kHz"):
        analyse_file(out.getvalue())
