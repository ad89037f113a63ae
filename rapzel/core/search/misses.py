"""What comes nearest where nothing fits: combinations that fail in one thing only, and by how much (science §8)."""

import math
from collections.abc import Callable, Collection, Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from rapzel.core.search.find import Beat, Search
from rapzel.core.search.fitting import Fits, fit, stretches
from rapzel.core.search.gathering import SearchStep, made_hit
from rapzel.core.search.hits import Hit
from rapzel.core.search.rigs import Rows, rows_at, rows_failing
from rapzel.core.search.ways import Array
from rapzel.core.shared import constants
from rapzel.core.verdict.margins import MARGINS

_ANY_STOPS = 1e3  # of tolerance: the light may be anything
_MOST = 6
_NOTHING = 1e-9  # stops
# how near each kind of miss has come by the same method [stops]
SoFar = Mapping[str, float]


@dataclass(frozen=True)
class Miss:
    """A combination that all limits but one allow: what fails, and by how many stops.

    Where several fail, `fails` names them all, `parts` says by how much each, and `by_stops` is their sum.
    """

    hit: Hit
    fails: str
    by_stops: float
    parts: Mapping[str, float] = field(default_factory=dict)

    def to_document(self) -> dict[str, Any]:
        """The miss as `find_settings` prints it."""
        return {
            **self.hit.to_document(),
            "fails": self.fails,
            "by_stops": self.by_stops,
        }


def misses_of(search: Search, beat: Beat | None = None) -> list[Miss]:
    """The nearest miss of each kind by each method, the nearest first.

    Two things fail only where no miss of a single one is left. `beat` is called before each step.
    """
    return _best(search, [way.method.key for way in search.ways], _of_step, beat)[
        :_MOST
    ]


def nearest_of_each(search: Search, keys: Collection[str]) -> dict[str, Miss]:
    """The nearest miss by each of some methods."""
    nearest: dict[str, Miss] = {}
    for miss in _best(search, keys, _of_step):
        nearest.setdefault(miss.hit.way.method.key, miss)
    left = [key for key in keys if key not in nearest]
    for miss in _best(search, left, _several_wrong):
        nearest.setdefault(miss.hit.way.method.key, miss)
    return nearest


def _best(
    search: Search,
    keys: Collection[str],
    misses: Callable[[Search, SearchStep, SoFar], Iterator[Miss]],
    beat: Beat | None = None,
) -> list[Miss]:
    """The nearest of each kind by each method, the nearest first."""
    best: dict[tuple[str, str], Miss] = {}
    for step in search.steps():
        if beat is not None:
            beat()
        method = step.way.method.key
        if method not in keys:
            continue
        so_far = {
            fails: miss.by_stops for (of, fails), miss in best.items() if of == method
        }
        for miss in misses(search, step, so_far):
            if miss.by_stops < so_far.get(miss.fails, math.inf):
                best[method, miss.fails] = miss
    return sorted(
        best.values(), key=lambda miss: (" and " in miss.fails, miss.by_stops)
    )


def _of_step(search: Search, step: SearchStep, so_far: SoFar) -> Iterator[Miss]:
    way, settings, limits = step.way, search.settings, search.limits
    alone = search.alone(step)
    rows = rows_at(way, step.at, limits, alone)
    two_kinds = search.two_kinds(step) if search.few else ()
    for some in (rows, *two_kinds):
        yield from _nearest_light(search, step, some, "light", np.zeros(len(some)))
        yield from _nearest_level(search, step, some)
        yield from _nearest_trail(search, step, some)
    for what in ("freeze", "sync", "pace") if way.method.flashes else ("freeze",):
        failing, by = rows_failing(what, way, step.at, limits, alone)
        # What is farther off than the nearest so far cannot win, and need not be fitted.
        nearer = by < so_far.get(what, math.inf)
        if what == "freeze":
            yield from _nearest_light(search, step, failing, "freeze and light", by)
        failing, by = failing.where(nearer), by[nearer]
        fits = fit(failing, step.room, step.table, step.places, limits)
        if len(fits.count):
            amounts = by[fits.kept]
            place = int(np.argmin(amounts))
            yield Miss(
                made_hit(step, fits, place, settings), what, float(amounts[place])
            )


