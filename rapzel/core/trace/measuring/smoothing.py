"""Smoothing a noisy pulse without washing out its sudden flanks.

Local parabolas (Savitzky and Golay 1964) keep slopes and tops. A flank shorter than they are wide is found first, by
the step or ramp that meets the samples best, and each side of it is smoothed for itself.
"""

import itertools
from functools import cache

import numpy as np
import numpy.typing as npt
from scipy.ndimage import correlate1d, uniform_filter1d
from scipy.signal import savgol_coeffs

Array = npt.NDArray[np.floating]
_CLEAN = 0.0008  # noise, of the peak, below which nothing is smoothed
_TARGET = 0.002  # noise, of the peak, that smoothing aims for
_WIDEST = 0.12  # of the time above half: the longest smoothing
_SUDDEN = 0.4  # of the peak: the least height of a flank that is treated as one
# of a ramp's length: where its middle is tried
_SHIFTS = np.array([-0.5, -0.25, 0.0, 0.25, 0.5])


def smoothing(curve: Array, noise: float) -> int:
    """Samples to smooth over (odd; 1 for none), so that noise [V] falls to a few thousandths of the peak.

    Widened step by step: only a curve that is smooth enough already shows how wide its pulse is.
    """
    width, peak = 1, float(curve.max())
    if peak <= 0 or noise <= _CLEAN * peak:
        return 1
    while True:
        if width > 1:
            plain = uniform_filter1d(curve, width)
        else:
            plain = curve
        peak = float(plain.max())
        above = int(np.count_nonzero(plain > 0.5 * peak))
        # A parabola over n samples leaves 1.5 σ/√n of the noise in its middle (Savitzky and Golay).
        wanted = (1.5 * noise / (_TARGET * max(peak, 1e-300))) ** 2
        # Quiet enough, or as wide as the pulse bears without losing its top.
        if width >= wanted or width * 1.6 > max(_WIDEST * above, 5):
            return width | 1
        width = max(int(width * 1.6), width + 2)


def smoothed(curve: Array, width: int) -> Array:
    """The curve smoothed by local parabolas over `width` samples, its sudden flanks left standing."""
    if width < 5 or width >= len(curve):
        return curve
    cuts = [0, *itertools.chain.from_iterable(sudden(curve, width)), len(curve)]
    parts = []
    for number, (low, high) in enumerate(itertools.pairwise(cuts)):
        # Between the cuts sides and flanks take turns; a flank is smoothed over half its own
        # length.
        if number % 2 == 0:
            own = width
        else:
            own = (high - low) // 2 | 1
        parts.append(_beside_cuts(curve[low:high], own, low > 0, high < len(curve)))
    return np.concatenate(parts)


@cache
def _parabola(width: int) -> Array:
    """Weights that read the middle of a parabola through so many samples."""
    return np.asarray(savgol_coeffs(width, 2))


def _beside_cuts(part: Array, width: int, cut_before: bool, cut_after: bool) -> Array:
    """One side of a flank, smoothed. At a cut a straight line: a parabola's end is three times as noisy."""
    width = min(width, (len(part) - 1) | 1)
    if width < 5 or width >= len(part):
        return part
    # At the ends of the recording there is only dark, which a mirror leaves dark.
    out = np.asarray(correlate1d(part, _parabola(width), mode="mirror"))
    half = width // 2
    if cut_before:
        out[:half] = _line(part[:width])[:half]
    if cut_after:
        out[-half:] = _line(part[-width:])[-half:]
    return out


def _line(part: Array) -> Array:
    """The straight line of least squares through some samples."""
    x = np.arange(len(part)) - (len(part) - 1) / 2
    return np.asarray(part.mean() + x * float(x @ part) / float(x @ x))


def sudden(curve: Array, width: int) -> list[tuple[int, int]]:
    """The flanks that are too short for a smoothing over `width`: (first sample on it, first sample after it).

    At most one up and one down. A jump between two samples has none on it: both numbers are the same.
    """
    half = width // 2
    if width < 5 or len(curve) < 2 * width:
        return []
    plain = uniform_filter1d(curve, width)
    top, peak = int(np.argmax(plain)), float(plain.max())
    # At k: by how much the mean of the samples from k on stands above that of those before.
    total = np.concatenate([[0.0], np.cumsum(curve)])
    after = (total[2 * half :] - total[half:-half]) / half
    climb = after - (total[half:-half] - total[: -2 * half]) / half
    found = []
    # A rise is looked for before the top, a fall after it.
    for sign, low, high in ((1, 0, top + 1), (-1, max(top - 2 * half, 0), len(climb))):
        side = sign * climb[low:high]
        if side.size and float(side.max()) > _SUDDEN * peak:
            found.append(_ramp(curve, low + int(side.argmax()) + half, half))
    kept = [each for each in found if each is not None]
    apart = len(kept) < 2 or kept[0][1] + 4 < kept[1][0]
    if apart:
        return kept
    return []


@cache
def _tried(half: int) -> tuple[Array, Array]:
    """(lengths of ramps that are tried, where the middle of each is tried)."""
    lengths = np.unique(np.concatenate([[0], np.geomspace(1, half, 16).round()]))
    return np.repeat(lengths, len(_SHIFTS)), np.outer(lengths, _SHIFTS).ravel()


def _ramp(curve: Array, at: int, half: int) -> tuple[int, int] | None:
    """Where a flank about a sample begins and ends, by least squares; None where it is as long as the smoothing."""
    low, high = max(at - half, 0), min(at + half, len(curve))
    x, part = np.arange(low, high), curve[low:high]
    length, shift = _tried(half)
    middle = at - 0.5 + shift
    share = np.clip(
        0.5 + (x - middle[:, None]) / np.maximum(length, 1e-9)[:, None], 0.0, 1.0
    )
    # About its mean, so that a ramp explains the step and not the level.
    share -= share.mean(axis=1, keepdims=True)
    power = (share**2).sum(axis=1)
    # The squares that each ramp takes away: the most is the best fit.
    explained = (share @ (part - part.mean())) ** 2 / np.maximum(power, 1e-12)
    best = int(np.argmax(explained))
    if length[best] > 0.6 * half:
        return None  # so long a flank is followed by the parabolas themselves
    begin, end = middle[best] - length[best] / 2, middle[best] + length[best] / 2
    return int(np.ceil(begin)), int(np.floor(end)) + 1
