"""The ground a pulse stands on: baseline, polarity, noise, drift and ripple, and where the light is.

Long recordings are looked at in blocks first, so that the work grows with the pulse and not with the file.
"""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.ndimage import uniform_filter1d

from rapzel.core.trace.measuring import ripple
from rapzel.core.trace.measuring.smoothing import smoothing

Array = npt.NDArray[np.floating]
_BLOCKS = 8192
# samples of a window that are looked at one by one; longer ones are averaged
_MOST = 40_000
_PEAK_SAMPLES = 400  # that averaging must leave above half of the peak
# times the noise: the most that ten million samples of it reach by themselves
_STANDS_OUT = 5.5
# of the peak over the whole sweep, from which a sloping baseline is named
_DRIFT = 0.02


@dataclass(frozen=True)
class Ground:
    """What is known of a sweep before its pulse is measured. Levels in the channel's unit, light upwards."""

    baseline: float
    # from the first sample: when it was read, which matters where it drifts
    baseline_at_s: float
    sign: int  # −1 where the light goes down
    u_baseline: float  # standard uncertainty of the baseline
    noise: float  # standard deviation of one sample
    step: float  # of the converter; 0 where it cannot be seen
    peak: float  # rough, above the baseline
    drift: float  # over the whole sweep
    ripple_hz: float | None
    # sine and cosine part of the ripple, from the first sample on
    wave: tuple[float, float]
    ripple: float  # peak to peak
    begins_lit: bool  # no quiet part before the pulse
    windows: list[tuple[int, int]]  # samples with light, first to last, without margins


@dataclass(frozen=True)
class Blocks:
    """A sweep in blocks: mean, least and most of each."""

    size: int
    mean: Array
    low: Array
    high: Array


