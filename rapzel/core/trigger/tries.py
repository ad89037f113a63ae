"""Tries over the real trajectory: where the subject is when the light comes, judged jointly (science §11).

One error moves everything: a late try is further along, nearer or farther, faster or slower, and further from the
moment. So all conditions are judged on the same drawn tries, and the joint share is the share of tries that meet all.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rapzel.core.motion.trajectory import Axes, Trajectory

Flags = npt.NDArray[np.bool_]
SpeedOnSensor = Callable[[Axes], npt.NDArray[np.float64]]
_ROUNDING = 1 + 1e-9


@dataclass(frozen=True, slots=True)
class Window:
    """What counts as landing. Sizes in metres, times in seconds; None is not asked for."""

    field_width_m: float
    field_height_m: float
    extent_m: float  # of the subject along its movement, all of which must be in the frame
    near_m: float  # in focus from here …
    far_m: float  # … to here, from the lens
    distance_m: float  # of the focus
    fastest_m_s: float | None  # that the light freezes, on the sensor's scale of the subject
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


def direction(trajectory: Trajectory) -> Axes:
    """Unit vector of the movement at the wanted instant; up the frame for a part that stands still there."""
    velocity = trajectory.velocity_m_s(trajectory.wanted_s)
    across, up, towards = (float(part) for part in velocity)
    size = float(np.sqrt(across**2 + up**2 + towards**2))
    return Axes(across / size, up / size, towards / size) if size > 1e-9 else Axes(0.0, 1.0, 0.0)


def in_frame(offset: Axes, along: Axes, window: Window) -> Flags:
    """Whether the whole extent is inside the frame, for each offset [m] from the middle of the frame."""
    half = window.extent_m / 2
    wide = (
        np.abs(offset.across) + half * abs(float(along.across))
        <= window.field_width_m / 2 * _ROUNDING
    )
    high = np.abs(offset.up) + half * abs(float(along.up)) <= window.field_height_m / 2 * _ROUNDING
    return np.asarray(wide & high)


def in_focus(offset: Axes, window: Window) -> Flags:
    """Whether the subject is within the depth of field; what has come towards the camera is nearer than the focus."""
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
        away = np.sqrt(np.square(offset.across) + np.square(offset.up) + np.square(offset.towards))
        near = np.asarray(away <= window.place_m * _ROUNDING)
        flags = near if flags is None else flags & near
    return flags


def judge(
    trajectory: Trajectory,
    light_s: npt.ArrayLike,
    extra_m_s: npt.ArrayLike,
    window: Window,
    image_speed: SpeedOnSensor | None = None,
    lit_s: float = 0.0,
) -> Shares:
    """Shares of the tries whose light comes at `light_s` after the event with a subject `extra_m_s` faster than usual.

    `image_speed` turns a velocity into a speed that `window.fastest_m_s` is compared with, at the middle of `lit_s`.
    """
    light = np.asarray(light_s, dtype=float)
    extra = np.asarray(extra_m_s, dtype=float)
    wanted = trajectory.place_m(trajectory.wanted_s)
    place = trajectory.place_m(light, extra)
    offset = Axes(*(np.asarray(now) - at for now, at in zip(place, wanted, strict=True)))
    framed, focused = in_frame(offset, direction(trajectory), window), in_focus(offset, window)
    joint = framed & focused
    slow: Flags | None = None
    if image_speed is not None and window.fastest_m_s is not None:
        speed = image_speed(trajectory.velocity_m_s(light + lit_s / 2, extra))
        slow = np.asarray(speed <= window.fastest_m_s * _ROUNDING)
        joint = joint & slow
    timely = in_moment(offset, light - trajectory.wanted_s, window)
    if timely is not None:
        joint = joint & timely
    along = direction(trajectory)
    way = sum(np.asarray(part) * float(unit) for part, unit in zip(offset, along, strict=True))
    return Shares(
        in_frame=float(np.mean(framed)),
        in_focus=float(np.mean(focused)),
        slow_enough=None if slow is None else float(np.mean(slow)),
        in_moment=None if timely is None else float(np.mean(timely)),
        joint=float(np.mean(joint)),
        offset_sd_m=float(np.std(way)),
    )
