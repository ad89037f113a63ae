"""The figures of one pulse on a level ground: t.5, t.1, rise, peak, integral and light span.

t.5 and t.1 run between the first and the last instants above half and a tenth of the peak (ISO 2827). On clean curves
they are read by straight lines between samples. On noisy ones the curve is smoothed, and each crossing is read off a
parabola through its surroundings.
"""

import math
from dataclasses import dataclass

import numpy as np
from scipy.ndimage import uniform_filter1d

from rapzel.core.trace.measuring.smoothing import Array, smoothed, smoothing


@dataclass(frozen=True)
class Figures:
    """One pulse; times in seconds from the first sample given, None where the curve does not reach the level."""

    peak: float
    peak_at_s: float
    first05_s: float | None
    last05_s: float | None
    first01_s: float | None
    last01_s: float | None
    rise_s: float | None
    time_to_peak_s: float | None
    light_integral: float
    light_span_s: float | None
    ends_at: float  # share of the peak at the last sample

    @property
    def t05_s(self) -> float | None:
        return _between(self.first05_s, self.last05_s)

    @property
    def t01_s(self) -> float | None:
        return _between(self.first01_s, self.last01_s)


def _between(first: float | None, last: float | None) -> float | None:
    if first is None or last is None:
        return None
    return last - first


def measure(
    curve: Array, dt_s: float, noise: float, width: int | None = None
) -> Figures:
    """The figures of a pulse: curve above its baseline [V], `dt_s` between samples [s], noise of one sample [V].

    `width` sets the smoothing; None lets it follow the noise.
    """
    if width is None:
        window = smoothing(curve, noise)
    else:
        window = width
    shape = smoothed(curve, window)
    top = int(np.argmax(shape))
    # Smoothing overshoots beside a sudden rise; no sample was ever higher than the highest of them.
    peak = min(float(shape[top]), float(curve.max()))
    rough = window > 1
    crossings = {
        level: (
            _first(shape, curve, level * peak, top, rough),
            _last(shape, curve, level * peak, top, rough),
        )
        for level in (0.1, 0.5, 0.9)
    }
    t = {
        level: tuple(None if at is None else at * dt_s for at in pair)
        for level, pair in crossings.items()
    }
    first01, last01 = t[0.1]
    # Sums need no smoothing: noise averages out in them by itself.
    integral, span = _light(curve, dt_s, crossings[0.1], window)
    return Figures(
        peak=peak,
        peak_at_s=top * dt_s,
        first05_s=t[0.5][0],
        last05_s=t[0.5][1],
        first01_s=first01,
        last01_s=last01,
        rise_s=_between(first01, t[0.9][0]),
        time_to_peak_s=None if first01 is None else top * dt_s - first01,
        light_integral=integral,
        light_span_s=span if first01 is not None and last01 is not None else None,
        ends_at=_end_level(curve[::-1], window) / peak if peak > 0 else math.nan,
    )


