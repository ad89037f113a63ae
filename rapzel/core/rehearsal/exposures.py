"""The light of a picture's rows in time, ready to be laid out: pulses in segments, continuous light row by row."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from rapzel.core.physics import Physics, flickering
from rapzel.core.rehearsal.laid_out import laid_out, laid_out_by_row
from rapzel.core.shutter import curve
from rapzel.core.shutter.curve import Flash
from rapzel.core.subjects.pen import Picture

Array = npt.NDArray[np.float64]
# displacement [px] at each time on the shutter's axis [s]
Way = Callable[[Array], Array]
_LIGHT_OUT = 0.9995  # of a pulse; what comes later is spread over the last segment
_APART_PX = 0.1  # segments shorter than this are not told apart
_BENT_PARTS = 12  # of a continuous exposure during which the movement changes

# Shares of all light at which segments end: even ones, and ever finer ones towards both ends, for rows that the
# shutter leaves only the first or the last of the light.
_EVEN = np.linspace(0.0, 1.0, 25)[1:-1]
_ENDS = 0.04 * 0.7 ** np.arange(1, 13)
LEVELS = np.sort(np.concatenate([[0.0], _ENDS, _EVEN, 1 - _ENDS]))


@dataclass(frozen=True)
class Pulses:
    """Flash light in segments of time that all rows share: edges [s], and each row's light in each segment."""

    edges_s: Array
    weights: Picture
    level: float  # exposure of all of it, relative to correct

    @property
    def by_row(self) -> Picture:
        return np.asarray(self.weights.sum(axis=1, keepdims=True))

    def laid(
        self, layer: Picture, rows: slice, way: Way, share: float, axis: int
    ) -> Picture:
        """A layer laid out under this light; `share` of the movement is its own."""
        return laid_out(layer, self.weights[rows], way(self.edges_s) * share, axis)

    def reach_px(self, way: Way) -> tuple[float, float]:
        """The least and the most displacement while there is light [px]."""
        edges = way(self.edges_s)
        return float(edges.min()), float(edges.max())


@dataclass(frozen=True)
class Continuous:
    """Light that is constant while each row is open: the room, or a pulse train."""

    opens_s: Array
    closes_s: Array
    by_row: Picture
    level: float
    parts: int  # of the exposure, within which the movement counts as even

    def _edges(self, part: int) -> Array:
        return np.asarray(
            self.opens_s + (self.closes_s - self.opens_s) * part / self.parts
        )

    def laid(
        self, layer: Picture, rows: slice, way: Way, share: float, axis: int
    ) -> Picture:
        """A layer laid out under this light; `share` of the movement is its own."""
        total = np.zeros_like(layer)
        for part in range(self.parts):
            begin, end = (
                way(self._edges(place)[rows]) * share for place in (part, part + 1)
            )
            total += laid_out_by_row(
                layer, self.by_row[rows] / np.float32(self.parts), begin, end, axis
            )
        return total

    def reach_px(self, way: Way) -> tuple[float, float]:
        """The least and the most displacement while there is light [px]."""
        edges = np.concatenate(
            [way(self._edges(part)) for part in range(self.parts + 1)]
        )
        return float(edges.min()), float(edges.max())


def _quantiles(flashes: tuple[Flash, ...], levels: Array) -> Array:
    """When each share of the light of all flashes together has come [s]."""
    begin = min(flash.start_s for flash in flashes)
    ends = [flash.start_s + flash.pulse.time_at_s(_LIGHT_OUT) for flash in flashes]
    # A grid that is fine about every pulse, however unlike their lengths are.
    grids = [
        np.linspace(flash.start_s, end, 160)
        for flash, end in zip(flashes, ends, strict=True)
    ]
    # Of two pulses, one a hundred times shorter, an even grid would see only the longer one.
    times = np.unique(np.concatenate([[begin], *grids]))
    total = sum(flash.weight for flash in flashes)
    come = (
        sum(
            flash.weight * flash.pulse.cumulative(times - flash.start_s)
            for flash in flashes
        )
        / total
    )
    return np.asarray(np.interp(levels, come, times))


def _told_apart(edges_s: Array, way: Way) -> Array:
    """The edges without those that the movement does not tell apart; the first and the last stay."""
    places = way(edges_s)
    kept = [0]
    for at in range(1, edges_s.size - 1):
        # A segment within a tenth of a pixel changes nothing and costs as much as any.
        if abs(places[at] - places[kept[-1]]) >= _APART_PX:
            kept.append(at)
    return edges_s[[*kept, edges_s.size - 1]]


def flash_light(physics: Physics, rows: Array, way: Way) -> Pulses | Continuous | None:
    """The flash light of each row [0 … 1 in the order of uncovering]; None without any."""
    curves = physics.curves
    bare = physics.offset_stops(physics.n_squared)
    if bare is None:
        return None
    if physics.method.train:
        # All lights of a train last as long: one stands for all of them.
        share = curve.row_shares(curves.opening, curves.flashes[:1], rows)[0]
        return _continuous(physics, rows, share, 2.0**bare)
    edges = _told_apart(_quantiles(curves.flashes, LEVELS), way)
    ends = edges.copy()
    # the last segment takes the rest of every tail
    ends[-1] += 1000 * max(edges[-1] - edges[0], 1e-6)
    weights = sum(
        flash.weight * curve.in_segments(curves.opening, flash, rows, ends)
        for flash in curves.flashes
    )
    return Pulses(
        edges, np.asarray(weights / curves.total_weight, dtype=np.float32), 2.0**bare
    )


def room_light(physics: Physics, rows: Array) -> Continuous | None:
    """The room's light of each row; None for a dark room."""
    offset = physics.ambient_offset_stops
    if offset is None:
        return None
    return _continuous(physics, rows, _pulsating(physics, rows), 2.0**offset)


def _pulsating(physics: Physics, rows: Array) -> Array:
    """What each row gets of a room that flickers, against its mean; all the same where it is steady or not known."""
    found, flicker = physics.flickering, physics.scene.ambient.unsteady
    if found is None or flicker is None or not found.known:
        return np.ones(rows.shape)
    opening = physics.curves.opening
    # One frame of many: the first row opens as the light is at its crest.
    begins = opening.opens(rows) - opening.offset_s
    (pulsation,) = flickering.pulsations(flicker)
    return pulsation.levels(begins, opening.shutter_s)


def _continuous(
    physics: Physics, rows: Array, share: Array, level: float
) -> Continuous:
    opening = physics.curves.opening
    if physics.scene.motion.bent:
        # Within a part the way counts as straight.
        parts = _BENT_PARTS
    else:
        parts = 1
    by_row = share.astype(np.float32)[:, None]
    return Continuous(opening.opens(rows), opening.closes(rows), by_row, level, parts)


def taken_s(physics: Physics) -> float:
    """The instant at which the picture is taken [s on the shutter's axis]: the light, or the middle of the exposure."""
    opening = physics.curves.opening
    if physics.method.room_apart and physics.flashes:
        return min(flash.start_s for flash in physics.flashes)
    return opening.offset_s + (opening.travel_s + opening.shutter_s) / 2
