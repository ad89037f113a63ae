"""Which apertures, ISOs and places let a rig's light be right: intervals in sorted tables instead of every combination.

Flash and room expose together as x (F g + R): x is what aperture, ISO and filter do to all light, g what distance and
modifier do to the flash, F the rig's light and R the room's. For one rig and one place the x that are right lie between
two bounds, and so in one stretch of the sorted x; its length is the number of combinations, and the best of a stretch
stands in a table.
"""

import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from rapzel.core.search.limits import Limits, Order
from rapzel.core.search.rigs import Ints, Rows
from rapzel.core.search.ways import Array, Dials, Places, Way
from rapzel.core.shared import constants
from rapzel.core.shared.once import once

_EPS = 1e-9  # stops
_NEAR_STOPS = 1 / 6  # half a step of a dial: what a careful hand would set


@dataclass(frozen=True)
class Room:
    """What the wanted look asks of flash and room at one shutter, as bounds in stops; infinite where it asks nothing.

    `level`: R, the room's light; `x_low`, `x_high`: bounds of x by the room's own exposure; `under`, `over`: least and
    most of flash over room; `possible`: whether the look can be had with this shutter at all. Numbers, or arrays of
    rooms and speeds.
    """

    level: Any
    x_low: Any
    x_high: Any
    under: Any
    over: Any
    possible: Any


def room_of(way: Way, shutter_s: float) -> Room:
    """The room's part in one way at one shutter."""
    ev100 = way.physics.ev100_at(shutter_s)
    return asked_of(way, shutter_s, -math.inf if ev100 is None else ev100)


def asked_of(way: Way, shutter_s: Any, ev100: Any, faster: Any = 1.0) -> Room:
    """What the look asks of rooms of an EV (−∞: dark), with the same movement so many times as fast.

    Numbers, or arrays that go together.
    """
    way_px = trails_px(way, shutter_s, faster)
    scene, method, frame = way.base, way.method, way.frame
    look, limits = scene.look, scene.ambient
    dark = np.isneginf(ev100)
    level = ev100 + np.log2(shutter_s)
    # A room trails only where it is seen apart from the flash, and where something moves in it.
    trails = method.room_apart and look.room != "streaks"
    visible = trails & (way_px > frame.criterion_px * (1 + 1e-9)) & ~dark
    under = np.where(visible & method.flashes, limits.clear_stops, -np.inf)
    free = Room(
        level, -math.inf, math.inf, under, math.inf, np.full(np.shape(under), True)
    )
    x_low, x_high = -math.inf, math.inf
    wanted, possible = look.room_stops, np.full(np.shape(under), True)
    with np.errstate(invalid="ignore"):  # a dark room is −∞ stops
        if look.room == "black":
            # What only the room lights must be so far under correct.
            x_high = -limits.black_stops - level
        elif wanted is not None:
            x_low = wanted - constants.ROOM_WITHIN_STOPS - level
            x_high = wanted + constants.ROOM_WITHIN_STOPS - level
    if look.room != "black":
        possible = ~dark
    bounds = replace(free, x_low=x_low, x_high=x_high, possible=possible)
    if look.room == "streaks":
        # What the camera passes, and not the subject, is as long as it should be.
        passed_m = way.frame.passed_m(1.0) * np.asarray(shutter_s) * faster
        long_enough = _as_long_as_wanted(way, passed_m / way.frame.pixel_pitch_m)
        return replace(
            bounds,
            # seen at all
            x_low=np.maximum(bounds.x_low, -limits.trail_stops - level),
            possible=possible & way.frame.follows & long_enough,
        )
    if look.room != "trail":
        return bounds
    # A trail is drawn by the room beside the flash: seen, and as long as it should be.
    return replace(
        bounds,
        under=np.full(np.shape(under), -np.inf),
        over=limits.trail_stops,
        possible=possible
        & method.room_apart
        & method.flashes
        & _as_long_as_wanted(way, way_px),
    )


def _as_long_as_wanted(way: Way, way_px: Any) -> Any:
    """Whether a trail is within a third of a stop of its length."""
    wanted_m, frame = way.base.look.trail_m, way.frame
    if not wanted_m:
        return np.full(np.shape(way_px), True)
    # A trail is wanted in lengths of the subject, not of the sensor.
    length_m = np.asarray(way_px) * frame.pixel_pitch_m / frame.magnification
    off = np.abs(np.log2(np.maximum(length_m, 1e-12) / wanted_m))
    return off <= constants.RIGHT_STOPS + _EPS


