"""A recording of a loud event: when its sound begins, how far it stands out, and what a threshold would make of it.

Works on the largest excursion of each millisecond, so that ten minutes of a sound card are read in a second; only the
events themselves are looked at sample by sample (science §11).
"""

import math
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import numpy.typing as npt

from rapzel.core.trace.reading.samples import TraceError
from rapzel.core.trace.reading.wav import Wav, read_wav

Array = npt.NDArray[np.float64]
MOST_SAMPLES = 40_000_000  # of a channel: a quarter of an hour at 44.1 kHz
_BLOCK_S = 1e-3
_APART_S = 0.3  # events nearer to each other are one, with its echoes
_BEFORE_S = 0.05  # of the event's loudest block, within which it began
_CLIPPED = 0.998
# times the background's usual excursion, from which a sound has begun
_OUT_OF_NOISE = 4.0
# of the quietest event over all else, without which no threshold is sure: 3 dB either way
_LEAST_DB = 6.0
_EVENT_SHARE = 0.5  # of the loudest: what is at least so loud is the event again
_SLOWEST_HZ, _FASTEST_HZ = 4000.0, 400_000.0


@dataclass(frozen=True, slots=True)
class Loudness:
    """What a recording says. Levels are shares of full scale, times in seconds."""

    seconds: float
    rate_hz: float
    onset_s: float
    peak: float
    background: float  # usual excursion of a millisecond without the event
    loudest_else: float  # largest excursion outside of the events
    over_db: float  # the event over the usual background
    threshold: float | None  # None: the event does not stand out
    to_threshold_s: float | None  # mean of the events, from the onset
    jitter_s: float | None  # its sd over the events; None for a single one
    events: int
    false_triggers: int | None
    onsets_s: tuple[float, ...]
    levels: tuple[float, ...]  # excursions over time, for drawing
    level_s: float  # time of one of them
    doubts: tuple[str, ...]


def analyse_file(source: Path | bytes, lockout_s: float = 0.1) -> Loudness:
    """What a WAV file says of its event; lock-out in [s]. Raises TraceError for what is no such recording."""
    return analyse(read_wav(source, MOST_SAMPLES), lockout_s)


def analyse(wav: Wav, lockout_s: float = 0.1) -> Loudness:
    """What a recording says on its loudest channel; lock-out in [s]. Raises TraceError for silence, or another rate."""
    if not _SLOWEST_HZ <= wav.rate_hz <= _FASTEST_HZ:
        raise TraceError(f"Sampled at {wav.rate_hz:g} Hz; accepted: 4 kHz to 400 kHz.")
    block = max(round(wav.rate_hz * _BLOCK_S), 1)
    levels, samples = _loudest_channel(wav, block)
    level_s = block / wav.rate_hz
    top = int(np.argmax(levels))
    peak = float(levels[top])
    if peak <= 0 or len(levels) < 20:
        raise TraceError(
            "Nothing is heard in this recording: record the event with some silence before it."
        )
    tops = _event_blocks(levels, round(_APART_S / level_s))
    outside = _outside(levels, tops, level_s)
    if outside.size:
        background = float(np.median(outside))
    else:
        background = peak
    if outside.size:
        loudest = float(outside.max())
    else:
        loudest = peak
    # In digital silence the least step would already be louder than nothing.
    floor = max(_OUT_OF_NOISE * background, 1.5 * wav.step)
    onsets = [
        _onset(samples, each, block, wav, min(floor, 0.5 * float(levels[each])))
        for each in tops
    ]
    threshold = _threshold(float(min(levels[each] for each in tops)), loudest)
    times = _times_to(samples, onsets, tops, block, wav, threshold)
    return Loudness(
        seconds=len(samples) / wav.rate_hz,
        rate_hz=wav.rate_hz,
        onset_s=onsets[tops.index(top)] / wav.rate_hz,
        peak=peak,
        background=background,
        loudest_else=loudest,
        over_db=20 * math.log10(peak / max(background, 0.5 * wav.step)),
        threshold=threshold,
        to_threshold_s=float(np.mean(times)) if times else None,
        jitter_s=float(np.std(times, ddof=1)) if len(times) > 1 else None,
        events=len(tops),
        false_triggers=None
        if threshold is None
        else _false(levels, tops, threshold, level_s, lockout_s),
        onsets_s=tuple(onset / wav.rate_hz for onset in onsets),
        levels=_thinned(levels),
        level_s=len(samples) / wav.rate_hz / len(_thinned(levels)),
        doubts=tuple(_doubts(peak, threshold, len(tops), onsets, wav)),
    )