def _nearest_light(
    search: Search, step: SearchStep, rows: Rows, fails: str, more: Array
) -> Iterator[Miss]:
    """The combination whose light is least wrong, everything else as it should be; `more` stops fail beside it."""
    table, places, room = step.table, step.places, step.room
    if not len(rows) or not room.possible or not len(table.gains):
        return
    # Whatever light, with the room as the look wants it: what is left open is how far the light is
    # off.
    open_ = stretches(rows, room, table, places, _ANY_STOPS)
    count = len(table.gains)
    usable = open_.end > open_.begin
    low = table.gains[np.minimum(open_.begin, count - 1)]
    high = table.gains[np.clip(open_.end - 1, 0, count - 1)]
    tolerance = search.limits.tolerance_stops
    # Even with the most that the dials give.
    short = np.maximum(-tolerance - (open_.together + high), 0.0)
    over = np.maximum(open_.together + low - tolerance, 0.0)
    wrong = np.where(usable, short + over + more[:, None], np.inf)
    row, place = np.unravel_index(int(np.argmin(wrong)), wrong.shape)
    by = float(wrong[row, place])
    if not _tells(by):
        return
    darker = short[row, place] > 0
    if darker:
        at = open_.end[row, place] - 1
    else:
        at = open_.begin[row, place]
    yield Miss(_hit_at(search, step, rows, (int(row), int(place), int(at))), fails, by)


def _nearest_level(search: Search, step: SearchStep, rows: Rows) -> Iterator[Miss]:
    """The combination with the right light, without a ghost, whose room is least off the level of the look."""
    table, places, room = step.table, step.places, step.room
    if not len(rows) or not room.possible or not len(table.gains):
        return
    free = replace(room, x_low=-math.inf, x_high=math.inf)
    right = stretches(rows, free, table, places, search.limits.tolerance_stops)
    count = len(table.gains)
    low = table.gains[np.minimum(right.begin, count - 1)]
    high = table.gains[np.clip(right.end - 1, 0, count - 1)]
    # How far the room's own level is off, with the best of the dials that are right for the light.
    wrong = np.maximum(np.maximum(room.x_low - high, low - room.x_high), 0.0)
    row, place, by = _least(np.where(right.end > right.begin, wrong, np.inf))
    if not _tells(by):
        return
    darker = high[row, place] < room.x_low
    if darker:
        at = right.end[row, place] - 1
    else:
        at = right.begin[row, place]
    yield Miss(_hit_at(search, step, rows, (row, place, int(at))), "room", by)


def _nearest_trail(search: Search, step: SearchStep, rows: Rows) -> Iterator[Miss]:
    """The combination with the right light and room whose flash is least wrong against the room."""
    table, places, room = step.table, step.places, step.room
    flashes = step.way.method.flashes
    if not len(rows) or not room.possible or not len(table.gains) or not flashes:
        return
    free = replace(room, under=-math.inf, over=math.inf)
    right = stretches(rows, free, table, places, search.limits.tolerance_stops)
    apart = right.flash - room.level
    wrong = np.maximum(np.maximum(room.under - apart, apart - room.over), 0.0)
    row, place, by = _least(np.where(right.end > right.begin, wrong, np.inf))
    if _tells(by):
        where = (row, place, int(right.begin[row, place]))
        yield Miss(_hit_at(search, step, rows, where), "ghost", by)


def _least(wrong: Array) -> tuple[int, int, float]:
    """(row, place, how much) of the least."""
    row, place = np.unravel_index(int(np.argmin(wrong)), wrong.shape)
    return int(row), int(place), float(wrong[row, place])


def _tells(by: float) -> bool:
    """Whether a miss is one: something is wrong, and not by more than any sensor tells from nothing."""
    return _NOTHING < by <= constants.DARKEST_STOPS


