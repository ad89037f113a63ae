"""The circuit model of science §4 fitted to a measured pulse: which circuit it looks like, and how far it is off.

Where a noisy pulse agrees with the model as well as its noise allows, the model is also the better ruler: its t.5 and
t.1 rest on all samples at once instead of the few about a crossing.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import leastsq

from rapzel.core.trace.measuring.figures import Figures
from rapzel.core.trace.measuring.result import Fit
from rapzel.core.trace.measuring.smoothing import Array, smoothing, sudden

_POINTS = 250
_INSTANTS = 3  # of a group at which the model is asked
_TURNS = 24  # of the search; each asks the model once and once more for every parameter
_ENOUGH = 1e-7  # relative change of residual or parameters that ends it
_GRID = 1500  # instants of a model curve that is measured
# of the peak: an exponential that meets the curve so well needs no quench
_GOOD = 0.004
_POOR = 0.015  # of the peak: a residual beyond it is told
_AGREES = 1.15  # residual over noise up to which model and curve are the same
_DRAWS = 60
# standard deviations; a little above two, because the noise is an estimate itself
_COVERAGE = 2.2

Model = Callable[[Array, Array], Array]


@dataclass(frozen=True)
class Solution:
    """A fitted model: its parameters, residual [of the peak] and the points it was fitted to."""

    model: Model
    parameters: Array
    jacobian: Array
    residual: float
    times: Array
    noise: float  # of one point, of the peak
    peak: float
    rival: "Solution | None" = None  # the other circuit, fitted to the same points

    @property
    def quenched(self) -> bool:
        return self.model is _quenched


def _points(
    curve: Array, dt_s: float, figures: Figures, jump: int | None
) -> tuple[Array, Array, int]:
    """Times [s] and levels [of the peak], from before the rise to well after the tail, in groups of so many.

    The times are points x instants: a level is the mean over its group, and so is what the model says of it. No group
    lies across a jump.
    """
    end = (figures.last01_s or len(curve) * dt_s) + 1.5 * (figures.t01_s or 0.0)
    high = min(int(end / dt_s) + 2, len(curve))
    group = max(high // _POINTS, 1)
    low = (jump or 0) % group
    whole = (high - low) // group * group
    levels = curve[low : low + whole].reshape(-1, group).mean(axis=1) / figures.peak
    instants = min(group, _INSTANTS)
    within = (np.arange(instants) + 0.5) / instants * group - 0.5
    times = (low + np.arange(len(levels))[:, None] * group + within) * dt_s
    return times, levels, group


def _jump(curve: Array, noise: float) -> int | None:
    """The first sample of a light that comes within two samples; None for a rise that is seen, or too clean to ask."""
    flanks = sudden(curve, smoothing(curve, noise))
    if (
        not flanks
        or flanks[0][1] - flanks[0][0] > 1
        or curve[flanks[0][1]] < curve[flanks[0][0] - 1]
    ):
        return None
    return flanks[0][1]


def _exp(log: float) -> float:
    """e^log, within what any strobe could be: the search may run off for a step or two."""
    return math.exp(min(max(log, -40.0), 10.0))


def _discharge(times: Array, p: Array) -> Array:
    """amplitude, start, decay, rise (log), ground: the double exponential, the ground alone before its start."""
    t = np.maximum(times - p[1], 0.0)
    return np.asarray(p[4] + p[0] * (np.exp(-t / _exp(p[2])) - np.exp(-t / _exp(p[3]))))


def _quenched(times: Array, p: Array) -> Array:
    """As above, cut at the quench (log of its time after the start) and followed by an afterglow (log)."""
    t = np.maximum(times - p[1], 0.0)
    quench, afterglow = _exp(p[5]), _exp(p[6])
    lit = np.minimum(t, quench)
    curve = np.exp(-lit / _exp(p[2])) - np.exp(-lit / _exp(p[3]))
    return np.asarray(p[4] + p[0] * curve * np.exp(-(t - lit) / afterglow))


@dataclass(frozen=True)
class _Found:
    """What the search came to; a parameter that was held has a column of zeros."""

    parameters: Array
    jacobian: Array
    residual: float
    free: int


def _search(
    model: Model,
    start: list[float],
    held: dict[int, float],
    times: Array,
    levels: Array,
) -> _Found:
    every = np.array(start)
    every[list(held)] = list(held.values())
    free = [place for place in range(len(start)) if place not in held]

    def full(p: Array) -> Array:
        whole = every.copy()
        whole[free] = p
        return whole

    # Each level is the mean of a group of samples, and so is the model's.
    equally = np.full(times.shape[1], 1 / times.shape[1])

    def away(p: Array) -> Array:
        return np.asarray(model(times, full(p)) @ equally - levels)

    asked = _TURNS * (len(free) + 1)
    best, *_ = leastsq(
        away, every[free], full_output=True, maxfev=asked, ftol=_ENOUGH, xtol=_ENOUGH
    )
    left = away(best)
    jacobian = np.zeros((len(levels), len(start)))
    for place, number in enumerate(free):
        # Forward differences: the parameters are of very unlike sizes.
        step = 1e-6 * max(abs(best[place]), 1e-3)
        jacobian[:, number] = (
            away(best + step * np.eye(len(free))[place]) - left
        ) / step
    return _Found(full(best), jacobian, math.sqrt(float(np.mean(left**2))), len(free))


def _best(
    model: Model,
    starts: list[list[float]],
    held: dict[int, float],
    times: Array,
    levels: Array,
) -> _Found | None:
    found = []
    for start in starts:
        try:
            found.append(_search(model, start, held, times, levels))
        except (ValueError, FloatingPointError, OverflowError):
            continue
    return min(found, key=lambda each: each.residual, default=None)


def _starts(
    figures: Figures, dt_s: float
) -> tuple[list[list[float]], list[list[float]]]:
    begin, t01, t05 = (
        figures.first01_s or 0.0,
        figures.t01_s or dt_s,
        figures.t05_s or dt_s,
    )
    climb = max(figures.peak_at_s - begin, dt_s)
    # A tenth of an exponential is passed after 2.3 decay times.
    plain = [
        [1.2, begin, math.log(t01 / 2.3), math.log(climb / k), 0.0] for k in (3, 12)
    ]
    cut = [
        [
            1.3,
            begin,
            math.log(decay),
            math.log(max(climb / 3, decay / 100)),
            0.0,
            math.log(part),
            math.log(glow),
        ]
        for part, decay, glow in (
            (climb, t01 * 20, t01 / 2.5),
            (climb, t01, t01 / 5),
            (t05 * 0.9, t01 * 0.5, t01 / 10),
        )
    ]
    return plain, cut


def solve(curve: Array, dt_s: float, noise: float, figures: Figures) -> Solution | None:
    """The model that fits the pulse best; None where t.1 cannot be read or nothing converges.

    curve: above its baseline, `dt_s` between samples [s]; noise: of one sample, in the curve's unit.
    """
    if figures.t01_s is None or figures.t05_s is None or figures.peak <= 0:
        return None
    jump = _jump(curve, noise)
    times, levels, group = _points(curve, dt_s, figures, jump)
    if len(times) < 12:
        return None
    # Start and rise of a jump hide behind each other in a fit; the samples themselves tell both.
    if jump is None:
        held = {}
    else:
        held = {1: (jump - 0.5) * dt_s, 3: math.log(dt_s / 10)}
    quiet = noise / math.sqrt(group) / figures.peak
    plain_starts, cut_starts = _starts(figures, dt_s)
    with np.errstate(all="ignore"):
        found: list[tuple[Model, _Found]] = []
        for model, starts in ((_discharge, plain_starts), (_quenched, cut_starts)):
            best = _best(model, starts, held, times, levels)
            if best is not None:
                found.append((model, best))
            if quiet < _GOOD / 10 and found and found[0][1].residual < _GOOD:
                break  # the simpler circuit explains it all
    if not found:
        return None
    # The quenched circuit has two parameters more, and always fits a little better.
    found.sort(
        key=lambda each: _information(each[1].residual, len(times), each[1].free)
    )
    best_one, *others = [
        Solution(
            model,
            each.parameters,
            each.jacobian,
            each.residual,
            times,
            quiet,
            figures.peak,
        )
        for model, each in found
    ]
    if others:
        return replace(best_one, rival=others[0])
    return best_one


def _information(residual: float, points: int, parameters: int) -> float:
    """Bayesian information criterion: more parameters must pay for themselves. Schwarz 1978."""
    return points * 2 * math.log(max(residual, 1e-12)) + parameters * math.log(points)


def described(solution: Solution) -> Fit:
    """The fitted circuit in words and constants."""
    p = solution.parameters
    return Fit(
        circuit="quenched" if solution.quenched else "exponential",
        decay_s=_exp(p[2]),
        rise_s=_exp(p[3]),
        quench_s=_exp(p[5]) if solution.quenched else None,
        afterglow_s=_exp(p[6]) if solution.quenched else None,
        residual_share=solution.residual,
        doubts=_doubts(solution),
    )


def _doubts(solution: Solution) -> list[str]:
    found = []
    if solution.residual > max(_POOR, 2 * solution.noise):
        found.append(
            f"The model is off by {solution.residual:.1%} of the peak on the mean: this pulse has another shape. "
            "Trust the figures read from the curve, not the model."
        )
    if solution.quenched:
        found.append(
            "The decay is hardly seen before the quench; the model's decay constant is a guess."
        )
    return found


def as_ruler(solution: Solution) -> dict[str, float] | None:
    """t.5 [s], t.1 [s] and light integral [V s] of the model with expanded uncertainties; None where it disagrees.

    The parameters' covariance comes from the residual's slope (Gauss–Markov), the figures' from draws of it.
    """
    if not 0 < solution.residual <= _AGREES * solution.noise:
        return None
    normal = solution.jacobian.T @ solution.jacobian
    # Parameters that hide behind each other make the normal matrix singular: the pseudo-inverse
    # leaves them free.
    spread = np.linalg.pinv(normal) * solution.noise**2
    rng = np.random.default_rng(11)
    draws = rng.multivariate_normal(
        solution.parameters, spread, _DRAWS, check_valid="ignore", method="svd"
    )
    with np.errstate(all="ignore"):
        here = _figures_of(solution, solution.parameters)
        several = [_figures_of(solution, draw) for draw in draws]
    kept = [each for each in several if each is not None]
    # A model of which many draws have no t.1 is no ruler.
    if here is None or len(kept) < _DRAWS * 0.8:
        return None
    doubt = _COVERAGE * np.std(np.array(kept), axis=0, ddof=1) + _rivalry(
        solution, here
    )
    return {
        "t05_s": here[0],
        "t01_s": here[1],
        "light_integral": here[2],
        "u_t05_s": float(doubt[0]),
        "u_t01_s": float(doubt[1]),
        "u_light_integral": float(doubt[2]),
    }


def _rivalry(solution: Solution, here: tuple[float, float, float]) -> Array:
    """By how much the other circuit would have answered otherwise, where the noise cannot tell the two apart."""
    rival = solution.rival
    if rival is None or rival.residual > _AGREES * rival.noise:
        return np.zeros(3)
    other = _figures_of(rival, rival.parameters)
    return np.zeros(3) if other is None else np.abs(np.array(other) - np.array(here))


def _figures_of(
    solution: Solution, parameters: Array
) -> tuple[float, float, float] | None:
    """(t.5 [s], t.1 [s], light integral) of the model's own curve: on a grid that is finest where it rises."""
    p = parameters
    length = 1.5 * float(solution.times[-1, -1]) - p[1]
    rise = min(_exp(p[3]), _exp(p[2]))
    since = np.geomspace(min(rise, length) / 50, length, _GRID)
    if solution.quenched:
        corner = _exp(p[5])
    else:
        corner = length
    since = np.concatenate([[0.0], np.sort(np.append(since, min(corner, length)))])
    curve = solution.model(since + p[1], p) - p[4]
    top = int(np.argmax(curve))
    if not np.isfinite(curve).all() or curve[top] <= 0:
        return None
    widths = []
    for level in (0.5 * curve[top], 0.1 * curve[top]):
        last = top + int(np.flatnonzero(curve[top:] >= level)[-1])
        if last + 1 >= len(curve):
            return None
        first = int(np.flatnonzero(curve >= level)[0])
        widths.append(
            _at(since, curve, last, level) - _at(since, curve, first - 1, level)
        )
    return widths[0], widths[1], float(np.trapezoid(curve, since)) * solution.peak


def _at(times: Array, curve: Array, place: int, level: float) -> float:
    """When the curve passes a level between a place and the next."""
    low, high = curve[place], curve[place + 1]
    return float(
        times[place] + (level - low) / (high - low) * (times[place + 1] - times[place])
    )