def _loudest_channel(wav: Wav, block: int) -> tuple[Array, npt.NDArray[np.generic]]:
    """Largest excursion of each block as a share of full scale, of the channel that is loudest, and its samples."""
    best: tuple[Array, npt.NDArray[np.generic]] | None = None
    for channel in range(wav.channels):
        samples = wav.samples[:, channel]
        whole = len(samples) // block * block
        if not whole:
            continue
        grid = samples[:whole].reshape(-1, block)
        # In the file's own integers, and turned into shares only then: a tenth of the memory.
        high = np.maximum.reduce(grid, axis=1).astype(np.float64) - wav.silence
        low = np.minimum.reduce(grid, axis=1).astype(np.float64) - wav.silence
        levels = np.maximum(high, -low) / wav.full
        if best is None or levels.max() > best[0].max():
            best = levels, samples
    if best is None:
        raise TraceError("The recording is shorter than a millisecond.")
    return best


def _event_blocks(levels: Array, apart: int) -> list[int]:
    """The loudest block of each event: at least half as loud as the loudest, and apart from the others."""
    found: list[int] = []
    loud = np.flatnonzero(levels >= _EVENT_SHARE * levels.max())
    for block in loud[np.argsort(-levels[loud], kind="stable")]:
        if all(abs(int(block) - other) > apart for other in found):
            found.append(int(block))
        if len(found) >= 200:
            break
    return sorted(found)


def _outside(levels: Array, tops: list[int], level_s: float) -> Array:
    """The levels apart from the events and what follows them for a while."""
    keep = np.ones(len(levels), dtype=bool)
    for top in tops:
        keep[
            max(top - round(_BEFORE_S / level_s), 0) : top + round(_APART_S / level_s)
        ] = False
    return levels[keep]


def _excursion(
    samples: npt.NDArray[np.generic], begin: int, end: int, wav: Wav
) -> Array:
    return (
        np.abs(np.asarray(samples[max(begin, 0) : end], dtype=np.float64) - wav.silence)
        / wav.full
    )


def _onset(
    samples: npt.NDArray[np.generic], top: int, block: int, wav: Wav, floor: float
) -> int:
    """The first sample of an event: out of the noise, with no millisecond of silence until the loudest block."""
    begin = max(top * block - round(_BEFORE_S * wav.rate_hz), 0)
    curve = _excursion(samples, begin, (top + 1) * block, wav)
    above = np.flatnonzero(curve >= floor)
    if not above.size:
        return top * block
    # Whatever was loud before a pause is another sound.
    gaps = np.flatnonzero(np.diff(above) > 2 * block)
    if gaps.size:
        first = above[gaps[-1] + 1]
    else:
        first = above[0]
    return begin + int(first)


def _threshold(quietest: float, loudest_else: float) -> float | None:
    """The level in the middle, in decibels, of the quietest event and the loudest of the rest; None: too near."""
    if 20 * math.log10(quietest / max(loudest_else, 1e-6)) < _LEAST_DB:
        return None
    # Never above half of the quietest event, so that a weaker one still fires it.
    return min(math.sqrt(quietest * max(loudest_else, quietest / 100)), quietest / 2)


def _times_to(
    samples: npt.NDArray[np.generic],
    onsets: list[int],
    tops: list[int],
    block: int,
    wav: Wav,
    threshold: float | None,
) -> list[float]:
    """From each onset to the threshold [s]."""
    if threshold is None:
        return []
    times = []
    for onset, top in zip(onsets, tops, strict=True):
        curve = _excursion(samples, onset, (top + 1) * block, wav)
        over = np.flatnonzero(curve >= threshold)
        if over.size:
            times.append(float(over[0]) / wav.rate_hz)
    return times


def _false(
    levels: Array, tops: list[int], threshold: float, level_s: float, lockout_s: float
) -> int:
    """How often the threshold would be passed without an event, the trigger being deaf after each time."""
    over = np.flatnonzero(levels >= threshold)
    deaf, count, until = max(round(lockout_s / level_s), 1), 0, -1
    before, after = round(_BEFORE_S / level_s), round(_APART_S / level_s)
    for block in map(int, over):
        # A deaf trigger does not fire, whatever it hears.
        if block < until:
            continue
        until = block + deaf
        if not any(top - before <= block <= top + after for top in tops):
            count += 1
    return count


def _thinned(levels: Array, most: int = 600) -> tuple[float, ...]:
    """The levels for a drawing: the largest of each stretch."""
    size = max(math.ceil(len(levels) / most), 1)
    return tuple(
        float(levels[at : at + size].max()) for at in range(0, len(levels), size)
    )


def _doubts(
    peak: float, threshold: float | None, events: int, onsets: list[int], wav: Wav
) -> list[str]:
    found = []
    if peak >= _CLIPPED:
        found.append(
            "The top is clipped: record it quieter, or the level over the background is unknown."
        )
    if threshold is None:
        found.append(
            "Something else is nearly as loud: no threshold tells the event from it. Move the microphone nearer."
        )
    if events == 1:
        found.append("One event only: record ten to know the jitter.")
    if min(onsets) < wav.rate_hz * _BEFORE_S:
        found.append("It begins with the event: leave a second of silence before it.")
    return found
