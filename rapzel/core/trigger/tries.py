"""Tries over the real trajectory: where the subject is when the light comes, judged jointly (science §11).

One error moves everything: a late try is further along, nearer or farther, faster or slower, and further from the
moment. So all conditions are judged on the same drawn tries, and the joint share is the share of tries that meet all.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from rapzel.core.motion.trajectory import Axes, Trajectory
from rapzel.core.shared.once import once

Flags = npt.NDArray[np.bool_]
SpeedOnSensor = Callable[[Axes], npt.NDArray[np.float64]]
_ROUNDING = 1 + 1e-9


@dataclass(frozen=True, slots=True)
class Window:
    """What counts as landing. Sizes in metres, times in seconds; None is not asked for."""

    field_width_m: float
    field_height_m: float
    # of the subject along its movement, all of which must be in the frame
    extent_m: float
    near_m: float  # in focus from here …
    far_m: float  # … to here, from the lens
    distance_m: float  # of the focus
    lasts_s: float | None  # full width of the time in which the pose is right
    place_m: float | None  # half width of the place in which it is right


@dataclass(frozen=True, slots=True)
class Shares:
    """Shares of all tries [0 … 1]; None where the condition was not asked for."""

    in_frame: float
    in_focus: float
    slow_enough: float | None
    in_moment: float | None
    joint: float
    offset_sd_m: float
    noticed: float | None = None  # share of all passes that a beam notices


@dataclass(frozen=True, slots=True)
class Tries:
    """Drawn tries: when the light comes [s after the event], how much faster than usual, and how far off its usual way.

    counted: those that are tries at all, since the sensor fired; None counts all.
    """

    light_s: npt.ArrayLike
    extra_m_s: npt.ArrayLike = 0.0
    beside: Axes = field(default_factory=lambda: Axes(0.0, 0.0, 0.0))
    counted: Flags | None = None


def direction(trajectory: Trajectory) -> Axes:
    """Unit vector of the movement at the wanted instant; up the frame for a part that stands still there."""
    velocity = trajectory.velocity_m_s(trajectory.wanted_s)
    across, up, towards = (float(part) for part in velocity)
    size = float(np.sqrt(across**2 + up**2 + towards**2))
    if size > 1e-9:
        return Axes(across / size, up / size, towards / size)
    return Axes(0.0, 1.0, 0.0)


def in_frame(offset: Axes, along: Axes, window: Window) -> Flags:
    """Whether the whole extent is inside the frame, for each offset [m] from the middle of the frame."""
    half = window.extent_m / 2
    wide = (
        np.abs(offset.across) + half * abs(float(along.across))
        <= window.field_width_m / 2 * _ROUNDING
    )
    high = (
        np.abs(offset.up) + half * abs(float(along.up))
        <= window.field_height_m / 2 * _ROUNDING
    )
    return np.asarray(wide & high)


def in_focus(offset: Axes, window: Window) -> Flags:
    """Whether the subject is within the depth of field; what has come towards the camera is nearer than the focus."""
    # Focus is judged along the axis, as a plane of focus lies.
    distance = window.distance_m - np.asarray(offset.towards)
    return np.asarray(
        (distance >= window.near_m / _ROUNDING) & (distance <= window.far_m * _ROUNDING)
    )


def in_moment(offset: Axes, late_s: npt.ArrayLike, window: Window) -> Flags | None:
    """Whether each try is within the moment's time and place; None where neither is stated."""
    flags: Flags | None = None
    if window.lasts_s is not None:
        flags = np.asarray(np.abs(late_s) <= window.lasts_s / 2 * _ROUNDING)
    if window.place_m is not None:
        # A place is a ball about the wanted one: being off in depth counts like being off to the
        # side.
        away = np.sqrt(
            np.square(offset.across) + np.square(offset.up) + np.square(offset.towards)
        )
        near = np.asarray(away <= window.place_m * _ROUNDING)
        if flags is None:
            flags = near
        else:
            flags = flags & near
    return flags