def in_blocks(values: npt.NDArray[np.floating]) -> Blocks:
    """The sweep in at most some eight thousand blocks; a rest at the end is a block of its own kind, folded in."""
    size = max(len(values) // _BLOCKS, 1)
    if size == 1:
        plain = values.astype(np.float64)
        return Blocks(1, plain, plain, plain)
    whole = len(values) // size * size
    # A view, not a copy: ten million samples are looked at once for each of mean, least and most.
    grid = values[:whole].reshape(-1, size)
    rest = values[whole:]
    low, high = grid.min(axis=1).astype(np.float64), grid.max(axis=1).astype(np.float64)
    if rest.size:
        low[-1], high[-1] = (
            min(low[-1], float(rest.min())),
            max(high[-1], float(rest.max())),
        )
    return Blocks(size, grid.mean(axis=1, dtype=np.float64), low, high)


def noise_of(values: npt.NDArray[np.floating]) -> float:
    """Standard deviation of white noise on a smooth curve, from its second differences (robust: by the median)."""
    if len(values) <= 60_000:
        parts = [values]
    else:
        parts = [values[k : k + 20_000] for k in _thirds(len(values))]
    # Second differences take away every curve that is straight over three samples.
    second = np.concatenate([np.diff(part.astype(np.float64), 2) for part in parts])
    if second.size == 0:
        return 0.0
    # 1, −2, 1 make √6 of the noise; the median of distances is 0.6745 of a normal law's deviation.
    return float(np.median(np.abs(second)) / (0.6745 * math.sqrt(6)))


def _thirds(count: int) -> tuple[int, int, int]:
    return 0, count // 2 - 10_000, count - 20_000


def converter_step(values: npt.NDArray[np.floating]) -> float:
    """The step of the converter: the least difference of its levels; 0 where there are too many levels to tell."""
    levels = np.unique(values[:: max(len(values) // 50_000, 1)])
    if (
        len(levels) < 3
        or len(levels) > 5000
        or len(levels) > 0.5 * min(len(values), 50_000)
    ):
        return 0.0
    return float(np.diff(levels).min())


def _ends(blocks: Blocks) -> tuple[float, float, float, bool]:
    """Level of the start and of the end, the range, and whether the start lies still."""
    count = len(blocks.mean)
    few = max(min(count // 50, 160), min(8, count))
    start, end = blocks.mean[:few], blocks.mean[-few:]
    range_ = float(blocks.high.max() - blocks.low.min())
    if count > 16:
        scatter = noise_of(blocks.mean)
    else:
        scatter = 0.0
    # So many blocks of noise alone span hardly more than eight of its deviations.
    still = float(np.ptp(start)) <= max(8 * scatter, 0.05 * range_)
    return float(np.median(start)), float(np.median(end)), range_, still


def _baseline(first: float, blocks: Blocks) -> tuple[float, int, bool]:
    """(baseline, sign, whether the light begins with the sweep); `first` is the first sample."""
    start, end, _, still = _ends(blocks)
    if not still:
        low, high = float(blocks.low.min()), float(blocks.high.max())
        if high - end >= end - low:
            sign = 1
        else:
            sign = -1
        # Whichever is darker: the sweep ends in the tail, or began just before the rise.
        return (min(first, end) if sign > 0 else max(first, end)), sign, True
    # Light goes the way in which the sweep goes furthest.
    up, down = float(blocks.high.max()) - start, start - float(blocks.low.min())
    if up < down and start - end > 0.5 * (up + down):
        return end, 1, True  # it stands high and ends low: the sweep began in the light
    return start, (1 if up >= down else -1), False


def look(values: npt.NDArray[np.floating], dt_s: float) -> Ground:
    """The ground of one sweep: values of one channel, `dt_s` between them [s]."""
    blocks = in_blocks(values)
    baseline, sign, begins_lit = _baseline(float(values[0]), blocks)
    noise = noise_of(values)
    times = (np.arange(len(blocks.mean)) + 0.5) * blocks.size * dt_s
    hertz, wave, blocks = _without_ripple(blocks, times, sign * baseline, sign, noise)
    # a swinging start looks like light: without the ripple it is read anew
    if hertz is not None:
        baseline, sign, begins_lit = _baseline(float(values[0]) - wave[1], blocks)
    tops = (blocks.high if sign > 0 else -blocks.low) - sign * baseline
    lit, peak = _lit(tops, sign * (blocks.mean - baseline), noise, blocks.size)
    # What is dark can be known only once it is known what is lit.
    dark = Dark.of(blocks, times, lit)
    level, slope = _line(dark.times, dark.means, begins_lit)
    if level is not None and not begins_lit:
        baseline = dark.level(level)
        # What comes after may be the last of the tail, so that only what is far before tells scatter.
        noise = max(noise, _scatter(blocks, dark.places[: dark.far]))
    if level is not None and not begins_lit:
        read_at = dark.read_at()
    else:
        read_at = dark.times
    step = converter_step(values)
    drift = _drift(dark, slope, sign, step) * len(values) * dt_s
    return Ground(
        baseline=baseline,
        # Where the ground drifts, its level belongs to the instant at which it was read.
        baseline_at_s=float(np.mean(read_at)) if read_at.size else 0.0,
        u_baseline=noise / math.sqrt(max(dark.far * blocks.size, 1)),
        sign=sign,
        noise=noise,
        step=step,
        peak=peak,
        drift=drift if abs(drift) > _DRIFT * peak else 0.0,
        ripple_hz=hertz,
        wave=wave,
        ripple=2 * math.hypot(*wave),
        begins_lit=begins_lit,
        windows=_windows(lit, blocks.size, len(values)),
    )


@dataclass(frozen=True)
class Dark:
    """The blocks without light: their places, times [s] and means, and how many lie before the light."""

    places: npt.NDArray[np.intp]
    times: Array
    means: Array
    before: int

    @classmethod
    def of(cls, blocks: Blocks, times: Array, lit: npt.NDArray[np.intp]) -> "Dark":
        places = _quiet(len(blocks.mean), lit)
        return cls(places, times[places], blocks.mean[places], _before(places, lit))

    @property
    def far(self) -> int:
        """How many blocks to read the baseline from: the half of what is before the light that is furthest from it.

        Nearer to the light, the skirts of a soft pulse begin unseen. Fewer than sixteen are too few to halve.
        """
        if self.before < 16:
            return self.before
        return self.before // 2

    def level(self, mean_level: float) -> float:
        """The baseline: the median of the far half, or the mean of all where hardly anything lies before the light."""
        if self.before >= 8:
            return float(np.median(self.means[: self.far]))
        return mean_level

    def read_at(self) -> Array:
        """When the baseline was read [s]."""
        if self.before >= 8:
            return self.times[: self.far]
        return self.times


def _drift(dark: Dark, slope: float | None, sign: int, step: float) -> float:
    """The slope of the ground [unit a second], 0 where what slopes is something else."""
    if slope is None:
        return 0.0
    # between two levels of the converter
    wavers = abs(slope) * float(np.ptp(dark.times)) < 2 * step
    tail = _is_a_tail(dark.times, sign * dark.means, dark.before, sign * slope)
    # Only what slopes on both sides, and goes on far from the light, is the ground itself.
    if wavers or tail or _is_a_skirt(dark.times, dark.means, dark.before, slope):
        return 0.0
    return slope


def _lit(
    tops: Array, means: Array, noise: float, size: int
) -> tuple[npt.NDArray[np.intp], float]:
    """(blocks with light, rough peak): where a block's extreme, or its mean smoothed, stands out of the noise."""
    peak = float(tops.max())
    # A twenty-fifth of the peak, well below the tenth that t.1 needs.
    found = tops > max(0.04 * peak, _STANDS_OUT * noise)
    quiet = noise / math.sqrt(size)
    if quiet <= 0.003 * peak:
        return np.flatnonzero(found), peak
    width = smoothing(means, quiet)
    plain = uniform_filter1d(means, width)
    high = float(plain.max())
    found |= plain > max(0.04 * high, 5 * quiet / math.sqrt(width))
    return np.flatnonzero(found), high if size == 1 else max(
        high, peak - _STANDS_OUT * noise
    )


def _windows(lit: npt.NDArray[np.intp], size: int, count: int) -> list[tuple[int, int]]:
    """Runs of lit blocks as sample ranges; gaps of up to three blocks or half the run so far do not part a run."""
    runs: list[list[int]] = []
    for block in lit:
        # Noise tears a faint tail into pieces; the longer the pulse, the wider the gaps that may
        # lie in it.
        if runs and block - runs[-1][1] <= max(3, (runs[-1][1] - runs[-1][0]) // 2):
            runs[-1][1] = int(block)
        else:
            runs.append([int(block), int(block)])
    return [(first * size, min((last + 1) * size, count)) for first, last in runs]


def _quiet(count: int, lit: npt.NDArray[np.intp]) -> npt.NDArray[np.intp]:
    """Blocks without light: what lies before it and well after each run of it."""
    dark = np.ones(count, dtype=bool)
    for first, last in _windows(lit, 1, count):
        # A tail that has sunk to a few hundredths needs about as long again to be gone; a slow rise begins unseen.
        begin = max(first - 2 - (last - first) // 40, first // 2)
        dark[begin : last + max(last - first, 4)] = False
    return np.flatnonzero(dark)


def _before(quiet: npt.NDArray[np.intp], lit: npt.NDArray[np.intp]) -> int:
    if lit.size:
        return int(np.searchsorted(quiet, lit[0]))
    return len(quiet)


def _without_ripple(
    blocks: Blocks, times: Array, level: float, sign: int, noise: float
) -> tuple[float | None, tuple[float, float], Blocks]:
    """(frequency, sine and cosine part, the blocks with it taken off), before anything weak is looked for.

    Ripple is sought where the strong light is not: well after it, for its tail must not be taken for a wave.
    """
    tops = (blocks.high if sign > 0 else -blocks.low) - level
    peak = float(tops.max())
    # Ripple itself may reach a third of the peak: only what is above that is surely light.
    strong = np.flatnonzero(tops > max(0.3 * peak, _STANDS_OUT * noise))
    dark = np.ones(len(times), dtype=bool)
    for first, last in _windows(strong, 1, len(times)):
        dark[
            max(first - 2 - (last - first) // 20, first // 2) : last
            + 3 * max(last - first, 4)
        ] = False
    quiet = (times[dark], blocks.mean[dark], peak, noise / math.sqrt(blocks.size))
    hertz, wave = ripple.mains(*quiet)
    if hertz is None:
        hertz, wave = ripple.faster(*quiet)
    if hertz is None:
        return None, wave, blocks
    turn = math.tau * hertz * times
    curve = wave[0] * np.sin(turn) + wave[1] * np.cos(turn)
    return (
        hertz,
        wave,
        Blocks(
            blocks.size, blocks.mean - curve, blocks.low - curve, blocks.high - curve
        ),
    )


def _line(
    times: Array, means: Array, begins_lit: bool
) -> tuple[float | None, float | None]:
    """(mean level, slope a second) of the quiet part; the slope only where it is beyond doubt."""
    if len(times) < 12 or begins_lit:
        return None, None
    middle = times.mean()
    apart = times - middle
    # Least squares about the middle, where level and slope do not move each other.
    slope = float(apart @ means / (apart @ apart))
    rest = means - means.mean() - slope * apart
    doubt = float(np.sqrt(rest @ rest / (len(times) - 2) / (apart @ apart)))
    return float(means.mean()), slope if abs(slope) > 6 * doubt else None


def _is_a_tail(times: Array, means: Array, before: int, slope: float) -> bool:
    """Whether a slope is the last of the light and not a drift of the ground.

    A drift goes on in one direction: before, across and after the light. A tail stands above what was before the light
    and falls back by itself.
    """
    after, apart = (
        means[before:],
        times[before:] - times[before:].mean() if before < len(times) else times[:0],
    )
    if len(after) < 12:
        return False
    if before >= 4 and (float(after.mean()) - float(means[:before].mean())) * slope < 0:
        return True
    return slope > 0 and float(apart @ after) < 0


def _is_a_skirt(times: Array, means: Array, before: int, slope: float) -> bool:
    """Whether the slope is not there any more far from the light, where a drift would go on."""
    far = np.r_[0 : before // 2, before + (len(times) - before) // 2 : len(times)]
    if len(far) < 12:
        return False
    apart = times[far] - times[far].mean()
    there = float(apart @ means[far] / (apart @ apart))
    return there * slope <= 0 or abs(there) < 0.5 * abs(slope)


def _scatter(blocks: Blocks, quiet: npt.NDArray[np.intp]) -> float:
    """Scatter of single samples of the quiet part about its own line; coloured noise shows here alone."""
    if blocks.size > 1 or len(quiet) < 32:
        return 0.0
    level = blocks.mean[quiet]
    smooth = np.polyval(
        np.polyfit(np.arange(len(level)), level, 1), np.arange(len(level))
    )
    away = level - smooth
    # About its own line, so that a drift is not taken for noise.
    return float(1.4826 * np.median(np.abs(away - np.median(away))))


def grouping(samples: int, above_half: int) -> int:
    """How many samples to average into one: 1 unless the window is long and the pulse keeps enough of them."""
    return max(min(-(-samples // _MOST), above_half // _PEAK_SAMPLES), 1)
