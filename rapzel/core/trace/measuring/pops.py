"""Repeated pops: parting a long sweep into them, and what they amount to together."""

import math
from itertools import pairwise

import numpy as np

from rapzel.core.trace.measuring.ground import Ground, look
from rapzel.core.trace.measuring.result import (
    FIGURES,
    RecordingResult,
    Spread,
    TraceResult,
    Warned,
)
from rapzel.core.trace.reading.samples import Recording, Segment

# times the longest pop's length: windows closer than this are one pop with several pulses
_APART = 30.0
_SHORTEST = 64  # samples of a sweep that may hold several pops
_ALIKE = 0.5  # of the tallest: windows lower than this are pre-flashes, not pops


def singles(recording: Recording, channel: int) -> list[tuple[Segment, Ground | None]]:
    """The channel's sweeps with one pop each; a sweep of several alike pops far apart is parted between them.

    With a sweep that stays whole comes its ground, which has been looked at for that.
    """
    found: list[tuple[Segment, Ground | None]] = []
    for segment in recording.segments:
        values = segment.values[channel]
        if len(values) >= _SHORTEST:
            ground = look(values, segment.dt_s)
        else:
            ground = None
        if ground:
            cuts = _cuts(values, ground)
        else:
            cuts = []
        for begin, end in zip([0, *cuts], [*cuts, len(values)], strict=True):
            part = Segment(
                segment.t0_s + begin * segment.dt_s, segment.dt_s, (values[begin:end],)
            )
            found.append((part, None if cuts else ground))
    return found


def _cuts(values: np.ndarray, ground: Ground) -> list[int]:
    """Samples half way between pops; none where there is one pop, or several unlike ones."""
    if len(ground.windows) < 2 or ground.peak < 8 * ground.noise:
        return []
    longest = max(end - begin for begin, end in ground.windows)
    gaps = [right[0] - left[1] for left, right in pairwise(ground.windows)]
    light = [
        _light(values[begin:end], ground.baseline, ground.sign)
        for begin, end in ground.windows
    ]
    # A pre-flash is weaker, and follows its flash by less: such pairs stay together.
    if min(gaps) < _APART * longest or min(light) < _ALIKE * max(light):
        return []
    return [(left[1] + right[0]) // 2 for left, right in pairwise(ground.windows)]


def _light(values: np.ndarray, baseline: float, sign: int) -> float:
    return sign * float(np.sum(values, dtype=np.float64) - baseline * len(values))


def _spread(values: list[float]) -> Spread:
    if len(values) > 1:
        sd = float(np.std(values, ddof=1))
    else:
        sd = None
    return Spread(mean=float(np.mean(values)), sd=sd, count=len(values))


def summed(
    recording: Recording, channel: int, parts: list[Segment], results: list[TraceResult]
) -> RecordingResult:
    """Statistics over the pops: mean, standard deviation, spread and drift of the light in stops."""
    spreads = {}
    for name in FIGURES:
        known = [
            value for result in results if (value := getattr(result, name)) is not None
        ]
        if known:
            spreads[name] = _spread(known)
    stops = [
        math.log2(each.light_integral)
        for each in results
        if each.light_integral and each.light_integral > 0
    ]
    # One pop has no spread, and none is not the same as no spread.
    several = len(stops) > 1
    warnings: dict[str, Warned] = {}
    for result in results:
        for warning in result.warnings:
            warnings.setdefault(warning.code, warning)
    return RecordingResult(
        channel=recording.channels[channel],
        channel_number=channel,
        unit=recording.units[channel],
        samples=sum(part.count for part in parts),
        interval_s=parts[0].dt_s,
        pops=results,
        spreads=spreads,
        light_spread_stops=max(stops) - min(stops) if several else None,
        light_sd_stops=float(np.std(stops, ddof=1)) if several else None,
        light_drift_stops=_drift(stops) if len(stops) > 2 else None,
        warnings=list(warnings.values()),
        notes=list(recording.notes),
    )


def _drift(stops: list[float]) -> float:
    """Trend of the light from the first pop to the last [stops], by a straight line."""
    return float(np.polyfit(np.arange(len(stops)), stops, 1)[0] * (len(stops) - 1))
