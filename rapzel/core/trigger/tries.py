"""Tries over the real trajectory: where the subject is when the light comes, judged jointly (science §11).

One error moves everything: a late try is further along, nearer or farther, faster or slower, and further from the
moment. So all conditions are judged on the same drawn tries, and the joint share is the share of tries that meet all.
"""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from rapzel.core.motion.trajectory import Axes, Trajectory
from rapzel.core.shared import draws
from rapzel.core.shared.once import once
from rapzel.core.trigger.hearing import SURE, Heard

Flags = npt.NDArray[np.bool_]
SpeedOnSensor = Callable[[Axes], npt.NDArray[np.float64]]
_ROUNDING = 1 + 1e-9
_WIDE = 0.1  # a range of shares [0 … 1] whose cause is worth a word


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
    # share of its way across that a camera which follows leaves in the picture
    left_over: float = 1.0


@dataclass(frozen=True, slots=True)
class Shares:
    """Shares of tries [0 … 1]; None where the condition was not asked for.

    The single conditions are shares of the tries that the sensor notices; `joint` is of all of them: who misses the
    beam, and whoever fires in place of the event, leaves no keeper. `low` to `high` is where `joint` lies in nine of
    ten plans like this one, by what is doubtful in it; `doubtful_by` is what that comes from most, a kind of
    `draws.world_share`.
    """

    in_frame: float
    in_focus: float
    slow_enough: float | None
    in_moment: float | None
    joint: float
    offset_sd_m: float
    low: float
    high: float
    noticed: float | None = None  # of all passes, by a beam
    heard: float | None = None  # of all tries, fired by the event and only once
    doubtful_by: int | None = None


