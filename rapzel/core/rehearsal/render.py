"""The rehearsal: the picture a scene would give, integrated row by row and instant by instant.

The moving layers follow the scene's trajectory under the same light curves and row openings that `evaluate` uses, so
that ghost, smear, band, gradient and skew appear because they are computed.
"""

import math
import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rapzel.core.motion import Axes
from rapzel.core.physics import Physics
from rapzel.core.rehearsal.develop import develop, electrons_full
from rapzel.core.rehearsal.exposures import (
    Continuous,
    Pulses,
    flash_light,
    room_light,
    taken_s,
)
from rapzel.core.rehearsal.passed import streaked
from rapzel.core.shared.errors import CoreError
from rapzel.core.subjects.drawn import (
    BACKGROUNDS,
    drawn_height_m,
    layers_of,
    subject_of,
)
from rapzel.core.subjects.pen import Layer, Picture, View

Array = npt.NDArray[np.float64]
BUDGET_S = 20.0  # of wall time for one picture: a hundred times what one takes
_FAR_PX = 1e5
_LEAST_LEFT = 1e-3  # of a way that a camera leaves: less of it is drawn as so much


class RenderTooLong(CoreError):
    """The picture would take too long; str() is fit to show."""


class Budget:
    """The time that one picture may take."""

    def __init__(self, seconds: float) -> None:
        self._end = time.monotonic() + seconds

    def check(self) -> None:
        """Raises RenderTooLong once the time is over."""
        if time.monotonic() >= self._end:
            raise RenderTooLong(
                "This picture takes too long to compute. The figures stand; make the subject smaller."
            )


@dataclass(frozen=True)
class Rehearsal:
    """The computed picture: frame and 100 % crop as sRGB bytes (height × width × 3), and what it shows in words."""

    frame: npt.NDArray[np.uint8]
    crop: npt.NDArray[np.uint8]
    clipped_share: float
    crop_clipped_share: float
    says: str


@dataclass(frozen=True)
class Course:
    """How the moving part goes through the picture: along one axis of it, with what it is off the other."""

    axis: int  # 1 along the rows, 0 down the columns
    # displacement along the axis at each time on the shutter's axis [s]
    way_px: Callable[[Array], Array]
    # where the subject is when the picture is taken, against the middle of the frame [m]
    aside_m: Axes


def course_of(physics: Physics, px_per_m: float, in_place: bool = False) -> Course:
    """The course of the moving part; the axis is the one along which it moves most.

    A try that is judged is drawn where the usual one is when the light comes; else, and where it is asked for, the
    subject is in its place.
    """
    frame, timing, trajectory = physics.frame, physics.timing, physics.trajectory
    extra, taken = frame.judged_extra_m_s, taken_s(physics)
    after = timing.flash_after_event_s
    # Without a stated moment nobody has said when the picture is taken: the subject stands where it
    # is wanted.
    is_judged = timing.judged and after is not None and timing.offset is not None
    judged = is_judged and not in_place
    if judged and after is not None:
        light = after
    else:
        light = trajectory.wanted_s
    if judged and timing.offset is not None:
        # A camera that follows keeps a late subject nearly where it should be.
        across, up, towards = timing.offset
        aside = Axes(across * frame.left_over, up * frame.left_over, towards)
    else:
        aside = Axes(0.0, 0.0, 0.0)
    velocity = trajectory.velocity_m_s(light, extra)
    way = _along(physics, light)
    across = abs(float(way.across)) >= abs(float(way.up))
    # rows of a picture count downwards
    start = float(aside.across if across else -aside.up) * px_per_m
    # Ways are counted from where the subject is when the light comes.
    here = trajectory.place_m(light, extra)
    # Approach makes the image grow: counted as a longer way, since one axis is drawn.
    seen = (
        math.hypot(float(velocity.across), float(velocity.up))
        * frame.magnification
        * frame.enlargement
        * max(frame.left_over, _LEAST_LEFT)
    )
    left = max(frame.left_over, _LEAST_LEFT)
    stretch = frame.enlargement * (
        float(frame.image_speed_of(velocity)) / seen if seen > 0 else 1.0
    )

    def way_px(times_s: Array) -> Array:
        place = trajectory.place_m(light + times_s - taken, extra)
        if across:
            gone = place.across - here.across
        else:
            gone = here.up - place.up
        way = np.asarray(gone) * px_per_m * stretch * left
        return np.clip(way + start, -_FAR_PX, _FAR_PX)

    return Course(1 if across else 0, way_px, aside)


def _along(physics: Physics, light_s: float) -> Axes:
    """The way during the exposure, by which the axis is chosen [m]."""
    opening, extra = physics.curves.opening, physics.frame.judged_extra_m_s
    # By the whole way and not the speed at the instant: at an apex that has no direction.
    lasts = physics.stopping_s or opening.shutter_s
    begin, end = (
        physics.trajectory.place_m(light_s + at, extra)
        for at in ((-lasts / 2, lasts / 2) if physics.centred else (0.0, lasts))
    )
    return Axes(
        *(float(now) - float(then) for now, then in zip(end, begin, strict=True))
    )


