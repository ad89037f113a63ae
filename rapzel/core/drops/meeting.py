"""Two drops that meet: the first raises a jet, the second is let go so that it meets the jet's tip (science §14).

All times are counted from the command to the first valve [s], heights from the liquid's surface [m].
"""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from rapzel.core.drops.jet import Jet
from rapzel.core.motion.flight import Flight, Sphere, fly
from rapzel.core.shared import draws
from rapzel.core.shared.constants import GRAVITY_M_S2
from rapzel.core.shared.steps import settled

Array = npt.NDArray[np.float64]
_AT_THE_SURFACE_M = 1e-6
# Independent things that vary at once, as sources of draws.
_SECOND_STEP, _FLASH_STEP, _SECOND, _FIRST, _JETS, _DOUBT, _ASIDE, _DEPTH = range(1, 9)


@lru_cache(maxsize=64)
def fall_of(height_m: float, drop: Sphere | None) -> Flight:
    """The fall of a drop from rest at a height [m] to the surface, kept.

    Pages ask for the same one at every instant they show.
    """
    return fly(height_m, 0.0, 0.0, drop)


@dataclass(frozen=True, slots=True)
class Falling:
    """A drop of a valve: where it is let go [m], the valve's lag [s], and the drop; None falls without drag."""

    height_m: float
    lag_s: float = 0.0
    drop: Sphere | None = None

    @property
    def impact_s(self) -> float:
        """From the command to the surface [s]."""
        return self.lag_s + fall_of(self.height_m, self.drop).lands_s

    def reaches_s(self, height_m: float) -> float | None:
        """From the command to a height [s]; None above the valve."""
        fallen = fall_of(self.height_m, self.drop).reaches_s(height_m)
        if fallen is None:
            return None
        return self.lag_s + fallen

    def at(self, since_s: float) -> tuple[float, float]:
        """(height [m], speed down [m/s]) so long after the command; at the valve before it is let go."""
        falls_for = since_s - self.lag_s
        if falls_for <= 0:
            return self.height_m, 0.0
        _, height, speed = fall_of(self.height_m, self.drop).at(falls_for)
        return height, speed


@dataclass(frozen=True, slots=True)
class Meeting:
    """Where jet and second drop meet: when the second is let go, when and how high they meet, and how fast both are."""

    second_release_s: float
    at_s: float
    height_m: float
    rising_m_s: float
    falling_m_s: float
    slowing_m_s2: float  # of the falling drop by drag, at the meeting


def meeting_of(
    jet: Jet, second: Falling, height_m: float, falling: bool, step_s: float = 0.0
) -> Meeting | None:
    """The second release, in whole steps, that meets the jet nearest to a height; None where it cannot.

    falling: on the jet's way back instead of on its way up.
    """
    there, takes = jet.reaches_s(height_m, falling), second.reaches_s(height_m)
    if there is None or takes is None:
        return None
    return met_by(jet, second, settled(there - takes, step_s), there)


def met_by(
    jet: Jet, second: Falling, release_s: float, about_s: float
) -> Meeting | None:
    """Where a drop that is let go at a time [s] meets the jet, near an instant [s]; None where they pass."""
    at, step = about_s, 0.0
    # Newton's steps: the gap over the speed at which it closes.
    for _ in range(40):
        height, falls = second.at(at - release_s)
        gap = height - jet.height_m(at)
        closing = falls + jet.rising_m_s(at)
        # They move apart, or together: no instant is theirs.
        if closing <= 1e-6:
            return None
        step = gap / closing
        at += step
        if abs(step) < 1e-10:
            break
    height, falls = second.at(at - release_s)
    if (
        abs(step) > 1e-6
        or height <= _AT_THE_SURFACE_M
        or not jet.launch_s < at < jet.falls_back_s
    ):
        return None
    if second.drop is None:
        slowing = 0.0
    else:
        slowing = second.drop.slowing_m_s2(falls)
    return Meeting(release_s, at, height, jet.rising_m_s(at), falls, slowing)