def _several_wrong(search: Search, step: SearchStep, so_far: SoFar) -> Iterator[Miss]:
    """The combination of one kind in which freeze, light and room (and even rows) together are least wrong."""
    way, table, room, limits, met = (
        step.way,
        step.table,
        step.room,
        search.limits,
        step.at,
    )
    if way.method.leads:  # rows may be uneven as well
        met = replace(met, syncs=met.caught > 0)
    if not len(table.gains) or not bool(room.possible):
        return
    # Smear counts as one of the things that are wrong, so nothing is left out for it.
    free = limits.relaxed(freeze_stops=-1e6)
    rows = rows_at(way, met, free, search.alone(step))
    if not len(rows):
        return
    smeared = np.maximum(limits.freeze_stops - rows.freeze, 0.0)[:, None, None]
    if way.method.leads:
        fall = -rows.sync
    else:
        fall = np.zeros(len(rows))
    uneven = np.maximum(fall, 0.0)[:, None, None]
    if rows.lights.any():
        gains = step.places.gain_stops
    else:
        gains = step.places.gain_stops[:1]
    flash = np.log2(np.maximum(rows.light, 1e-300))[:, None] + gains[None, :]
    together = np.logaddexp2(flash, room.level)
    # The sum of what is wrong bends only where light or room are right: one of these settings is the best.
    low, high = float(table.gains[0]), float(table.gains[-1])
    fixed = [np.full(together.shape, at) for at in (low, high, room.x_low, room.x_high)]
    set_to = np.clip(np.stack([-together, *fixed], axis=-1), low, high)
    tolerance = limits.tolerance_stops
    light = np.maximum(np.abs(together[..., None] + set_to) - tolerance, 0.0)
    apart = (flash - room.level)[..., None]
    level = np.maximum(np.maximum(room.x_low - set_to, set_to - room.x_high), 0.0)
    trail = np.maximum(room.under - apart, 0.0)
    if not math.isinf(room.over):
        trail = np.maximum(trail, np.maximum(apart - room.over, 0.0))
    trail = np.broadcast_to(trail, level.shape)
    wrong = smeared + uneven + light + level + trail
    row, place, at = np.unravel_index(int(np.argmin(wrong)), wrong.shape)
    by = float(wrong[row, place, at])
    # Without any light nothing is near.
    if not math.isfinite(by) or light[row, place, at] > constants.DARKEST_STOPS:
        return
    # Dials have marks: the one nearest to the best setting is shown.
    dial = int(np.argmin(np.abs(table.gains - set_to[row, place, at])))
    hit = _hit_at(search, step, rows, (int(row), int(place), dial))
    amounts = (
        ("freeze", smeared[row, 0, 0]),
        ("sync", uneven[row, 0, 0]),
        ("light", light[row, place, at]),
        ("room", level[row, place, at]),
        ("ghost", trail[row, place, at]),
    )
    parts = {name: float(amount) for name, amount in amounts if amount > _NOTHING}
    if parts:
        yield Miss(hit, " and ".join(parts), by, parts)


def _hit_at(
    search: Search, step: SearchStep, rows: Rows, where: tuple[int, int, int]
) -> Hit:
    """The combination of a row, a place and one of the sorted dials."""
    row, place, at = where
    one = rows.where(np.arange(len(rows)) == row)
    dial = step.table.sorted[at]
    flash = np.log2(np.maximum(one.light, 1e-300)) + step.places.gain_stops[place]
    light = np.logaddexp2(flash, step.room.level) + step.table.dials.gain_stops[dial]
    single = np.array([0])
    fits = Fits(
        one,
        single,
        single + 1,
        single + dial,
        single + place,
        step.table.dials.iso[single],
        light,
        flash - step.room.level,
    )
    return made_hit(step, fits, 0, search.settings)


def in_words(miss: Miss) -> str:
    """What fails and by how much."""
    if miss.parts:
        return ", ".join(_in_words(miss, name, by) for name, by in miss.parts.items())
    if miss.fails == "freeze and light":
        return f"smeared and short of light, {_stops(miss.by_stops)} together"
    return _in_words(miss, miss.fails, miss.by_stops)


def _in_words(miss: Miss, name: str, by: float) -> str:
    over = (miss.hit.claimed.get("light") or 0.0) > 0
    way = miss.hit.way
    return f"{MARGINS[name].falls_short(way.method, way.base, over)} {_stops(by)}"


def _stops(stops: float) -> str:
    return f"{stops:.1f} stop{'' if stops < 1.05 else 's'}"