def _gather(
    exposure: Pulses | Continuous,
    layers: tuple[Layer, ...],
    behind: Picture,
    course: Course,
    budget: Budget,
) -> Picture:
    """Reflected light of one kind of exposure over the view: what is behind, then each layer over it."""
    total = exposure.by_row
    safe = np.maximum(total, np.float32(1e-9))
    light = behind
    reach = exposure.reach_px(course.way_px)
    for layer in layers:
        budget.check()
        low, high = sorted(end * layer.speed for end in reach)
        box = _region(layer, low, high, course.axis)
        if box is None:
            continue
        rows = box[0]
        covered = exposure.laid(
            layer.cover[box], rows, course.way_px, layer.speed, course.axis
        )
        lit = exposure.laid(
            layer.lit[box], rows, course.way_px, layer.speed, course.axis
        )
        # Where the layer stood for a part of the light, what is behind was seen for the rest of it.
        light[box] = light[box] * (1 - covered / safe[rows]) + lit
    return light * np.float32(exposure.level)


def _region(
    layer: Layer, low_px: float, high_px: float, axis: int
) -> tuple[slice, slice] | None:
    """The part of the view that the layer reaches on its way; None where it stays outside."""
    bounds = []
    for along in (0, 1):
        used = np.flatnonzero(layer.cover.max(axis=1 - along))
        if used.size == 0:
            return None
        size = layer.cover.shape[along]
        low, high = used[0], used[-1] + 1
        if along == axis:
            # Two pixels more, for the interpolation at the edges.
            low = low + min(math.floor(low_px) - 2, 0)
            high = high + max(math.ceil(high_px) + 2, 0)
        bounds.append(slice(max(int(low), 0), min(int(high), size)))
    return bounds[0], bounds[1]


def _size_m(physics: Physics) -> float:
    rehearsal = physics.scene.rehearsal
    return drawn_height_m(
        subject_of(rehearsal), rehearsal.size_m, physics.frame.field_height_m
    )


def _linear(
    physics: Physics,
    view: View,
    row_bounds: tuple[float, float],
    budget: Budget,
    in_place: bool = False,
) -> tuple[Picture, Picture]:
    """Linear light of flash and room over a view: 1.0 is a white surface at correct exposure."""
    scene = physics.scene
    course = course_of(physics, view.px_per_m, in_place)
    if course.axis == 1:
        beside = course.aside_m.up
    else:
        beside = course.aside_m.across
    moved = View(
        view.px_per_m,
        view.width,
        view.height,
        centre_x_m=view.centre_x_m - (float(beside) if course.axis == 0 else 0.0),
        centre_y_m=view.centre_y_m - (float(beside) if course.axis == 1 else 0.0),
    )
    # What is off the axis of the movement moves the camera instead: layers are drawn once for it.
    layers = layers_of(subject_of(scene.rehearsal), _size_m(physics), moved)
    centres = (np.arange(view.height) + 0.5) / view.height
    # The image stands on its head and the curtains run down: the lower edge of the picture is uncovered first.
    rows = row_bounds[0] + centres * (row_bounds[1] - row_bounds[0])
    if scene.camera.first_edge == "lower":
        rows = 1 - rows
    flash, room = flash_light(physics, rows, course.way_px), room_light(physics, rows)
    pictures = []
    for exposure in (flash, room):
        if exposure is None:
            pictures.append(np.zeros((view.height, view.width), dtype=np.float32))
            continue
        behind = _behind(physics, exposure, view, course, seen=exposure is room)
        pictures.append(_gather(exposure, layers, behind, course, budget))
    return pictures[0], pictures[1]


def _behind(
    physics: Physics,
    exposure: Pulses | Continuous,
    view: View,
    course: Course,
    seen: bool,
) -> Picture:
    """What is behind the subject: even ground; streaks of what the camera passes, where the room's light shows it."""
    shape = (view.height, view.width)
    ground = np.float32(BACKGROUNDS[physics.scene.rehearsal.background])
    even: Picture = np.broadcast_to(ground * exposure.by_row, shape).copy()
    if not physics.frame.follows or not seen or not isinstance(exposure, Continuous):
        return even
    left = physics.frame.left_over
    # The way is what is left of the subject's own; what stands still goes the rest of it, backwards.
    passed = (1 - left) / max(left, _LEAST_LEFT)
    return even + streaked(exposure, view, course.way_px, passed, course.axis)


def _frame_view(physics: Physics, size: tuple[int, int]) -> View:
    return View(size[0] / physics.frame.field_width_m, *size)


