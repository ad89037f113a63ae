"""The jet's tip: ballistic once it has left the surface, its launch and speed from logged frames (science §14).

z(t) = v (t − t₀) − g (t − t₀)²/2. Since g is known, z + g t²/2 = a t − b with a = v + g t₀ and b = v t₀ + g t₀²/2: a
straight line through the frames. Each frame is another try's jet, so what is left over is how much jets differ.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.stats import t as student

from rapzel.core.shared.constants import GRAVITY_M_S2
from rapzel.core.shared.errors import CoreError

FRAMES_FOR_AN_OUTLIER = 4  # of three, any two make a jet that the third is off from
_OUTLIER_P = 0.02  # of finding one among good frames, all of them together
_EXACT_M = 5e-4  # no height is read off a frame more finely (memory)
# Jets of one rig commonly differ by so much of their height; that counts as much as so many frames do (memory).
_USUAL_SPREAD, _USUAL_FRAMES = 0.02, 4
_ONE_SD = 0.8413447460685429  # Φ(1)

Array = npt.NDArray[np.float64]


class NoJet(CoreError, ValueError):
    """Frames that show no jet, with what would."""


@dataclass(frozen=True, slots=True)
class Jet:
    """A jet: when its tip leaves the surface [s] and how fast [m/s]; how much jets differ, where that is known.

    sd_m: standard deviation of tip heights about the fit [m]; launch_sd_s, speed_sd_m_s: how well the two are known;
    None where two frames leave it open.
    """

    launch_s: float
    speed_m_s: float
    sd_m: float | None = None
    launch_sd_s: float | None = None
    speed_sd_m_s: float | None = None

    @property
    def apex_s(self) -> float:
        return self.launch_s + self.speed_m_s / GRAVITY_M_S2

    @property
    def apex_m(self) -> float:
        return self.speed_m_s**2 / (2 * GRAVITY_M_S2)

    @property
    def falls_back_s(self) -> float:
        return self.launch_s + 2 * self.speed_m_s / GRAVITY_M_S2

    def height_m(self, time_s: float) -> float:
        """Height of the tip [m]; 0 before it rises and after it has fallen back."""
        since = time_s - self.launch_s
        if since > 0:
            return max(self.speed_m_s * since - GRAVITY_M_S2 * since**2 / 2, 0.0)
        return 0.0

    def rising_m_s(self, time_s: float) -> float:
        """Speed of the tip [m/s], up positive."""
        return self.speed_m_s - GRAVITY_M_S2 * (time_s - self.launch_s)

    def reaches_s(self, height_m: float, falling: bool = False) -> float | None:
        """When the tip is at a height on its way up, or down; None where it never is."""
        left = self.speed_m_s**2 - 2 * GRAVITY_M_S2 * height_m
        if left < 0 or height_m < 0:
            return None
        root = math.sqrt(left)
        return (
            self.launch_s
            + (self.speed_m_s + (root if falling else -root)) / GRAVITY_M_S2
        )


@dataclass(frozen=True)
class Fitted:
    """A jet from frames: what each frame is off by [m], and the one that was left out as another jet's; None: none."""

    jet: Jet
    off_m: tuple[float, ...]
    left_out: int | None
    chance: float | None  # of so odd a frame among good ones
    cov: Array  # of the line's coefficients, for a scatter of 1 m
    free: int  # frames beyond the two that a jet takes

    @property
    def differ_m(self) -> float | None:
        """How much jets differ at one instant [m, sd], widened for what few frames leave open; None with two."""
        if self.jet.sd_m is None:
            return None
        return self.jet.sd_m * known_badly(self.free)

    def doubt_m(self, time_s: float) -> float | None:
        """How well the usual height of the tip at an instant is known [m, sd]; None with two frames."""
        if self.differ_m is None:
            return None
        row = np.array([time_s, -1.0])
        return self.differ_m * math.sqrt(float(row @ self.cov @ row))


def _line(time_s: Array, height_m: Array) -> tuple[Array, Array, float]:
    """Coefficients (a, b), their unscaled covariance, and the sum of squares that is left."""
    # Height + g t²/2 is a straight line in time: a = v + g t₀ its slope, b what is below it.
    design = np.column_stack([time_s, -np.ones_like(time_s)])
    wanted = height_m + GRAVITY_M_S2 * time_s**2 / 2
    middle = float(time_s.mean())
    # about the middle: a line far from its origin is badly conditioned
    design[:, 0] -= middle
    found, *_ = np.linalg.lstsq(design, wanted, rcond=None)
    left = wanted - design @ found
    turn = np.array([[1.0, 0.0], [middle, 1.0]])
    cov = turn @ np.linalg.inv(design.T @ design) @ turn.T
    return turn @ found, cov, float(left @ left)


