"""Which lights together: one kind or two, how many of each, each at every power.

One row is one rig at one shutter: its light, the time that stops the motion, and the margins that depend on nothing
else. Rows that do not freeze, do not meet the shutter or are too slow are left out before anything is multiplied.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from rapzel.core.physics.pace import recycle_s
from rapzel.core.search.at_shutter import AtShutter, shutter_keeps_up, usable
from rapzel.core.search.limits import Limits
from rapzel.core.search.pulses import Array, Settings
from rapzel.core.search.ways import Way

Ints = npt.NDArray[np.int64]
_REMEMBERED = 50_000
# of a few milliseconds in which an opening is sought: to a tenth of a nanosecond
_HALVINGS = 26
_HELD = 0.995  # of an asked rate: nobody counts the last half a percent of a frame


@dataclass(frozen=True)
class Rows:
    """Rigs at one shutter: arrays of one length. `first` and `second` are settings, `second` of none being 0 lights."""

    first: Ints
    first_count: Ints
    second: Ints
    second_count: Ints
    light: Array  # N² as recorded, at 1 m and ISO 100
    lasts_s: Array  # the time that stops the motion
    freeze: Array  # stops; infinite for a still subject
    sync: Array
    frames_per_s: Array  # sustained; nan where a recycle is not known

    def __len__(self) -> int:
        return len(self.light)

    @property
    def lights(self) -> Ints:
        return np.asarray(self.first_count + self.second_count)

    def where(self, chosen: npt.NDArray[np.bool_]) -> "Rows":
        """The rows for which that is so."""
        if chosen.all():
            return self
        return self.take(chosen)

    def take(self, chosen: Any) -> "Rows":
        """The rows at some places."""
        return Rows(
            *(getattr(self, name)[chosen] for name in self.__dataclass_fields__)
        )

    def parts(self, most: int) -> Iterator["Rows"]:
        """All rows, so many at a time."""
        for begin in range(0, len(self), most):
            yield self if len(self) <= most else self.take(slice(begin, begin + most))


def counts_of(most: int) -> Iterator[tuple[int, int]]:
    """How many of one kind and of another: one kind alone, then two kinds."""
    for together in range(1, most + 1):
        yield together, 0
        for second in range(1, together):
            yield together - second, second


def of_one_kind(way: Way, settings: Settings, at: AtShutter, limits: Limits) -> Rows:
    """All rigs of one kind that fire at one shutter, whatever they do; without flash the one row of the shutter."""
    if not way.method.flashes:
        return _by_the_shutter(way, at)
    fires = np.flatnonzero(at.fires)
    alone = [many for many, others in counts_of(limits.lights) if others == 0]
    first = np.tile(fires, len(alone))
    count = np.repeat(np.array(alone, dtype=np.int64), len(fires))
    if not len(first):
        return _no_rows()
    # Of rigs of one kind the second is the first with no lights, so that every look-up has a place.
    none = np.zeros_like(count)
    light, lasts = count * (settings.weight * at.caught)[first], at.lasts_s[first]
    rate = _rate(way, settings, at.shutter_s, (first, count, first, none))
    return Rows(
        first,
        count,
        first,
        none,
        light,
        lasts,
        _freeze(way, lasts),
        at.sync[first],
        rate,
    )


def _those(way: Way, alone: Rows, usable: npt.NDArray[np.bool_]) -> Rows:
    """The rigs of one kind whose setting is usable; the shutter's row always is."""
    if way.method.flashes:
        return alone.where(usable[alone.first])
    return alone


def rows_at(way: Way, at: AtShutter, limits: Limits, alone: Rows) -> Rows:
    """The rigs of one kind, of those given, that freeze, meet the shutter and keep up."""
    if not way.method.flashes and not shutter_keeps_up(way, at.shutter_s):
        return _no_rows()
    chosen = alone.freeze >= limits.freeze_stops - 1e-9
    if way.method.flashes:
        chosen &= usable(at)[alone.first]
    return alone.where(chosen)