def trails_px(way: Way, shutters_s: Any, faster: Any) -> Any:
    """`trail_px` of many shutters and speeds, arrays that go together."""
    if np.ndim(shutters_s) == 0 and np.ndim(faster) == 0:
        return trail_px(way, shutters_s, faster)
    if not way.physics.trajectory.motion.bent:
        return np.asarray(trail_px(way, shutters_s, faster))
    begin = _opens_s(way, shutters_s)
    times, gone_m = way.course
    gone = np.interp((begin + shutters_s) * faster, times, gone_m)
    return np.asarray(
        (gone - np.interp(begin * faster, times, gone_m)) / way.frame.pixel_pitch_m
    )


def trail_px(way: Way, shutter_s: Any, faster: Any = 1.0) -> Any:
    """How far the moving part goes while the middle row is open [px]; the same movement so many times as fast."""
    begin = _opens_s(way, shutter_s)
    way_m = way.frame.way_m(begin * faster, (begin + shutter_s) * faster)
    return way_m / way.frame.pixel_pitch_m


def _opens_s(way: Way, shutter_s: Any) -> Any:
    """When the middle row opens, counted from the wanted instant [s]."""
    if way.method.room_apart and not way.method.by_hand:
        # The middle row opens half a travel after the first, and the light comes a latency after
        # the last.
        return -way.after_contact_s(shutter_s) - way.physics.assumed_travel_s / 2
    return -shutter_s / 2


@dataclass(frozen=True)
class Table:
    """The dials of a way sorted by what they do to light, with the best of every stretch by an order."""

    dials: Dials
    order: Order
    usual_f_number: float

    @once
    def sorted(self) -> Ints:
        return np.argsort(self.dials.gain_stops, kind="stable")

    @once
    def gains(self) -> Array:
        return np.asarray(self.dials.gain_stops[self.sorted])

    @once
    def ranking(self) -> tuple[Ints, "Least"]:
        """(which dials hold each rank, the least rank of every stretch)."""
        dials, rows = self.dials, self.sorted
        keys = (-dials.f_number[rows], dials.iso[rows])
        # the last key of lexsort counts first
        if self.order != "depth":
            least = keys
        else:
            least = keys[::-1]
        # A filter is set last of all: it costs a hand and the finder's light.
        by_rank = np.lexsort((dials.nd_stops[rows], *least))
        rank = np.empty(len(rows), dtype=np.int64)
        rank[by_rank] = np.arange(len(rows))
        return rows[by_rank], Least(rank, len(rows))

    @once
    def wanted_by_rank(self) -> Array:
        """What the order asks of dials first, for each rank; infinite beyond the last."""
        holders, _ = self.ranking
        if self.order == "depth":
            asked = -self.dials.f_number[holders]
        elif self.order == "iso":
            asked = self.dials.iso[holders]
        else:
            # Fewer lights, shorter pulses and faster frames are no matter of the dials.
            asked = np.zeros(len(holders))
        return np.append(asked, np.inf)

    @once
    def least_iso(self) -> "Least":
        """The lowest ISO of every stretch [i, j); infinite for an empty one."""
        return Least(self.dials.iso[self.sorted], np.inf)


class Least:
    """The least of any stretch [i, j) of some values; `empty` for an empty stretch.

    The least of every stretch of 2, 4, 8, … values is kept, and any stretch is two of those.
    """

    def __init__(self, values: Any, empty: Any) -> None:
        self.empty = empty
        levels = [np.asarray(values)]
        while 2 ** len(levels) <= len(values):
            before, step = levels[-1], 2 ** (len(levels) - 1)
            shorter = np.minimum(before[:-step], before[step:])
            padding = np.full(len(values) - len(shorter), empty, dtype=before.dtype)
            levels.append(np.concatenate([shorter, padding]))
        self._levels = np.stack(levels)

    def within(self, begin: Any, end: Any) -> Any:
        """The least between each pair of places."""
        size = np.asarray(end - begin)
        # The largest power of two within the stretch: two such pieces cover it, overlapping.
        level = np.frexp(np.maximum(size, 1))[1] - 1
        first = np.minimum(begin, self._levels.shape[1] - 1)
        last = np.clip(end - (1 << level), 0, self._levels.shape[1] - 1)
        least = np.minimum(self._levels[level, first], self._levels[level, last])
        return np.where(size > 0, least, self.empty)


