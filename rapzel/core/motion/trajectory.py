"""A motion as a trajectory: where the moving part is and how fast, at every instant about the event (science §3).

A motion says what the subject does; the trajectory lays it on the time axis on which the event is at 0. Places are
counted from where the part is at the event. `wanted_s` is the instant at which the picture is wanted: falls and leaps
are described at that instant, turning and swinging parts by their phase at the event.
"""

import math
from abc import abstractmethod
from dataclasses import dataclass
from typing import Any, ClassVar, NamedTuple

import numpy as np
from scipy.optimize import brentq

from rapzel.core.motion.kinematics import Array, Number
from rapzel.core.shared import constants
from rapzel.core.shared.once import once
from rapzel.core.shared.part import Part, shown

MECHANICS = "mechanics, g = 9.80665 m/s² (ISO 80000-3)"
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(8)
# of the integral of a speed: a kink at an apex within one costs less than 0.2 % of the way
_PANELS = 8
_LONGEST_S = 3600.0


class Local(NamedTuple):
    """Place [m] and velocity [m/s] in the motion's own plane: along its direction, and square to it ("lift")."""

    along_m: Number
    lift_m: Number
    along_m_s: Number
    lift_m_s: Number


class Axes(NamedTuple):
    """Three components as the camera sees them: across the frame, up the frame, and towards the camera."""

    across: Number
    up: Number
    towards: Number


class Movement(Part):
    """What every kind of motion has. A kind gives `local`, its formula in words, and what a new one begins with."""

    angle_deg: float = shown(
        90.0,
        "Direction",
        "angle",
        "90° across the frame, 0° at the camera",
        ge=0,
        le=180,
        description="direction of movement: 90 across, 0 at the camera",
    )
    off_axis_mm: float | None = shown(
        None,
        "Image height",
        "number",
        "mm off the middle, on the sensor",
        ge=0,
        le=500,
        description="image height of the part, for movement at me",
    )
    reach_m: float = shown(
        0.0,
        "Reaches towards me",
        "length",
        ge=0,
        le=1000,
        description="how far the moving part is nearer than the subject",
    )
    speed_sd_m_s: float | None = shown(
        None,
        "Spread of speeds",
        "speed",
        "from try to try; empty: not known",
        ge=0,
        le=1e4,
        description="spread of speeds from try to try; null: not known",
    )

    title: ClassVar[str]
    beginning: ClassVar[dict[str, Any]]
    upright: ClassVar[bool] = False  # moves along the height of the frame
    bent: ClassVar[bool] = False  # speed or direction change while it moves
    source: ClassVar[str] = MECHANICS
    # How far the usual speed may be off where nobody states a spread, as a share of it (memory): what is given by
    # heights and rates is better known than a speed that somebody remembers.
    speed_doubt: ClassVar[float] = 0.05

    @property
    def stated_sd_m_s(self) -> float:
        """Spread of speeds from try to try as far as it is stated [m/s]."""
        return self.speed_sd_m_s or 0.0

    def mean_doubt_m_s(self, usual_m_s: float) -> float:
        """How far the usual speed may be off for a whole shoot [m/s]; holds in nine of ten cases."""
        if self.speed_sd_m_s is None:
            return abs(usual_m_s) * self.speed_doubt
        # Of a stated spread a part is of the performer of the day, and stays for all tries.
        return self.speed_sd_m_s * constants.OF_THE_DAY * constants.NINE_IN_TEN_SD

    @abstractmethod
    def local(self, time_s: Number, wanted_s: float, extra_m_s: Number = 0.0) -> Local:
        """Place [m] and velocity [m/s] at each time after the event [s].

        `extra_m_s` faster than the usual one where speeds vary.
        """

    def natural_s(self, upstream_m: float) -> float | None:
        """When the picture is due where nobody says so [s after the event], `upstream_m` from a beam; None: unknown."""
        return None

    @abstractmethod
    def formula(self) -> str:
        """How the speed follows, with the values put in."""

    def in_camera(self, along: Number, lift: Number) -> Axes:
        """Local components turned into the camera's axes."""
        angle = math.radians(self.angle_deg)
        across, towards = along * math.sin(angle), along * math.cos(angle)
        if self.upright:
            return Axes(lift, -across, towards)
        return Axes(across, lift, towards)


@dataclass(frozen=True)
class Trajectory:
    """One motion on the time axis of the event."""

    motion: Movement
    wanted_s: float

    def place_m(self, time_s: Number, extra_m_s: Number = 0.0) -> Axes:
        """Place at each time after the event, from where the part is at the event [m]."""
        local = self.motion.local(time_s, self.wanted_s, extra_m_s)
        return self.motion.in_camera(local.along_m, local.lift_m)

    def velocity_m_s(self, time_s: Number, extra_m_s: Number = 0.0) -> Axes:
        """Velocity at each time after the event [m/s]."""
        local = self.motion.local(time_s, self.wanted_s, extra_m_s)
        return self.motion.in_camera(local.along_m_s, local.lift_m_s)

    def both(self, time_s: Number, extra_m_s: Number = 0.0) -> tuple[Axes, Axes]:
        """Place [m] and velocity [m/s] at each time after the event, worked out together."""
        local = self.motion.local(time_s, self.wanted_s, extra_m_s)
        return (
            self.motion.in_camera(local.along_m, local.lift_m),
            self.motion.in_camera(local.along_m_s, local.lift_m_s),
        )

    def speed_m_s(self, time_s: Number, extra_m_s: Number = 0.0) -> Array:
        """Speed at each time after the event [m/s], whatever its direction."""
        local = self.motion.local(time_s, self.wanted_s, extra_m_s)
        return np.asarray(np.hypot(local.along_m_s, local.lift_m_s))

    @once
    def wanted_speed_m_s(self) -> float:
        """The usual speed at the instant that is wanted [m/s]."""
        return float(self.speed_m_s(self.wanted_s))

    def way_m(self, begin_s: float, end_s: float) -> float:
        """Length of the way between two instants [m], the usual speed taken."""
        if not self.motion.bent:
            return self.wanted_speed_m_s * (end_s - begin_s)
        return path_length(self.speed_m_s, begin_s, end_s)


def path_length(speed: Any, begin: float, end: float) -> float:
    """∫ speed dt [m] between two instants [s], by Gauss and Legendre's rule in eight panels.

    `speed` takes arrays of times.
    """
    if end == begin:
        return 0.0
    edges = np.linspace(begin, end, _PANELS + 1)
    half = (end - begin) / _PANELS / 2
    times = (edges[:-1] + half)[:, None] + half * _NODES
    return float(half * np.sum(np.broadcast_to(speed(times), times.shape) * _WEIGHTS))


def time_for(way: Any, wanted: float, guess: float) -> float:
    """The time [s] at which a growing `way(t)` [m] reaches `wanted`; infinite where it does not within an hour.

    `guess` begins the search and should be near; the answer is good to 1e-6 of itself.
    """
    low, high = guess / 2, guess
    while way(high) < wanted:
        low, high = high, high * 2
        if high > _LONGEST_S:
            return math.inf
    while way(low) > wanted:
        low /= 2
        if low < 1e-15:
            return 0.0
    return float(
        brentq(lambda time: way(time) - wanted, low, high, rtol=1e-6, xtol=1e-18)
    )
