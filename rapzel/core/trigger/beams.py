"""Passes through a beam, many of them: how often the light finds the subject where it is wanted (science §11).

By simulation, and beside it the closed form for normal spreads. The subject gains speed evenly along its way, which is
exact for steady motion and for falls without drag. Lengths in m, times in s, places against the wanted one.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from scipy.stats import multivariate_normal

from rapzel.core.motion.kinematics import Number
from rapzel.core.motion.trajectory import Axes
from rapzel.core.trigger.crossing import (
    Crossing,
    Line,
    added,
    crossing,
    dot,
    scaled,
    sideways,
)
from rapzel.core.trigger.tries import Flags, Window, in_focus, in_frame, in_moment

# of the usual speed: a try that would stand still or turn back is drawn this slow
_SLOWEST = 0.01
_EXACT_M = 1e-9  # a spread below it is none
_GRID = 401
_BATCH = 2**15  # passes worked out together, so that they stay in the processor's cache


@dataclass(frozen=True, slots=True)
class Passes:
    """How the subject passes: its way at the beam (unit vector), speeds, spreads, and the chain behind the beam."""

    way: Axes
    speed_m_s: float
    speed_sd_m_s: float
    gains_m_s2: float
    upstream_m: float
    lag_s: float  # from the beam to the light, the set delay included
    jitter_s: float  # sd
    aside_sd_m: float
    above_sd_m: float
    zone_m: float = 0.0  # the sensor fires anywhere along so much of the way
    thick_m: float | None = None
    even_ways: bool = False  # ways spread evenly, with the same sd

    def gone_m(self, time_s: Number, faster_m_s: Number = 0.0) -> Number:
        """Way from the beam after a time [m]."""
        return (self.speed_m_s + faster_m_s) * time_s + self.gains_m_s2 / 2 * time_s**2

    def time_to_s(self, way_m: float) -> float:
        """Time for a way from the beam [s]; infinite where it is never gone."""
        v, a = self.speed_m_s, self.gains_m_s2
        if a == 0:
            if v > 0:
                return way_m / v
            return math.inf
        # A thrown thing that turns back before the way is gone never gets there.
        root = v * v + 2 * a * way_m
        if root >= 0 and (v > 0 or a > 0):
            # In the form that loses no digits where the acceleration is small.
            return 2 * way_m / (v + math.sqrt(root))
        return math.inf


@dataclass(frozen=True, slots=True)
class Landed:
    """Shares of the tries that the beam notices [0 … 1], and `joint` of all passes: who misses it leaves no keeper.

    noticed: of all passes; error_share: standard error.
    """

    in_frame: float
    in_focus: float
    in_place: float | None
    framed_and_sharp: float  # whether or not in the place
    joint: float
    noticed: float
    along_sd_m: float
    error_share: float


def _offset(passes: Passes, along_m: Number, beside: Axes) -> Axes:
    return added(scaled(passes.way, along_m - passes.upstream_m), beside)


def _flags(passes: Passes, window: Window, offset: Axes) -> dict[str, Flags]:
    flags = {
        "in_frame": in_frame(offset, passes.way, window),
        "in_focus": in_focus(offset, window),
    }
    near = in_moment(offset, 0.0, replace(window, lasts_s=None))
    if near is None:
        return flags
    return {**flags, "in_place": near}


class _Tally:
    """Counts of the tries that the beam noticed, gathered batch by batch."""

    def __init__(self) -> None:
        self.passes = self.noticed = 0
        self.counts: dict[str, int] = {}
        self.sum = self.squares = 0.0

    def add(self, flags: dict[str, Flags], counted: Flags, along: Number) -> None:
        # Summed in double: squares of a million singles would lose their last digits.
        own = np.broadcast_to(along, counted.shape)[counted].astype(np.float64)
        self.passes += counted.size
        self.noticed += own.size
        self.sum += float(own.sum())
        self.squares += float(np.dot(own, own))
        joint = np.logical_and.reduce(np.broadcast_arrays(*flags.values()))
        both = flags["in_frame"] & flags["in_focus"]
        for name, flag in {**flags, "framed_and_sharp": both, "joint": joint}.items():
            hits = int(np.count_nonzero(np.broadcast_to(flag, counted.shape) & counted))
            self.counts[name] = self.counts.get(name, 0) + hits

    def landed(self) -> Landed:
        number = max(self.noticed, 1)
        share = {name: count / number for name, count in self.counts.items()}
        mean = self.sum / number
        joint = self.counts["joint"] / self.passes
        # Where all or none land, the error is that of half a try.
        variance = max(joint * (1 - joint), 0.25 / self.passes)
        return Landed(
            share["in_frame"],
            share["in_focus"],
            share.get("in_place"),
            share["framed_and_sharp"],
            joint,
            self.noticed / self.passes,
            math.sqrt(max(self.squares / number - mean**2, 0.0)),
            math.sqrt(variance / self.passes),
        )


def simulate(
    passes: Passes, window: Window, line: Line | None, tries: int, seed: int = 1
) -> Landed:
    """That many seeded passes, each with its own speed, way, and error in time; `line` None: every way is noticed."""
    rng, tally = np.random.default_rng(seed), _Tally()
    # One generator through all batches: the number of tries does not depend on how they are cut up.
    for begin in range(0, tries, _BATCH):
        _drawn_batch(passes, window, line, min(_BATCH, tries - begin), rng, tally)
    return tally.landed()


def _drawn_batch(
    passes: Passes,
    window: Window,
    line: Line | None,
    size: int,
    rng: np.random.Generator,
    tally: _Tally,
) -> None:
    # single precision, which Number does not name
    def drawn(sd: float, even: bool = False) -> Any:
        if sd <= 0:
            return 0.0
        if even:
            # An even spread is √12 times its standard deviation wide.
            return (rng.random(size, dtype=np.float32) - np.float32(0.5)) * (
                sd * math.sqrt(12)
            )
        return rng.standard_normal(size, dtype=np.float32) * sd

    # A normal spread knows no end; a subject that stands still before its beam is no pass.
    faster = np.maximum(drawn(passes.speed_sd_m_s), (_SLOWEST - 1) * passes.speed_m_s)
    late = passes.lag_s + drawn(passes.jitter_s)
    beside, cut = _beside(passes, line, drawn)
    further = 0.0 if cut is None else cut.further_m
    along = (
        further
        + drawn(passes.zone_m / math.sqrt(12), even=True)
        + passes.gone_m(late, faster)
    )
    flags = _flags(passes, window, _offset(passes, along, beside))
    noticed = np.ones(size, dtype=bool) if cut is None else cut.cuts(passes.thick_m)
    tally.add(flags, np.broadcast_to(noticed, (size,)), along)


def _beside(
    passes: Passes, line: Line | None, drawn: Callable[..., Any]
) -> tuple[Axes, Crossing | None]:
    """How far off the usual way each pass is, and where it cuts the beam."""
    if passes.aside_sd_m <= 0 and passes.above_sd_m <= 0:
        return Axes(0.0, 0.0, 0.0), None
    aside, above = sideways(passes.way)
    beside = added(
        scaled(aside, drawn(passes.aside_sd_m, passes.even_ways)),
        scaled(above, drawn(passes.above_sd_m, passes.even_ways)),
    )
    return beside, None if line is None else crossing(line, passes.way, beside)


@dataclass(frozen=True, slots=True)
class ClosedForm:
    """The same shares for normal spreads, all passes noticed: σ_x² = (t σ_v)² + (v σ_t)² and the ways' own."""

    in_frame: float
    in_focus: float
    joint: float
    along_sd_m: float
    along_mean_m: float  # past the place, along the way