def rows_failing(
    what: str, way: Way, at: AtShutter, limits: Limits, alone: Rows
) -> tuple[Rows, Array]:
    """Rigs of one kind that fail in one thing only, with by how much [stops]: `freeze`, `sync` or `pace`.

    Without flash there is one row, the shutter's, and only its freeze can fail.
    """
    lit = at.fires & (at.caught > 0)
    usable = {
        "freeze": at.syncs & at.keeps_up,
        "sync": ~at.syncs & at.keeps_up,
        "pace": at.syncs & ~at.keeps_up,
    }[what] & lit
    rows_ = _those(way, alone, usable)
    if what == "freeze":
        rows_ = rows_.where(rows_.freeze < limits.freeze_stops)
        return rows_, limits.freeze_stops - rows_.freeze
    rows_ = rows_.where(rows_.freeze >= limits.freeze_stops - 1e-9)
    if what == "sync" and way.method.leads:
        return rows_, np.maximum(-rows_.sync, 0.0)
    if what == "sync":
        late_s = np.nan_to_num(-rows_.sync / 1000)
        return rows_, np.log2(np.maximum(at.shutter_s + late_s, 1e-9) / at.shutter_s)
    asked = way.base.exposure.frames_per_s or 1.0
    return rows_, np.log2(asked / rows_.frames_per_s)


def joined(
    way: Way, settings: Settings, at: AtShutter, rig: tuple[Ints, Ints, Ints, Ints]
) -> Rows:
    """Rigs with their light, duration and margins: shares are added up from the slowest down (science §7)."""
    first, first_count, second, second_count = rig
    given = settings.weight * at.caught
    one, two = first_count * given[first], second_count * given[second]
    light = one + two
    # The eye takes the longer one for the picture if it is strong enough to be seen, else the
    # shorter one.
    long_first = at.lasts_s[first] >= at.lasts_s[second]
    longer = np.where(long_first, at.lasts_s[first], at.lasts_s[second])
    shorter = np.where(long_first, at.lasts_s[second], at.lasts_s[first])
    share = np.where(long_first, one, two) / np.maximum(light, 1e-300)
    floor = 2.0**-way.base.ambient.trail_stops * (1 - 1e-9)
    alone = second_count == 0
    lasts = np.where(
        alone, at.lasts_s[first], np.where(share >= floor, longer, shorter)
    )
    sync = np.where(alone, at.sync[first], np.minimum(at.sync[first], at.sync[second]))
    return Rows(
        first,
        first_count,
        second,
        second_count,
        light,
        lasts,
        _freeze(way, lasts),
        sync,
        _rate(way, settings, at.shutter_s, rig),
    )


def _freeze(way: Way, lasts_s: Array) -> Array:
    if not math.isfinite(way.limit_s):
        return np.full(len(lasts_s), np.inf)
    return np.asarray(np.log2(way.limit_s / np.maximum(lasts_s, 1e-12)))


def _rate(
    way: Way, settings: Settings, shutter_s: float, rig: tuple[Ints, Ints, Ints, Ints]
) -> Array:
    """Frames a second that lights and shutter sustain; nan where a recycle is not known."""
    kept = [recycle_s(light) for light in way.kept if way.method.flashes]
    slowest = max([way.frame_s(shutter_s), *(time or 0.0 for time in kept)])
    # One light whose recycle is not known leaves the rate of all unknown.
    if any(time is None for time in kept):
        slowest = math.nan
    first, _, second, count = rig
    other = np.where(count == 0, settings.recycle_s[first], settings.recycle_s[second])
    return np.asarray(
        1 / np.maximum(np.maximum(settings.recycle_s[first], other), slowest)
    )


def _by_the_shutter(way: Way, at: AtShutter) -> Rows:
    """The one row of a method without flash: no light, stopped by the shutter."""
    none, lasts = np.zeros(1, dtype=np.int64), np.array([at.shutter_s])
    return Rows(
        none,
        none,
        none,
        none,
        np.zeros(1),
        lasts,
        _freeze(way, lasts),
        np.array([np.nan]),
        np.array([1 / way.frame_s(at.shutter_s)]),
    )


def _no_rows() -> Rows:
    none, nothing = np.zeros(0, dtype=np.int64), np.zeros(0)
    return Rows(none, none, none, none, nothing, nothing, nothing, nothing, nothing)