@dataclass(frozen=True, slots=True)
class Tries:
    """Drawn tries: when the light comes [s after the event], how much faster than usual, and how far off its usual way.

    counted: those that the sensor notices; None: all. doubts: what of them is off once for all tries of a world,
    kinds of `draws.world_share`.
    """

    light_s: npt.ArrayLike
    extra_m_s: npt.ArrayLike = 0.0
    beside: Axes = field(default_factory=lambda: Axes(0.0, 0.0, 0.0))
    counted: Flags | None = None
    doubts: frozenset[int] = frozenset()


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
        np.abs(offset.across) * window.left_over + half * abs(float(along.across))
        <= window.field_width_m / 2 * _ROUNDING
    )
    high = (
        np.abs(offset.up) * window.left_over + half * abs(float(along.up))
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
    def share_in_frame(self) -> float:
        """Share of the tries that are in the frame [0 … 1]."""
        return self.share(self.in_frame)

    @once
    def share_in_focus(self) -> float:
        """Share of the tries that are in focus [0 … 1]."""
        return self.share(self.in_focus)

    @once
    def share_in_moment(self) -> float | None:
        """Share of the tries that are within the moment [0 … 1]; None where none is stated."""
        if self.in_moment is None:
            return None
        return self.share(self.in_moment)

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
    def noticed(self) -> float | None:
        """Share of all passes that the sensor notices; None where it notices all."""
        if self.tries.counted is None:
            return None
        return share_of(self.tries.counted, None)

    def kept(self, flags: Flags) -> Flags:
        """Which of all `draws.TRIES` are noticed and have a flag."""
        if self.tries.counted is not None:
            flags = flags & self.tries.counted
        if flags.size == draws.TRIES:
            return flags
        return np.broadcast_to(flags, (draws.TRIES,))


def landing(trajectory: Trajectory, drawn: Tries, window: Window) -> Landing:
    """Judges drawn tries by the frame, the depth of field and the moment."""
    offset, along = offsets(trajectory, drawn), direction(trajectory)
    # Only what lies along the movement tells of early and late.
    across, up, towards = (
        np.asarray(part) * float(unit) for part, unit in zip(offset, along, strict=True)
    )
    way = across + up + towards
    late_s = np.asarray(drawn.light_s, dtype=float) - trajectory.wanted_s
    return Landing(
        tries=drawn,
        in_frame=in_frame(offset, along, window),
        in_focus=in_focus(offset, window),
        in_moment=in_moment(offset, late_s, window),
        offset_sd_m=_spread(way, drawn.counted),
    )


def image_speeds(
    trajectory: Trajectory, drawn: Tries, image_speed: SpeedOnSensor, lit_s: float
) -> npt.NDArray[np.float64]:
    """Speed of the image of each try at the middle of `lit_s` [s] from its beginning.

    `image_speed` turns a velocity into the speed that `slow_enough` compares.
    """
    # The speed in the middle of a light stands for all of it, as long as the light is short against
    # the bend.
    middle = np.asarray(drawn.light_s, dtype=float) + lit_s / 2
    velocity = trajectory.velocity_m_s(middle, np.asarray(drawn.extra_m_s, dtype=float))
    return image_speed(velocity)


def slow_enough(
    speeds_m_s: npt.NDArray[np.float64], fastest_m_s: npt.NDArray[np.float64]
) -> Flags:
    """Whether the image of each try is no faster than a light freezes.

    speeds_m_s: of each try, or one for all; fastest_m_s: one for all, or one for each of the `draws.WORLDS`.
    """
    # Compared world by world: a limit for each try would be the same figure 128 times over.
    if np.size(speeds_m_s) > 1:
        speeds_m_s = draws.by_world(speeds_m_s)
    slow = speeds_m_s <= fastest_m_s[..., None] * _ROUNDING
    if slow.size == 1:
        return slow.reshape(())
    return np.broadcast_to(slow, (draws.WORLDS, draws.EACH)).reshape(draws.TRIES)


def shares_of(
    landed: Landing,
    slow: Flags | None,
    heard: Heard = SURE,
    doubts: frozenset[int] = frozenset(),
) -> Shares:
    """Shares of the tries: in the frame, in focus, slow enough, within the moment, and all at once.

    slow: whether each try is slow enough; None is not asked. doubts: what is off once for a world beside what the
    tries say themselves, kinds of `draws.world_share`.
    """
    # Never the product of the shares: the same late try is out of frame and out of focus.
    all_at_once = landed.all_at_once
    if slow is not None:
        all_at_once = all_at_once & slow
    kept = draws.by_world(landed.kept(all_at_once))
    fired = _fired(heard)
    by_world = np.count_nonzero(kept, axis=1) / draws.EACH * fired
    doubts = doubts | landed.tries.doubts
    if heard.doubled and heard.perhaps_deaf:
        doubts = doubts | {draws.DEAF}
    joint = float(by_world.sum() / draws.WORLDS)
    low = high = joint
    # Without doubts worlds differ by the luck of their draws alone.
    if doubts:
        low, high = draws.nine_in_ten(by_world)
    return Shares(
        in_frame=landed.share_in_frame,
        in_focus=landed.share_in_focus,
        slow_enough=None if slow is None else landed.share(slow),
        in_moment=landed.share_in_moment,
        joint=joint,
        offset_sd_m=landed.offset_sd_m,
        low=min(low, joint),
        high=max(high, joint),
        noticed=landed.noticed,
        heard=None if heard == SURE else float(np.mean(fired)),
        doubtful_by=_what_most(by_world, doubts) if high - low > _WIDE else None,
    )


def _fired(heard: Heard) -> npt.NDArray[np.float64]:
    """Share of the tries of each world that the event fires, and only once [0 … 1]."""
    once_only = np.full(draws.WORLDS, 1 - heard.doubled)
    if heard.perhaps_deaf:
        # Nobody says whether the unit waits for the echo: in every other world it does.
        once_only[draws.world_share(draws.DEAF) < 0.5] = 1.0
    return heard.by_the_event * once_only


def _what_most(by_world: npt.NDArray[np.float64], doubts: frozenset[int]) -> int:
    """The doubt by which the shares of worlds differ most: the one whose parabola explains most of them."""
    explained: dict[int, float] = {}
    for kind in sorted(doubts):
        # Being off to either side loses tries, so that a straight line would see nothing.
        along = draws.parabolas(kind).T @ by_world
        explained[kind] = float(along @ along)
    return max(explained, key=explained.__getitem__)


def offsets(trajectory: Trajectory, drawn: Tries) -> Axes:
    """Where each try finds the subject, against where it is wanted [m]."""
    wanted = trajectory.place_m(trajectory.wanted_s)
    light, extra = (
        np.asarray(drawn.light_s, dtype=float),
        np.asarray(drawn.extra_m_s, dtype=float),
    )
    place = trajectory.place_m(light, extra)
    # What is one figure for all tries is added up first.
    return Axes(
        *(
            np.asarray(now) + (np.asarray(off) - at)
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
