"""What stands behind a subject that the camera follows: posts of different tones, which the exposure draws to streaks.

The posts are made up, alike in every picture: how long they streak is computed, and what they are is not. They stand so
far behind that the flash does not reach them.
"""

import numpy as np
import numpy.typing as npt

from rapzel.core.rehearsal.exposures import Continuous, Way
from rapzel.core.subjects.pen import Picture, View

Array = npt.NDArray[np.float64]
_EVERY_M = 0.37  # a post, at the subject's scale
_POINTS = 64  # of one post and what is between it and the next
_SEED = 7
_KINDS = 32  # of posts, before they come again
_LIGHTER = 0.45  # reflectance of the lightest above the ground's


def _tones() -> Array:
    """Reflectance above the ground along one run of posts [−], which comes again and again."""
    made = np.random.default_rng(_SEED)
    tones = np.zeros(_KINDS * _POINTS)
    for place in range(_KINDS):
        width = int(made.uniform(0.15, 0.6) * _POINTS)
        begin = place * _POINTS + int(made.uniform(0, _POINTS - width))
        tones[begin : begin + width] = made.uniform(0.1, 1.0) * _LIGHTER
    return tones


_TONES = _tones()
# the running integral of the tones, for means over any stretch
_SUM = np.concatenate([[0.0], np.cumsum(_TONES)])


def _come_by(places: Array) -> Array:
    """The integral of the tones up to each place, counted in points of the run, however far away."""
    runs = np.floor(places / _TONES.size)
    inside = places - runs * _TONES.size
    return np.asarray(np.interp(inside, np.arange(_SUM.size), _SUM) + runs * _SUM[-1])


def streaked(
    exposure: Continuous, view: View, way: Way, passed: float, axis: int
) -> Picture:
    """How much light comes from behind the subject, above the ground's: height × width, by each row's own opening.

    way: of the subject at each time [px]; passed: share of it by which what stands still goes the other way.
    """
    begin, end = (
        -way(times) * passed for times in (exposure.opens_s, exposure.closes_s)
    )
    points_px = _POINTS / (_EVERY_M * view.px_per_m)
    if axis == 1:
        along = np.arange(view.width)[None, :] - view.width / 2
        along = along + view.centre_x_m * view.px_per_m
    else:
        along = np.arange(view.height)[:, None] - view.height / 2
        along = along - view.centre_y_m * view.px_per_m
    # A pixel of the picture sees what was there at the begin of its row's exposure, and at the end.
    low, high = along - begin[:, None], along - end[:, None]
    apart = np.where(np.abs(high - low) < 1, 1.0, high - low)
    mean = (_come_by((low + apart) * points_px) - _come_by(low * points_px)) / (
        apart * points_px
    )
    seen = mean.astype(np.float32) * exposure.by_row
    return np.broadcast_to(seen, (view.height, view.width)).copy()