@dataclass(frozen=True)
class Fits:
    """For each row that fits: how many combinations do, the best dials and place by the order, and the lowest ISO."""

    rows: Rows
    kept: Ints  # where these rows stood among those that were asked
    count: Ints
    dial: Ints
    place: Ints
    least_iso: Array
    light: Array  # the light margin's value at the best combination [stops]
    ghost: Array  # flash over room there [stops]; infinite in a dark room

    def only(self, place: int) -> "Fits":
        """One of them."""
        one = np.array([place])
        rest = (
            getattr(self, name)[one]
            for name in self.__dataclass_fields__
            if name != "rows"
        )
        return Fits(self.rows.take(one), *rest)


@dataclass(frozen=True)
class Stretches:
    """For each row and place: log2 of the flash there, of flash and room together, and which sorted dials are right."""

    flash: Array
    together: Array
    begin: Ints
    end: Ints


def stretches(
    rows: Rows, room: Room, table: Table, places: Places, tolerance_stops: float
) -> Stretches:
    """The dials with which each row's light is right at each place, and the room as the look wants it."""
    if rows.lights.any():
        gains = places.gain_stops
    else:
        gains = places.gain_stops[:1]
    flash = np.log2(np.maximum(rows.light, 1e-300))[:, None] + gains[None, :]
    together = np.logaddexp2(flash, room.level)
    # Both bounds of x: by the light of all, and by what the look asks of the room alone.
    low = np.maximum(-tolerance_stops - _EPS - together, room.x_low - _EPS)
    high = np.minimum(tolerance_stops + _EPS - together, room.x_high + _EPS)
    begin = np.searchsorted(table.gains, low, "left")
    end = np.maximum(np.searchsorted(table.gains, high, "right"), begin)
    if math.isfinite(room.under) or math.isfinite(room.over):
        apart = flash - room.level
        wrong = (apart < room.under - _EPS) | (apart > room.over + _EPS)
        # Flash against room does not change with the dials: a wrong ratio leaves no dial at all.
        end = np.where(wrong, begin, end)
    return Stretches(flash, together, begin, end)


def fit(
    rows: Rows,
    room: Room,
    table: Table,
    places: Places,
    limits: Limits,
    centred: bool = True,
) -> Fits:
    """The combinations in which each rig's light is right and the room as it is wanted.

    centred: of dials that the wanted order holds equal, those nearest to right are taken, where there are any.
    """
    if not len(rows) or not room.possible or not len(table.gains):
        return _none(rows)
    right = stretches(rows, room, table, places, limits.tolerance_stops)
    fits = (right.end - right.begin).sum(axis=1)
    kept = np.flatnonzero(fits)
    if not len(kept):
        return _none(rows)
    begin, end = right.begin[kept], right.end[kept]
    least_iso = table.least_iso.within(begin, end).min(axis=1)
    holders, least = table.ranking
    # One look-up a row and place, however many dials lie between.
    rank = least.within(begin, end)
    if centred:
        near = stretches(rows.where(fits > 0), room, table, places, _NEAR_STOPS)
        central = least.within(np.maximum(near.begin, begin), np.minimum(near.end, end))
        wanted = table.wanted_by_rank
        # A dial that is nearer to right never beats one that the person's order puts first.
        no_worse = wanted[central] <= wanted[rank]
        rank = np.where(no_worse & (central < len(holders)), central, rank)
    dial = np.append(holders, 0)[rank]
    light = table.dials.gain_stops[dial] + right.together[kept]
    # Among equals of the order the present modifier and distance, then the light nearest to right.
    score = rank + np.minimum(
        np.abs(light) / 10 + places.preferred[None, : rank.shape[1]], 0.999
    )
    best = np.argmin(score, axis=1)
    at = np.arange(len(kept))
    return Fits(
        rows=rows.where(fits > 0),
        kept=kept,
        count=fits[kept],
        dial=dial[at, best],
        place=best,
        least_iso=least_iso,
        light=light[at, best],
        ghost=(right.flash[kept] - room.level)[at, best],
    )


def _none(rows: Rows) -> Fits:
    nothing, none = np.zeros(0), np.zeros(0, dtype=np.int64)
    empty = rows.where(np.zeros(len(rows), dtype=bool))
    return Fits(empty, none, none, none, none, nothing, nothing, nothing)
