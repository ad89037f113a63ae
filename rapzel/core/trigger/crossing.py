"""Where the subject's many paths cut a beam: which of them do, when, and where on the beam (science §11).

Plain geometry in the camera's axes. Paths are taken as parallel to the usual one near the beam. Places are counted
from where the usual path cuts it, lengths in metres.
"""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rapzel.core.motion.kinematics import Number
from rapzel.core.motion.trajectory import Axes

Flags = npt.NDArray[np.bool_]
Array = npt.NDArray[np.float64]
DIRECTIONS = {
    "across": Axes(1.0, 0.0, 0.0),
    "up": Axes(0.0, 1.0, 0.0),
    "depth": Axes(0.0, 0.0, 1.0),
}
# sine of the angle below which a beam lies along the way and never crosses it
_ALONG = 1e-3


def _times(a: Number, b: Number) -> Number:
    # A component that is nothing makes no array of nothings: most beams and ways lie along an axis.
    if (isinstance(a, float) and a == 0) or (isinstance(b, float) and b == 0):
        return 0.0
    return a * b


def dot(a: Axes, b: Axes) -> Number:
    """Scalar product of two vectors, of which either may hold arrays."""
    return (
        _times(a.across, b.across) + _times(a.up, b.up) + _times(a.towards, b.towards)
    )


def cross(a: Axes, b: Axes) -> Axes:
    """Vector product."""
    return Axes(
        a.up * b.towards - a.towards * b.up,
        a.towards * b.across - a.across * b.towards,
        a.across * b.up - a.up * b.across,
    )


def scaled(a: Axes, by: Number) -> Axes:
    """The vector so many times as long."""
    return Axes(_times(a.across, by), _times(a.up, by), _times(a.towards, by))


def added(a: Axes, b: Axes) -> Axes:
    """The sum of two vectors."""
    return Axes(a.across + b.across, a.up + b.up, a.towards + b.towards)


def unit(a: Axes) -> Axes:
    """The vector made 1 long; raises ZeroDivisionError for one without length."""
    return scaled(a, 1 / math.sqrt(float(dot(a, a))))


def sideways(way: Axes) -> tuple[Axes, Axes]:
    """Two unit vectors square to a way and to each other: aside on the level, and up; for an upright way, across and
    towards the camera."""
    # Near the upright, level has no one direction; across is as good as any and does not jump.
    if abs(float(way.up)) > 0.9:
        return Axes(1.0, 0.0, 0.0), Axes(0.0, 0.0, 1.0)
    aside = unit(cross(way, DIRECTIONS["up"]))
    return aside, cross(aside, way)


@dataclass(frozen=True, slots=True)
class Line:
    """A beam: its direction, how far the usual way cuts it from its middle, and its length (None not known)."""

    along: Axes
    offset_m: float = 0.0
    length_m: float | None = None


def natural(way: Axes) -> str:
    """How a beam commonly lies: along the optical axis, or across where the way comes at the camera."""
    if abs(float(way.towards)) < 0.7:
        return "depth"
    return "across"


def line_of(
    lies: str | None,
    turned_deg: float,
    way: Axes,
    offset_m: float,
    length_m: float | None,
) -> Line | None:
    """The beam that lies in a direction, turned towards the way [deg], aside [m]; None where it lies along it.

    lies: one of `DIRECTIONS`, None as is natural; way: unit vector.
    """
    base = DIRECTIONS[lies or natural(way)]
    # What of the way is square to the beam: it is turned within the plane of both.
    off = added(way, scaled(base, -float(dot(way, base))))
    if math.sqrt(float(dot(off, off))) < _ALONG:
        return None
    turned = math.radians(turned_deg)
    along = added(scaled(base, math.cos(turned)), scaled(unit(off), math.sin(turned)))
    square = cross(along, way)
    if math.sqrt(float(dot(square, square))) < _ALONG:
        return None
    return Line(along, offset_m, length_m)


@dataclass(frozen=True, slots=True)
class Crossing:
    """What a beam makes of many paths: further_m along the way until it is cut, where on it, and by how much missed."""

    further_m: Number
    place_m: Number  # from the beam's middle
    gap_m: Number  # between path and beam
    line: Line

    def cuts(self, thick_m: float | None) -> Flags:
        """Whether each path cuts the beam, by a subject so thick [m]; None: as thick as it takes."""
        inside = np.asarray(np.ones(np.shape(self.place_m), dtype=bool))
        if self.line.length_m is not None:
            inside = np.asarray(np.abs(self.place_m) <= self.line.length_m / 2)
        # A thin subject can pass under or over a beam that a thick one breaks.
        return (
            inside
            if thick_m is None
            else inside & np.asarray(self.gap_m <= thick_m / 2)
        )


def crossing(line: Line, way: Axes, beside: Axes) -> Crossing:
    """Where paths cut the beam that lie `beside` the usual one (vectors square to the way).

    With k square to beam and way the gap is |beside · k|; w, square to beam and k, gives
    further = −beside · w / way · w.
    """
    k = unit(cross(line.along, way))
    w = cross(k, line.along)
    further = -dot(beside, w) / float(dot(way, w))
    place = (
        line.offset_m + dot(beside, line.along) + further * float(dot(way, line.along))
    )
    return Crossing(further, place, np.abs(dot(beside, k)), line)
