"""The two views of a beam's drawing: their projections at one scale, and drawing within their bounds."""

from collections.abc import Callable
from dataclasses import dataclass

from rapzel.core.motion.trajectory import Axes
from rapzel.core.subjects.pen import clipped_polygon
from rapzel.core.tools.beam_asked import BeamAsked, beam_line, way_of
from rapzel.core.trigger.crossing import added, scaled
from rapzel.ui.drawing import Svg

WIDTH, HEIGHT = 430.0, 236.0  # of one view
UNKNOWN_LENGTH = 1.1  # times the field, for a beam of unknown length
Point = tuple[float, float]


@dataclass(frozen=True)
class View:
    """One projection at true scale: metres across and up the drawing, from the wanted place."""

    left: float
    px_per_m: float
    middle: Point  # of the drawing, where the wanted place is
    flat: Callable[[Axes], Point]

    def at(self, place: Axes) -> Point:
        x, y = self.flat(place)
        return self.middle[0] + x * self.px_per_m, self.middle[1] - y * self.px_per_m


def from_above(place: Axes) -> Point:
    """From above: across to the right, towards the camera downwards."""
    return float(place.across), -float(place.towards)


def from_the_side(place: Axes) -> Point:
    """From the side: away from the camera to the right, up upwards."""
    return -float(place.towards), float(place.up)


def box(view: View) -> tuple[float, float, float, float]:
    return view.left, 22.0, view.left + WIDTH, HEIGHT + 6


def area(svg: Svg, cls: str, points: list[Point], view: View, **more: object) -> None:
    """The part of a polygon within its view."""
    inside = clipped_polygon(points, box(view))
    if len(inside) > 2:
        svg.polygon(cls, inside, **more)


def line_within(
    svg: Svg, cls: str, a: Point, b: Point, view: View, dashes: str | None = None
) -> tuple[Point, Point] | None:
    """The part of a line within its view, and its ends; None where it is outside (Liang and Barsky 1984)."""
    left, top, right, bottom = box(view)
    dx, dy, first, last = b[0] - a[0], b[1] - a[1], 0.0, 1.0
    sides = (
        (-dx, a[0] - left),
        (dx, right - a[0]),
        (-dy, a[1] - top),
        (dy, bottom - a[1]),
    )
    for step, room in sides:
        if step < 0:
            first = max(first, room / step)
        elif step > 0:
            last = min(last, room / step)
        elif room < 0:
            return None
    if first > last:
        return None
    ends = (a[0] + first * dx, a[1] + first * dy), (a[0] + last * dx, a[1] + last * dy)
    svg.line(cls, *ends[0], *ends[1], stroke_dasharray=dashes)
    return ends


def held(point: Point, view: View) -> Point:
    """The point, or the nearest one within the view."""
    left, top, right, bottom = box(view)
    return min(max(point[0], left), right), min(max(point[1], top), bottom)


def span_m(asked: BeamAsked) -> float:
    length = asked.length_m or UNKNOWN_LENGTH * asked.field_width_m
    return max(
        asked.field_width_m, 2 * asked.upstream_m, min(length, 3 * asked.field_width_m)
    )


def beam_ends(asked: BeamAsked) -> tuple[Axes, Axes, Axes] | None:
    """The beam's two ends and where the usual way cuts it, from the wanted place; None for one along the way."""
    line = beam_line(asked)
    if line is None:
        return None
    length = asked.length_m or UNKNOWN_LENGTH * asked.field_width_m
    cut = scaled(way_of(asked), -asked.upstream_m)
    middle = added(cut, scaled(line.along, -line.offset_m))
    return (
        added(middle, scaled(line.along, -length / 2)),
        added(middle, scaled(line.along, length / 2)),
        cut,
    )