def known_badly(free: int) -> float:
    """By how much a standard deviation from few frames has to be widened: Student's t against normal."""
    return float(student.ppf(_ONE_SD, free))


def _jet_of(line: Array, cov: Array, sd_m: float | None, free: int) -> Jet:
    """Launch and speed from the line; raises NoJet where it is no jet that leaves the surface."""
    a, b = (float(each) for each in line)
    square = a**2 - 2 * GRAVITY_M_S2 * b
    if square <= 0:
        raise NoJet(
            "these frames are of no tip that left the surface and rises by gravity alone: "
            "one of the delays or heights is of another jet"
        )
    # With t₀ = (a − v) / g, b = v t₀ + g t₀²/2 leaves v² = a² − 2 g b.
    speed = math.sqrt(square)
    launch = (a - speed) / GRAVITY_M_S2
    if sd_m is None:
        return Jet(launch, speed)
    # How both move with the line's coefficients, for their doubts.
    speed_by = np.array([a, -GRAVITY_M_S2]) / speed
    launch_by = (np.array([1.0, 0.0]) - speed_by) / GRAVITY_M_S2
    wide = sd_m * known_badly(free)
    return Jet(
        launch,
        speed,
        sd_m,
        wide * math.sqrt(float(launch_by @ cov @ launch_by)),
        wide * math.sqrt(float(speed_by @ cov @ speed_by)),
    )


def _odd_one(time_s: Array, height_m: Array) -> tuple[int, float] | None:
    """The frame that fits the others worst, and the chance of that among good ones; None where too few tell.

    Each frame against the line of the others (deleted residuals, Student's t), times the number of frames (Bonferroni).
    How much jets commonly differ stands beside what the others show: of four frames one alone tells the scatter, and
    no residual however large would be odd by it.
    """
    count = len(time_s)
    if count < FRAMES_FOR_AN_OUTLIER:
        return None
    worst, least = 0, math.inf
    for place in range(count):
        others = np.arange(count) != place
        if np.ptp(time_s[others]) <= 0:
            continue
        line, cov, squares = _line(time_s[others], height_m[others])
        row = np.array([time_s[place], -1.0])
        off = (
            height_m[place] + GRAVITY_M_S2 * time_s[place] ** 2 / 2 - float(row @ line)
        )
        free = count - 3 + _USUAL_FRAMES
        usual_m = max(_EXACT_M, _USUAL_SPREAD * float(height_m.max()))
        sd = math.sqrt((squares + _USUAL_FRAMES * usual_m**2) / free)
        # Frames that agree better than they can be read would make any other one odd.
        sd = max(sd, _EXACT_M)
        reach = abs(off) / (sd * math.sqrt(1 + float(row @ cov @ row)))
        chance = 2 * float(student.sf(reach, free))
        if chance < least:
            worst, least = place, chance
    return worst, min(least * count, 1.0)


def fit_jet(frames: Sequence[tuple[float, float]]) -> Fitted:
    """The jet that frames of (time of the light [s], height of the tip [m]) show. Raises NoJet where they show none.

    Two frames give launch and speed; more also how well they are known, and four or more name one that is another's.
    """
    time_s, height_m = (
        np.array(part, dtype=float) for part in zip(*frames, strict=True)
    )
    if len(frames) < 2 or np.ptp(time_s) < 1e-6:
        raise NoJet("a jet takes two or more frames at different delays")
    odd = _odd_one(time_s, height_m)
    if odd is not None and odd[1] < _OUTLIER_P:
        out = odd[0]
    else:
        out = None
    kept = np.arange(len(frames)) != (-1 if out is None else out)
    line, cov, squares = _line(time_s[kept], height_m[kept])
    free = int(kept.sum()) - 2
    if free:
        sd = max(math.sqrt(squares / free), _EXACT_M)
    else:
        sd = None
    jet = _jet_of(line, cov, sd, free)
    since = time_s - jet.launch_s
    off = height_m - (jet.speed_m_s * since - GRAVITY_M_S2 * since**2 / 2)
    return Fitted(
        jet,
        tuple(float(each) for each in off),
        out,
        None if odd is None else odd[1],
        cov,
        free,
    )