@dataclass(frozen=True)
class Landing:
    """Where drawn tries find the subject, whatever the light: flags of each try, and how its places spread."""

    tries: Tries
    in_frame: Flags
    in_focus: Flags
    in_moment: Flags | None
    offset_sd_m: float

    def share(self, flags: Flags) -> float:
        """Share of the tries that count for which a flag holds [0 … 1]."""
        return share_of(flags, self.tries.counted)

    @once
    def all_at_once(self) -> Flags:
        """Tries that are in the frame, in focus and within the moment."""
        asked = [
            flags
            for flags in (self.in_frame, self.in_focus, self.in_moment)
            if flags is not None
        ]
        return np.asarray(np.logical_and.reduce(np.broadcast_arrays(*asked)))

    @once
    def shares(self) -> Shares:
        """Their shares, of a light that is short enough for every try."""
        counted = self.tries.counted
        return Shares(
            in_frame=self.share(self.in_frame),
            in_focus=self.share(self.in_focus),
            slow_enough=None,
            in_moment=None if self.in_moment is None else self.share(self.in_moment),
            joint=self.share(self.all_at_once),
            offset_sd_m=self.offset_sd_m,
            noticed=None if counted is None else share_of(counted, None),
        )


def landing(trajectory: Trajectory, drawn: Tries, window: Window) -> Landing:
    """Judges drawn tries by the frame, the depth of field and the moment."""
    offset, along = offsets(trajectory, drawn), direction(trajectory)
    # Only what lies along the movement tells of early and late.
    components = zip(offset, along, strict=True)
    way = np.asarray(sum(np.asarray(part) * float(unit) for part, unit in components))
    late_s = np.asarray(drawn.light_s, dtype=float) - trajectory.wanted_s
    return Landing(
        tries=drawn,
        in_frame=in_frame(offset, along, window),
        in_focus=in_focus(offset, window),
        in_moment=in_moment(offset, late_s, window),
        offset_sd_m=_spread(way, drawn.counted),
    )


def slow_enough(
    trajectory: Trajectory,
    drawn: Tries,
    image_speed: SpeedOnSensor,
    fastest_m_s: float,
    lit_s: float,
) -> Flags:
    """Whether the image of each try is no faster than a light freezes, at the middle of `lit_s` [s] from its beginning.

    `image_speed` turns a velocity into a speed that `fastest_m_s` is compared with.
    """
    # The speed in the middle of a light stands for all of it, as long as the light is short against
    # the bend.
    middle = np.asarray(drawn.light_s, dtype=float) + lit_s / 2
    velocity = trajectory.velocity_m_s(middle, np.asarray(drawn.extra_m_s, dtype=float))
    return np.asarray(image_speed(velocity) <= fastest_m_s * _ROUNDING)


def shares_of(landed: Landing, slow: Flags | None) -> Shares:
    """Shares of the tries that count: in the frame, in focus, slow enough, within the moment, and all at once."""
    if slow is None:
        return landed.shares
    # Never the product of the shares: the same late try is out of frame and out of focus.
    joint = landed.share(landed.all_at_once & slow)
    return replace(landed.shares, slow_enough=landed.share(slow), joint=joint)


def offsets(trajectory: Trajectory, drawn: Tries) -> Axes:
    """Where each try finds the subject, against where it is wanted [m]."""
    wanted = trajectory.place_m(trajectory.wanted_s)
    light, extra = (
        np.asarray(drawn.light_s, dtype=float),
        np.asarray(drawn.extra_m_s, dtype=float),
    )
    place = trajectory.place_m(light, extra)
    return Axes(
        *(
            np.asarray(now) - at + np.asarray(off)
            for now, at, off in zip(place, wanted, drawn.beside, strict=True)
        )
    )


def share_of(flags: Flags, counted: Flags | None) -> float:
    """Share of the tries that count for which a flag holds [0 … 1]; 0 where none counts."""
    if counted is None:
        return float(np.count_nonzero(flags) / np.size(flags))
    total = int(np.count_nonzero(counted))
    hits = np.count_nonzero(np.broadcast_to(flags, counted.shape) & counted)
    if total:
        return float(hits / total)
    return 0.0


def _spread(way: npt.NDArray[np.float64], counted: Flags | None) -> float:
    if counted is None:
        own = way
    else:
        own = np.broadcast_to(way, counted.shape)[counted]
    if own.size:
        return float(np.std(own))
    return 0.0
