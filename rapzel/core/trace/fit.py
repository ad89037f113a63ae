"""The circuit model of science §4 fitted to a measured pulse: which circuit it looks like, and how far it is off.

Where a noisy pulse agrees with the model as well as its noise allows, the model is also the better ruler: its t.5 and
t.1 rest on all samples at once instead of the few about a crossing.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import OptimizeResult, least_squares

from rapzel.core.trace.figures import Array, Figures, measure
from rapzel.core.trace.result import Fit

_POINTS = 250
_GOOD = 0.004  # of the peak: an exponential that meets the curve so well needs no quench
_POOR = 0.015  # of the peak: a residual beyond it is told
_AGREES = 1.15  # residual over noise up to which model and curve are the same
_DRAWS = 60
_COVERAGE = 2.2  # standard deviations; a little above two, because the noise is an estimate itself

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


def _points(curve: Array, dt_s: float, figures: Figures) -> tuple[Array, Array, int]:
    """Times [s] and levels [of the peak], from before the rise to well after the tail, in groups of so many."""
    end = (figures.last01_s or len(curve) * dt_s) + 1.5 * (figures.t01_s or 0.0)
    high = min(int(end / dt_s) + 2, len(curve))
    group = max(high // _POINTS, 1)
    whole = high // group * group
    levels = curve[:whole].reshape(-1, group).mean(axis=1) / figures.peak
    return (np.arange(len(levels)) + 0.5) * group * dt_s - 0.5 * dt_s, levels, group


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


def _best(model: Model, starts: list[list[float]], times: Array, levels: Array) -> OptimizeResult | None:
    found = []
    for start in starts:
        try:
            found.append(least_squares(lambda p: model(times, p) - levels, start, x_scale="jac", max_nfev=40))
        except (ValueError, FloatingPointError, OverflowError):
            continue
    return min(found, key=lambda each: each.cost, default=None)


def _starts(figures: Figures, dt_s: float) -> tuple[list[list[float]], list[list[float]]]:
    begin, t01, t05 = figures.first01_s or 0.0, figures.t01_s or dt_s, figures.t05_s or dt_s
    climb = max(figures.peak_at_s - begin, dt_s)
    plain = [[1.2, begin, math.log(t01 / 2.3), math.log(climb / k), 0.0] for k in (3, 12)]
    cut = [
        [1.3, begin, math.log(decay), math.log(max(climb / 3, decay / 100)), 0.0, math.log(part), math.log(glow)]
        for part, decay, glow in ((climb, t01 * 20, t01 / 2.5), (climb, t01, t01 / 5), (t05 * 0.9, t01 * 0.5, t01 / 10))
    ]
    return plain, cut


def solve(curve: Array, dt_s: float, noise: float, figures: Figures) -> Solution | None:
    """The model that fits the pulse best; None where t.1 cannot be read or nothing converges.

    curve: above its baseline, `dt_s` between samples [s]; noise: of one sample, in the curve's unit.
    """
    if figures.t01_s is None or figures.t05_s is None or figures.peak <= 0:
        return None
    times, levels, group = _points(curve, dt_s, figures)
    if len(times) < 12:
        return None
    quiet = noise / math.sqrt(group) / figures.peak
    plain_starts, cut_starts = _starts(figures, dt_s)
    with np.errstate(all="ignore"):
        found: list[tuple[Model, OptimizeResult, float]] = []
        for model, starts in ((_discharge, plain_starts), (_quenched, cut_starts)):
            best = _best(model, starts, times, levels)
            if best is not None:
                found.append((model, best, math.sqrt(2 * best.cost / len(times))))
            if quiet < _GOOD / 10 and found and found[0][2] < _GOOD:
                break  # the simpler circuit explains it all
    if not found:
        return None
    found.sort(key=lambda each: _information(each[2], len(times), each[1].x.size))
    best, *others = [Solution(m, r.x, r.jac, left, times, quiet, figures.peak) for m, r, left in found]
    return replace(best, rival=others[0]) if others else best


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
        found.append("The decay is hardly seen before the quench; the model's decay constant is a guess.")
    return found


def as_ruler(solution: Solution) -> dict[str, float] | None:
    """t.5, t.1 and light integral of the model with their expanded uncertainties; None where it does not agree.

    The parameters' covariance comes from the residual's slope (Gauss–Markov), the figures' from draws of it.
    """
    if not 0 < solution.residual <= _AGREES * solution.noise:
        return None
    normal = solution.jacobian.T @ solution.jacobian
    spread = np.linalg.pinv(normal) * solution.noise**2
    rng = np.random.default_rng(11)
    draws = rng.multivariate_normal(solution.parameters, spread, _DRAWS, check_valid="ignore", method="svd")
    with np.errstate(all="ignore"):
        here = _figures_of(solution, solution.parameters)
        several = [_figures_of(solution, draw) for draw in draws]
    kept = [each for each in several if each is not None]
    if here is None or len(kept) < _DRAWS * 0.8:
        return None
    doubt = _COVERAGE * np.std(np.array(kept), axis=0, ddof=1) + _rivalry(solution, here)
    return {
        "t05_s": here[0], "t01_s": here[1], "light_integral": here[2],
        "u_t05_s": float(doubt[0]), "u_t01_s": float(doubt[1]), "u_light_integral": float(doubt[2]),
    }  # fmt: skip


def _rivalry(solution: Solution, here: tuple[float, float, float]) -> Array:
    """By how much the other circuit would have answered otherwise, where the noise cannot tell the two apart."""
    rival = solution.rival
    if rival is None or rival.residual > _AGREES * rival.noise:
        return np.zeros(3)
    other = _figures_of(rival, rival.parameters)
    return np.zeros(3) if other is None else np.abs(np.array(other) - np.array(here))


def _figures_of(solution: Solution, parameters: Array) -> tuple[float, float, float] | None:
    length = float(solution.times[-1]) * 1.5
    fine = np.linspace(0.0, length, 3000)
    curve = (solution.model(fine, parameters) - parameters[4]) * solution.peak
    if not np.isfinite(curve).all() or float(curve.max()) <= 0:
        return None
    found = measure(curve, fine[1], 0.0, width=1)
    if found.t05_s is None or found.t01_s is None:
        return None
    return found.t05_s, found.t01_s, found.light_integral