def _end_level(curve: Array, window: int) -> float:
    return float(curve[: max(window // 2, 1)].mean())


def _first(
    shape: Array, curve: Array, level: float, top: int, rough: bool
) -> float | None:
    """Where the curve first rises through a level [samples]; None where it begins above."""
    above = np.flatnonzero(shape[: top + 1] >= level)
    if above.size == 0:
        return None
    here = int(above[0])
    if rough:
        # Noise far ahead of the pulse may touch the level: the crossing that counts leads up to half of the peak.
        half = int(np.argmax(shape[: top + 1] >= max(level, 0.5 * shape[top])))
        here = _leads_up(shape, level, half)
        # as on the tail, below
        shape = uniform_filter1d(shape, max((half - here) // 3, 1))
        here = _leads_up(shape, level, half)
    if here == 0:
        return None
    # Between two samples a straight line is as good as the curve is known.
    at = _line(shape, here - 1, level)
    if not rough:
        return at
    low, high = _neighbourhood(shape, level, here, 0, top)
    return _refined(curve, level, low, high, at)


def _leads_up(shape: Array, level: float, to: int) -> int:
    """The first of the samples that stay above a level up to a place."""
    below = np.flatnonzero(shape[: to + 1] < level)
    if below.size:
        return int(below[-1]) + 1
    return 0


def _last(
    shape: Array, curve: Array, level: float, top: int, rough: bool
) -> float | None:
    """Where the curve last falls through a level [samples]; None where it ends above."""
    if rough:
        # The tail read backwards is a rise, with the same care about noise.
        turned = _first(shape[::-1], curve[::-1], level, len(shape) - 1 - top, rough)
        if turned is None:
            return None
        return len(shape) - 1 - turned
    above = np.flatnonzero(shape[top:] >= level)
    if above.size:
        here = top + int(above[-1])
    else:
        here = top
    if here >= len(shape) - 1:
        return None
    return _line(shape, here, level)


def _line(shape: Array, before: int, level: float) -> float:
    a, b = float(shape[before]), float(shape[before + 1])
    return before + ((level - a) / (b - a) if a != b else 0.0)


def _neighbourhood(
    shape: Array, level: float, at: int, low: int, high: int
) -> tuple[int, int]:
    """The stretch around a crossing in which the curve stays between half and 1.6 times the level."""
    outside = (shape <= 0.5 * level) | (shape >= 1.6 * level)
    before, after = (
        np.flatnonzero(outside[low:at]),
        np.flatnonzero(outside[at + 1 : high + 1]),
    )
    if before.size:
        left = low + int(before[-1]) + 1
    else:
        left = min(low, at)
    if after.size:
        right = at + int(after[0])
    else:
        right = max(high, at)
    return left, right


def _refined(curve: Array, level: float, low: int, high: int, at: float) -> float:
    """The crossing of a parabola through the unsmoothed samples about it; `at` where that leads astray."""
    if high - low < 8:
        return at
    # Least squares about the middle, where all odd sums vanish; x runs from −1 to 1.
    half = (high - low) / 2
    x, y = np.linspace(-1.0, 1.0, high - low + 1), curve[low : high + 1]
    count, second, fourth = len(x), float(x @ x), float((x**2) @ (x**2))
    bend = (count * float((x**2) @ y) - second * float(y.sum())) / (
        count * fourth - second**2
    )
    slope, mean = float(x @ y) / second, (float(y.sum()) - bend * second) / count
    here = (at - low) / half - 1
    c, b = mean + slope * here + bend * here**2 - level, slope + 2 * bend * here
    inside = b * b - 4 * bend * c
    if inside < 0 or b == 0:
        return at
    # The root nearer to `at`, in the form that does not lose it where the parabola is almost straight.
    nearest = -2 * c / (b + math.copysign(math.sqrt(inside), b)) * half
    if abs(nearest) <= half:
        return at + nearest
    return at


def _light(
    curve: Array, dt_s: float, crossing: tuple[float | None, float | None], window: int
) -> tuple[float, float | None]:
    """(light integral, 5–95 % span [s]) from well before the first to well after the last crossing of a tenth."""
    first, last = crossing
    begin = 0 if first is None else first
    end = len(curve) - 1 if last is None else last
    reach = max(end - begin, 1.0)
    low = max(int(begin - 0.5 * reach - window), 0)
    high = min(int(end + 4 * reach) + 2, len(curve))
    part = curve[low:high]
    running = np.concatenate([[0.0], np.cumsum((part[1:] + part[:-1]) / 2)])
    total = float(running[-1])
    if total <= 0:
        return total * dt_s, None
    # Noise lets a running integral sink a little; a share of it must be passed once.
    rising = np.maximum.accumulate(running)
    inner = np.interp([0.05 * total, 0.95 * total], rising, np.arange(len(rising)))
    return total * dt_s, float(inner[1] - inner[0]) * dt_s
