"""Outlines on the rehearsal: where the moving part is at the light of the usual try, and one standard deviation off."""

import numpy as np
import numpy.typing as npt
from scipy.ndimage import binary_erosion

from rapzel.core.physics import Physics
from rapzel.core.rehearsal.laid_out import shifted
from rapzel.core.rehearsal.render import course_of
from rapzel.core.subjects.drawn import drawn_height_m, layers_of, subject_of
from rapzel.core.subjects.pen import View
from rapzel.core.trigger.tries import direction

NOTHING, USUAL, SPREAD = 0, 1, 2
Marks = npt.NDArray[np.uint8]


def outlines(physics: Physics, size: tuple[int, int]) -> Marks:
    """Height × width: USUAL along the edge at the mean, SPREAD at ± 1 sd of its place; nothing where not known."""
    marks = np.full((size[1], size[0]), NOTHING, dtype=np.uint8)
    timing = physics.timing
    if timing.shares is None:
        return marks
    view = View(size[0] / physics.frame.field_width_m, *size)
    course = course_of(physics, view.px_per_m)
    way = direction(physics.trajectory)
    if course.axis == 1:
        share = float(way.across)
    else:
        # Rows of a picture count downwards.
        share = -float(way.up)
    start = (
        float(course.aside_m.across if course.axis == 1 else -course.aside_m.up)
        * view.px_per_m
    )
    spread = timing.shares.offset_sd_m * share * view.px_per_m
    for kind, off in ((SPREAD, -spread), (SPREAD, spread), (USUAL, 0.0)):
        # Within a pixel of the usual place the outline would only blur it.
        if kind == SPREAD and abs(spread) < 1.0:
            continue
        marks[_edge(physics, view, start + off, course.axis)] = kind
    return marks


def _edge(
    physics: Physics, view: View, by_px: float, axis: int
) -> npt.NDArray[np.bool_]:
    """The edge of what moves, displaced along an axis [px]."""
    rehearsal = physics.scene.rehearsal
    subject = subject_of(rehearsal)
    height = drawn_height_m(subject, rehearsal.size_m, physics.frame.field_height_m)
    covered = np.zeros((view.height, view.width), dtype=bool)
    for layer in layers_of(subject, height, view):
        if layer.speed:
            covered |= shifted(layer.cover, by_px * layer.speed, axis) > 0.5
    return np.asarray(covered & ~binary_erosion(covered, iterations=2, border_value=1))