@dataclass(frozen=True, slots=True)
class Scatter:
    """What differs from try to try. None is not known, and left out, which the answer says.

    step_s: of the unit, by half of which each command may be off; valve_sd_s: of a release; jets_sd_m: of tips at one
    instant; jets_doubt_m: how well the fit knows the usual height there; aside_sd_m: of drops sideways, each way;
    contains_first: whether the jets' spread was measured, and so contains that of the first valve.
    """

    step_s: float = 0.0
    valve_sd_s: float | None = None
    jets_sd_m: float | None = None
    jets_doubt_m: float | None = None
    aside_sd_m: float | None = None
    contains_first: bool = False


@dataclass(frozen=True, slots=True)
class Spread:
    """What comes of the scatter: sd of the meeting's height [m] and time [s], shares of tries; None: not known.

    touching: by the sideways scatter; timely: the light finds it within the asked time; hits: both.
    """

    height_sd_m: float
    time_sd_s: float
    timely: float | None
    touching: float | None
    hits: float | None


def _even(source: int, step_s: float) -> Array:
    return draws.uniform(source) * step_s / math.sqrt(12)


def spread_of(
    meeting: Meeting,
    scatter: Scatter,
    lasts_s: float | None,
    reach_m: float | None,
    off_s: float = 0.0,
) -> Spread:
    """The meeting over drawn tries.

    reach_m: how far aside they still touch [m]; off_s: of the light, by its own step [s].
    """
    zero = np.zeros(draws.TRIES)
    valve = scatter.valve_sd_s or 0.0
    late = _even(_SECOND_STEP, scatter.step_s) + draws.normal(_SECOND) * valve
    raised = draws.normal(_JETS) * (scatter.jets_sd_m or 0.0)
    if scatter.contains_first:
        # A spread that was measured over jets has that of their valves in it.
        launched = zero
    else:
        launched = draws.normal(_FIRST) * valve
    shift, height = _met(meeting, late, raised, launched)
    known = scatter.valve_sd_s is not None and scatter.jets_sd_m is not None
    timely = touching = None
    if known and lasts_s is not None:
        # The light is set for the jet as it is thought to be; where it really is, is drawn.
        doubtful = raised + draws.normal(_DOUBT) * (scatter.jets_doubt_m or 0.0)
        shift_in_doubt, _ = _met(meeting, late, doubtful, launched)
        light = _even(_FLASH_STEP, scatter.step_s) + off_s
        timely = np.abs(light - shift_in_doubt) <= lasts_s / 2
    if scatter.aside_sd_m is not None and reach_m is not None:
        away = math.sqrt(2) * scatter.aside_sd_m  # both drops stray
        touching = (
            np.hypot(draws.normal(_ASIDE) * away, draws.normal(_DEPTH) * away)
            <= reach_m
        )
    if timely is None or touching is None:
        both = None
    else:
        both = timely & touching
    return Spread(
        float(np.std(height)),
        float(np.std(shift)),
        *(
            None if each is None else float(np.mean(each))
            for each in (timely, touching, both)
        ),
    )


def _met(
    meeting: Meeting, late: Array, raised: Array, launched: Array
) -> tuple[Array, Array]:
    """By how much each try meets later [s], and at what height [m]: jet and drop near the meeting, to second order."""
    up, down = meeting.rising_m_s, meeting.falling_m_s
    gain = GRAVITY_M_S2 - meeting.slowing_m_s2
    shift = (down * late + up * launched - raised) / (up + down)
    for _ in range(4):
        since, risen = shift - late, shift - launched
        drop = -down * since - gain * since**2 / 2
        tip = up * risen - GRAVITY_M_S2 * risen**2 / 2 + raised
        closing = down + gain * since + up - GRAVITY_M_S2 * risen
        shift = shift + (drop - tip) / np.maximum(closing, 1e-6)
    since = shift - late
    return shift, meeting.height_m - down * since - gain * since**2 / 2