def linear_picture(
    physics: Physics, size: tuple[int, int] = (960, 640), budget_s: float = BUDGET_S
) -> Picture:
    """The frame as linear light, height × width × 3, before noise, clipping and tone.

    1.0 is a white surface at `exposure_offset_stops` 0; the three channels are alike, since the tints of the developed
    picture only tell flash and room apart.
    """
    flash, room = _linear(
        physics, _frame_view(physics, size), (0.0, 1.0), Budget(budget_s)
    )
    return np.repeat((flash + room)[..., None], 3, axis=2)


def render(
    physics: Physics,
    size: tuple[int, int] = (960, 640),
    crop: tuple[int, int] = (336, 224),
    budget_s: float = BUDGET_S,
    coarser: int = 1,
) -> Rehearsal:
    """The picture of a scene at `size` (width, height) and a 100 % crop of the moving part.

    Raises RenderTooLong where it takes more than `budget_s` [s]. The frame is scaled by the scene's magnification, a
    pixel of the crop is a pixel of the sensor. coarser: both with so many times fewer pixels a side, as a draft.
    """
    size, crop = (
        (size[0] // coarser, size[1] // coarser),
        (crop[0] // coarser, crop[1] // coarser),
    )
    camera = physics.scene.camera
    full = _full(physics)
    # A pixel of the frame is the mean of many of the sensor's, and so less noisy than the inset's.
    binned = (camera.pixels_wide / size[0]) ** 2
    budget = Budget(budget_s)
    whole, clipped = develop(
        *_linear(physics, _frame_view(physics, size), (0.0, 1.0), budget),
        full,
        max(binned, 1.0),
    )
    inset, crop_clipped = _close_up(physics, crop, coarser, budget)
    subject, size_m = subject_of(physics.scene.rehearsal), _size_m(physics)
    says = f"{subject.says}, drawn {size_m:.3g} m high"
    return Rehearsal(whole, inset, clipped, crop_clipped, says)


def _full(physics: Physics) -> float:
    return electrons_full(physics.frame.pixel_pitch_m, physics.scene.exposure.iso)


def _close_up(
    physics: Physics,
    crop: tuple[int, int],
    coarser: int,
    budget: Budget,
    in_place: bool = False,
) -> tuple[npt.NDArray[np.uint8], float]:
    """The fastest part at so many pixels of the sensor, and the share of it that is clipped."""
    frame = physics.frame
    subject, size_m = subject_of(physics.scene.rehearsal), _size_m(physics)
    detail_x, detail_y = (part * size_m for part in subject.detail)
    scale = frame.magnification / frame.pixel_pitch_m / coarser
    close = View(scale, *crop, centre_x_m=detail_x, centre_y_m=detail_y)
    half = crop[1] / 2 / close.px_per_m
    top = 0.5 - (detail_y + half) / frame.field_height_m
    bounds = (top, top + 2 * half / frame.field_height_m)
    light = _linear(physics, close, bounds, budget, in_place)
    return develop(*light, _full(physics), float(coarser**2))


def render_frame(
    physics: Physics,
    size: tuple[int, int],
    coarser: int = 1,
    budget_s: float = BUDGET_S,
) -> npt.NDArray[np.uint8]:
    """The whole frame alone, as `render` gives it."""
    width, height = size[0] // coarser, size[1] // coarser
    light = _linear(
        physics, _frame_view(physics, (width, height)), (0.0, 1.0), Budget(budget_s)
    )
    binned = (physics.scene.camera.pixels_wide / width) ** 2
    picture, _ = develop(*light, _full(physics), max(binned, 1.0))
    return picture


def render_close_up(
    physics: Physics, size: tuple[int, int], budget_s: float = BUDGET_S
) -> npt.NDArray[np.uint8]:
    """The fastest part of the subject, in its place, at 100 %: sRGB bytes, height × width × 3.

    In its place, because it is asked how sharp the part becomes and not whether the try hits.
    """
    picture, _ = _close_up(physics, size, 1, Budget(budget_s), in_place=True)
    return picture


def close_up_box(
    physics: Physics, size: tuple[int, int], frame_size: tuple[int, int]
) -> tuple[float, float, float, float]:
    """Where a close-up of `size` pixels of the sensor lies in a frame drawn so large: left, top, width, height [px]."""
    frame = physics.frame
    subject, size_m = subject_of(physics.scene.rehearsal), _size_m(physics)
    shrunk = frame_size[0] / physics.scene.camera.pixels_wide
    px_per_m = frame_size[0] / frame.field_width_m
    width, height = size[0] * shrunk, size[1] * shrunk
    middle_x = frame_size[0] / 2 + subject.detail[0] * size_m * px_per_m
    middle_y = frame_size[1] / 2 - subject.detail[1] * size_m * px_per_m
    return middle_x - width / 2, middle_y - height / 2, width, height