def closed_form(passes: Passes, window: Window, line: Line | None) -> ClosedForm:
    """Shares from the normal law, linear about the usual try."""
    # The speed when the light comes turns an error in time into one of place.
    later, v = passes.lag_s, passes.speed_m_s + passes.gains_m_s2 * passes.lag_s
    mean = float(passes.gone_m(later)) - passes.upstream_m
    own = math.hypot(
        later * passes.speed_sd_m_s, v * passes.jitter_s, passes.zone_m / math.sqrt(12)
    )
    aside, above = sideways(passes.way)
    columns = [scaled(passes.way, own)]
    for unit_, sd in ((aside, passes.aside_sd_m), (above, passes.above_sd_m)):
        if line is None:
            further = 0.0
        else:
            further = float(crossing(line, passes.way, unit_).further_m)
        columns.append(scaled(added(unit_, scaled(passes.way, further)), sd))
    matrix = np.array([[float(part) for part in column] for column in columns])
    # Each column is an independent source of spread; their outer products add up.
    covariance, middle = (
        matrix.T @ matrix,
        np.array([mean * float(part) for part in passes.way]),
    )
    low, high = _bounds(window, passes.way)
    frame = _within(middle[:2], covariance[:2, :2], low[:2], high[:2])
    focus = _within(middle[2:], covariance[2:, 2:], low[2:], high[2:])
    joint = _within(middle, covariance, low, high)
    along = np.array([float(part) for part in passes.way])
    return ClosedForm(
        frame, focus, joint, float(np.sqrt(along @ covariance @ along)), mean
    )


