"""From a trigger signal, or a sound, to the light: lag, jitter, and how they are spread (science §11)."""

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from rapzel.core.trace.measuring.ground import look
from rapzel.core.trace.reading.samples import Recording, TraceError

# of the larger excursion: a channel that swings so far both ways is a sound
_BOTH_WAYS = 0.4
_ARRIVAL = 0.1  # of the peak, at which a sound has arrived; or six times the noise
_OUTLIER = 6.0  # times the robust spread
_FEW = 5  # repeats below which jitter is a guess


@dataclass(frozen=True, slots=True)
class LagResult:
    """Lags of repeated pops [s]: each of them, their mean and standard deviation, and what to mind."""

    lags_s: tuple[float, ...]
    mean_s: float
    jitter_s: float | None
    least_s: float
    most_s: float
    u_mean_s: float  # expanded, about 95 %: jitter over the repeats, and the sampling
    unmatched: int
    doubts: tuple[str, ...]

    def histogram(self, bins: int = 12) -> list[tuple[float, float, int]]:
        """(from, to, count) of each bin [s]."""
        counts, edges = np.histogram(
            self.lags_s, bins=min(bins, max(len(self.lags_s) // 2, 1))
        )
        return [
            (float(a), float(b), int(n))
            for (a, b), n in zip(pairwise(edges), counts, strict=True)
        ]


def onsets_s(values: npt.NDArray[np.floating], dt_s: float) -> list[float]:
    """When each event of a channel begins [s]: the rise through half its height; a sound when it first arrives."""
    ground = look(values, dt_s)
    if ground.peak <= 0 or not ground.windows or ground.peak < 6 * ground.noise:
        return []
    level = values.astype(np.float64) - ground.baseline
    # Sound swings both ways about silence; light and triggers go one way.
    sounds = min(level.max(), -level.min()) > _BOTH_WAYS * max(
        level.max(), -level.min()
    )
    if sounds:
        curve = np.abs(level)
    else:
        curve = ground.sign * level
    found = []
    for begin, end in ground.windows:
        part = curve[max(begin - 3, 0) : end]
        top = float(part.max())
        if sounds:
            wanted = max(_ARRIVAL * top, 6 * ground.noise)
        else:
            wanted = 0.5 * top
        if top < 0.3 * float(curve.max()):
            continue  # a pre-flash or ringing, not an event of its own
        first = int(np.argmax(part >= wanted))
        at = float(max(begin - 3, 0) + first)
        if first > 0 and part[first] > part[first - 1]:
            # Between the two samples, by a straight line: lags are shorter than many sample
            # intervals.
            at -= float((part[first] - wanted) / (part[first] - part[first - 1]))
        found.append(at * dt_s)
    return found


def _pairs(events: list[float], lights: list[float]) -> tuple[list[float], int]:
    """Lag of the first light after each event and before the next; and how many events stay without one."""
    found, alone = [], 0
    for event, following in pairwise([*events, math.inf]):
        # A light before the event belongs to another, one after the next event to that one.
        light = next((at for at in lights if event <= at < following), None)
        if light is None:
            alone += 1
        else:
            found.append(light - event)
    return found, alone


def measure_lags(recording: Recording, event: int, light: int) -> LagResult:
    """The lag from one channel's events to another's, over all sweeps of a recording.

    Raises TraceError where the channels are the same, are not there, or hold no pair.
    """
    if event == light:
        raise TraceError(
            "Choose two different channels: what comes first, and the light."
        )
    recording.channel(event)
    recording.channel(light)
    lags: list[float] = []
    unmatched = 0
    for segment in recording.segments:
        found, alone = _pairs(
            onsets_s(segment.values[event], segment.dt_s),
            onsets_s(segment.values[light], segment.dt_s),
        )
        lags += found
        unmatched += alone
    if not lags:
        first, then = recording.channels[event], recording.channels[light]
        raise TraceError(
            f"No rise of “{first}” is followed by one of “{then}”. Check which channel is which."
        )
    dt = recording.segments[0].dt_s
    if len(lags) > 1:
        jitter = float(np.std(lags, ddof=1))
    else:
        jitter = None
    # Both ends of a lag are read to half a sample interval.
    spread = math.hypot((jitter or 0.0) / math.sqrt(len(lags)), dt / math.sqrt(6))
    return LagResult(
        lags_s=tuple(lags),
        mean_s=float(np.mean(lags)),
        jitter_s=jitter,
        least_s=min(lags),
        most_s=max(lags),
        u_mean_s=2 * spread,
        unmatched=unmatched,
        doubts=tuple(_doubts(lags, jitter, unmatched, dt)),
    )


def _doubts(
    lags: list[float], jitter: float | None, unmatched: int, dt_s: float
) -> list[str]:
    found = []
    if len(lags) < _FEW:
        found.append(
            f"Only {len(lags)} {'pop' if len(lags) == 1 else 'pops'}: record ten or more to trust the jitter."
        )
    if unmatched:
        found.append(
            f"{unmatched} of the events had no light after them: a missed pop, or another cause."
        )
    middle = float(np.median(lags))
    robust = 1.4826 * float(np.median(np.abs(np.array(lags) - middle)))
    # Few lags make a poor median of distances, so the plain spread has a say as well.
    usual = max(robust, 0.35 * (jitter or 0.0))
    strays = sum(abs(lag - middle) > max(_OUTLIER * usual, 3 * dt_s) for lag in lags)
    if strays:
        found.append(
            f"{strays} lag{'s lie' if strays > 1 else ' lies'} far from the others and count in the jitter."
        )
    if jitter is not None and jitter < dt_s:
        found.append(
            "The jitter is smaller than the time between two samples: sample faster to resolve it."
        )
    return found
