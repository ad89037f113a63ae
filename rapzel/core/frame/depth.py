"""Depth of field and blur discs of a thin lens, for the circle of the chosen criterion (science §3). Metres."""

import math
from dataclasses import dataclass

from rapzel.core.shared.errors import require_positive


@dataclass(frozen=True, slots=True)
class DepthOfField:
    """Near and far limits [m] of what is sharp, and the hyperfocal distance [m]; far may be infinite."""

    near_m: float
    far_m: float
    hyperfocal_m: float


def depth_of_field(
    focal_length_m: float, f_number: float, circle_m: float, distance_m: float
) -> DepthOfField:
    """Thin-lens depth of field for a circle of confusion [m], focused at `distance_m`.

    H = f² / (N c) + f; near = u (H − f) / (H + u − 2 f); far = u (H − f) / (H − u), infinite from u = H on.
    """
    require_positive(
        focal_length_m=focal_length_m, f_number=f_number, circle_m=circle_m
    )
    hyperfocal = focal_length_m**2 / (f_number * circle_m) + focal_length_m
    near = (
        distance_m
        * (hyperfocal - focal_length_m)
        / (hyperfocal + distance_m - 2 * focal_length_m)
    )
    # From there on everything behind the subject is sharp.
    if distance_m >= hyperfocal:
        return DepthOfField(near, math.inf, hyperfocal)
    return DepthOfField(
        near,
        distance_m * (hyperfocal - focal_length_m) / (hyperfocal - distance_m),
        hyperfocal,
    )


def blur_disc_m(
    focal_length_m: float, f_number: float, focus_m: float, distance_m: float
) -> float:
    """Diameter on the sensor [m] of a point at `distance_m` while the lens is focused at `focus_m`.

    f² |d − u| / (N d (u − f)). Source: thin lens. Raises OutOfRange unless all are above 0.
    """
    require_positive(
        focal_length_m=focal_length_m, f_number=f_number, distance_m=distance_m
    )
    away = abs(distance_m - focus_m)
    return (
        focal_length_m**2 * away / (f_number * distance_m * (focus_m - focal_length_m))
    )