def _bounds(window: Window, way: Axes) -> tuple[np.ndarray, np.ndarray]:
    """Least and most of (across, up, towards) that is in frame and focus, and within the place along each axis."""
    half = window.extent_m / 2
    wide = window.field_width_m / 2 - half * abs(float(way.across))
    high = window.field_height_m / 2 - half * abs(float(way.up))
    least = [-wide, -high, window.distance_m - window.far_m]
    most = [wide, high, window.distance_m - window.near_m]
    return np.array(least), np.array(most)


def _within(
    mean: np.ndarray, covariance: np.ndarray, low: np.ndarray, high: np.ndarray
) -> float:
    """Probability that a normal vector lies in a box; axes that do not vary are judged as they are."""
    if np.any(high < low):
        return 0.0
    still = np.diag(covariance) < _EXACT_M**2
    if np.any(
        (mean[still] < low[still] - _EXACT_M) | (mean[still] > high[still] + _EXACT_M)
    ):
        return 0.0
    moves = ~still
    if not moves.any():
        return 1.0
    # Standardised, so that spreads of metres and millimetres are equally well handled.
    sd = np.sqrt(np.diag(covariance)[moves])
    scaled_ = covariance[np.ix_(moves, moves)] / np.outer(sd, sd)
    lower, upper = (low[moves] - mean[moves]) / sd, (high[moves] - mean[moves]) / sd
    found = multivariate_normal.cdf(
        np.clip(upper, -40, 40),
        np.zeros(len(sd)),
        scaled_,
        allow_singular=True,
        lower_limit=np.clip(lower, -40, 40),
        rng=np.random.default_rng(1),
    )
    return float(np.clip(found, 0.0, 1.0))


def useless_share(passes: Passes, window: Window, line: Line) -> float | None:
    """Share of the beam's length that fires at nothing: cut there by the usual speed, the light finds it out of frame,
    focus or place; None for a beam of unknown length."""
    if line.length_m is None:
        return None
    # Asked from the beam: whoever cuts it here, where are they when the light comes?
    places = np.linspace(-line.length_m / 2, line.length_m / 2, _GRID)
    back = -float(dot(line.along, passes.way))
    square = added(line.along, scaled(passes.way, back))
    beside = scaled(square, places - line.offset_m)
    further = crossing(line, passes.way, beside).further_m
    along = further + passes.gone_m(passes.lag_s)
    flags = _flags(passes, window, _offset(passes, along, beside))
    return 1 - float(
        np.mean(np.logical_and.reduce(np.broadcast_arrays(*flags.values())))
    )
