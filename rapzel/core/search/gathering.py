"""The best hits of a search while blocks of them stream by: the list, the front, and the best by each method.

Nothing but these is kept, so that a search needs the same memory whatever it covers. A row that was not chosen among
some cannot be chosen among more, so what is left of every block is all that the whole would have left.
"""

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from rapzel.core.search.at_shutter import AtShutter
from rapzel.core.search.fitting import Fits, Room, Table, fit
from rapzel.core.search.hits import Hit
from rapzel.core.search.limits import Limits
from rapzel.core.search.pulses import Settings
from rapzel.core.search.rigs import Ints, Rows
from rapzel.core.search.ways import Array, Places, Way
from rapzel.core.shared.once import once

# hits that one rig by one method may have in the list: other rigs want to be seen, too
_A_RIG = 3
_EVEN = 1 + 1e-9
Keys = tuple[Array, ...]
Chosen = npt.NDArray[np.bool_]


@dataclass(frozen=True)
class SearchStep:
    """One way at one shutter."""

    way: Way
    at: AtShutter
    room: Room
    table: Table
    places: Places


@dataclass(frozen=True)
class Point:
    """A hit on the front: nothing else has a lower ISO, a shorter light and fewer lights at once."""

    iso: float
    lasts_s: float
    lights: int
    hit: Hit


@dataclass(frozen=True)
class Candidate:
    """One row that may be among the best: what sorts it, and what makes it like another."""

    step: SearchStep
    fits: Fits  # of this row alone
    keys: tuple[float, ...]
    settings: Settings

    @once
    def powers(self) -> tuple[tuple[int, int], ...]:
        """Its lights as (setting, how many)."""
        return rig_of(self.fits, 0)

    @once
    def rig(self) -> tuple[Any, ...]:
        """Its method, and its strobes with their numbers."""
        strobes = tuple(
            (int(self.settings.source[one]), count) for one, count in self.powers
        )
        return (self.step.way.method.key, strobes)

    @property
    def lights(self) -> int:
        return int(self.fits.rows.lights[0])

    @property
    def lasts_s(self) -> float:
        return float(self.fits.rows.lasts_s[0])

    @property
    def least_iso(self) -> float:
        return float(self.fits.least_iso[0])

    def hit(self) -> Hit:
        return made_hit(self.step, self.fits, 0, self.settings)

    def point(self, limits: Limits) -> Point:
        """The hit of the front: with the lowest ISO that it can have."""
        step = self.step
        cleanest = replace(step, table=replace(step.table, order="iso"))
        alone = fit(
            self.fits.rows, step.room, cleanest.table, step.places, limits, False
        )
        hit = made_hit(cleanest, alone, 0, self.settings)
        return Point(hit.iso, self.lasts_s, self.lights, hit)


class Gathering:
    """What is kept of the blocks that were added."""

    def __init__(
        self, limits: Limits, settings: Settings, only_best: bool = False
    ) -> None:
        """only_best: the best by each method is kept, and neither list nor front."""
        self.limits, self.settings, self.only_best = limits, settings, only_best
        self.hit_count = 0
        self.listed: list[Candidate] = []
        self.front: list[Candidate] = []
        self._best: dict[str, Candidate] = {}

    def copy(self) -> "Gathering":
        """One that goes on from here, while this one stays as it is."""
        other = Gathering(self.limits, self.settings)
        other.hit_count, other.listed, other.front = (
            self.hit_count,
            [*self.listed],
            [*self.front],
        )
        return other

    def add(self, step: SearchStep, fits: Fits) -> None:
        """One block of fits of a step."""
        if not len(fits.count):
            return
        # Every combination is counted, though only the best of each row is kept.
        self.hit_count += int(fits.count.sum())
        keys = sort_keys(step, fits, self.settings, self.limits.order)
        if self.only_best:
            self._add_best(step, fits, keys)
            return
        self._add_to_list(step, fits, keys)
        self._add_to_front(step, fits, keys)

    def best_of_each(self) -> dict[str, Candidate]:
        """The first of each method by the chosen order, the first of all first; sure ones go before others."""
        return dict(
            sorted(self._best.items(), key=lambda one: _sure_first(one[1].keys))
        )

    # --- what may still become one of them ---

    def hopeful(self, step: SearchStep, rows: Rows) -> Chosen:
        """Rows that may still be kept, by the best that their light could do; a bound, no promise."""
        if not len(rows) or not step.room.possible or not len(step.table.gains):
            return np.zeros(len(rows), dtype=bool)
        iso = _least_iso(step, rows, self.limits.tolerance_stops)
        if self.only_best:
            return self._may_be_best(step, rows, iso)
        # As long as the list is not full, anything may come into it.
        listed = np.full(len(rows), len(self.listed) < self.limits.most)
        if self.listed and not listed.all():
            best = _best_keys(step, rows, iso, self.limits.order)
            listed = _not_after(best, self.listed[-1].keys[: len(best)])
        return np.asarray(listed | ~self._beaten(rows, iso))

    def _may_be_best(self, step: SearchStep, rows: Rows, iso: Array) -> Chosen:
        """Whether the best of their method so far might come after them."""
        best = self._best.get(step.way.method.key)
        if best is None:
            return np.ones(len(rows), dtype=bool)
        unsure = _unsure(self.settings, rows).astype(float)
        keys = (unsure, *_best_keys(step, rows, iso, self.limits.order))
        return _not_after(keys, _sure_first(best.keys)[: len(keys)])

    def _beaten(self, rows: Rows, iso: Array) -> Chosen:
        """Whether a point of the front has at most as many lights, as long a light and as high an ISO."""
        beaten = np.zeros(len(rows), dtype=bool)
        for lights in np.unique(rows.lights):
            rivals = [one for one in self.front if one.lights <= lights]
            if not rivals:
                continue
            times = np.array([one.lasts_s for one in rivals])
            order = np.argsort(times, kind="stable")
            # From short to long: the lowest ISO of all that last no longer.
            lowest = np.minimum.accumulate(
                np.array([one.least_iso for one in rivals])[order]
            )
            mine = rows.lights == lights
            at = np.searchsorted(times[order], rows.lasts_s[mine], "right")
            # Shorter than every rival gives place −1, which is the appended infinity: nothing beats
            # it.
            beaten[mine] = np.append(lowest, np.inf)[at - 1] <= iso[mine]
        return beaten

    # --- the list ---

    def _add_to_list(self, step: SearchStep, fits: Fits, keys: Keys) -> None:
        most = self.limits.most
        within = np.arange(len(fits.count))
        if len(self.listed) == most:
            # Once it is full, only what comes before its last one is worth sorting.
            within = np.flatnonzero(_not_after(keys, self.listed[-1].keys))
        if not len(within):
            return
        chosen = within[
            _few_of_each(
                tuple(key[within] for key in keys),
                _rig_codes(fits, self.settings)[within],
            )
        ]
        new = [self._candidate(step, fits, keys, place) for place in chosen[:most]]
        self.listed = _listed([*self.listed, *new], most)

    def _candidate(
        self, step: SearchStep, fits: Fits, keys: Keys, place: int
    ) -> Candidate:
        only = fits.only(int(place))
        return Candidate(
            step, only, tuple(float(key[place]) for key in keys), self.settings
        )

    # --- the front ---

    def _add_to_front(self, step: SearchStep, fits: Fits, keys: Keys) -> None:
        """Rows of this block that no other of it beats, and then those of all so far."""
        open_ = np.flatnonzero(~self._beaten(fits.rows, fits.least_iso))
        lights, lasts = fits.rows.lights[open_], fits.rows.lasts_s[open_]
        iso = fits.least_iso[open_]
        order = np.lexsort((iso, lasts, lights))
        new: list[Candidate] = []
        for many in np.unique(lights):
            mine = order[lights[order] == many]
            # A row is on the front if its ISO is below that of every shorter one.
            before = np.minimum.accumulate(np.append(np.inf, iso[mine]))[:-1]
            new += [
                self._candidate(step, fits, keys, open_[place])
                for place in mine[iso[mine] < before]
            ]
        if new:
            self.front = _front([*self.front, *new])

    # --- the best by each method ---

    def _add_best(self, step: SearchStep, fits: Fits, keys: Keys) -> None:
        unsure = _unsure(self.settings, fits.rows).astype(float)
        left = np.arange(len(fits.count))
        for key in (unsure, *keys):
            left = left[key[left] == key[left].min()]
        new, method = self._candidate(step, fits, keys, left[0]), step.way.method.key
        old = self._best.get(method)
        if old is None or _sure_first(new.keys) < _sure_first(old.keys):
            self._best[method] = new


# where in the keys it stands whether a freeze holds by the best guess only
_UNSURE = -6


def sort_keys(step: SearchStep, fits: Fits, settings: Settings, order: str) -> Keys:
    """What sorts hits by the chosen order, the most important first."""
    dials, rows = step.table.dials, fits.rows
    iso, f_number = dials.iso[fits.dial], dials.f_number[fits.dial]
    lasts, rate, lights = _lasts_key(rows), _rate_key(rows), rows.lights.astype(float)
    first: Keys = {
        "iso": (iso, lights),
        "lights": (lights, iso),
        "pulse": (lasts, iso, lights),
        "depth": (-f_number, iso, lights),
        "rate": (-rate, iso, lights),
    }[order]
    unsure = _unsure(settings, rows).astype(float)
    # A slower shutter than sync asks for leaves the freeze as it is, and gives the room more time to trail in.
    shutter = np.full(len(rows), step.at.shutter_s)
    waits = step.way.method.pulsed and not step.way.method.by_hand
    slower = shutter if waits else np.zeros(len(rows))
    # Among equals what is set already comes first: nobody moves a stand for nothing.
    away = np.round(step.places.preferred[fits.place], 3)
    other_f = np.abs(np.log2(f_number / step.table.usual_f_number)).round(3)
    nd = dials.nd_stops[fits.dial]
    return (*first, nd, unsure, slower, away, other_f, lasts, shutter)


def _lasts_key(rows: Rows) -> Array:
    # Rounded, so that equal pulses of two rigs tie and the next key decides.
    return np.asarray(np.round(np.log2(rows.lasts_s), 6))


def _rate_key(rows: Rows) -> Array:
    return np.asarray(
        np.round(np.nan_to_num(rows.frames_per_s, nan=0.0, posinf=np.inf), 6)
    )


def _sure_first(keys: tuple[float, ...]) -> tuple[float, ...]:
    return (keys[_UNSURE], *keys)


def _best_keys(step: SearchStep, rows: Rows, iso: Array, order: str) -> Keys:
    """The first keys of rows as good as they could be, with the lowest ISO that their light might allow."""
    lights = rows.lights.astype(float)
    deepest = np.full(len(rows), -float(step.table.dials.f_number.max(initial=0.0)))
    bests: dict[str, Keys] = {
        "iso": (iso, lights),
        "lights": (lights, iso),
        "pulse": (_lasts_key(rows), iso, lights),
        "depth": (deepest, iso, lights),
        "rate": (-_rate_key(rows), iso, lights),
    }
    return bests[order]


def _least_iso(step: SearchStep, rows: Rows, tolerance_stops: float) -> Array:
    """No dials of a lower ISO give a row enough light, even at the nearest place."""
    table, room = step.table, step.room
    flash = np.log2(np.maximum(rows.light, 1e-300)) + step.places.gain_stops.max()
    # The lowest dials that could make up for what flash and room lack, at the best of all places.
    needed = -tolerance_stops - 1e-9 - np.logaddexp2(flash, room.level)
    begin = np.searchsorted(table.gains, needed, "left")
    return np.asarray(
        table.least_iso.within(begin, np.full(len(rows), len(table.gains)))
    )


def _not_after(keys: Keys, bound: tuple[float, ...]) -> Chosen:
    """Whether each row's keys come before the bound or are equal to it."""
    before = np.ones(len(keys[0]), dtype=bool)
    for key, limit in zip(keys[::-1], bound[::-1], strict=True):
        before = (key < limit) | ((key == limit) & before)
    return before


def _rig_codes(fits: Fits, settings: Settings) -> Ints:
    """One number for each set of strobes with their numbers."""
    rows, source = fits.rows, settings.source
    if not len(source):
        return np.zeros(len(rows), dtype=np.int64)
    # A limit allows at most a dozen lights, so that four bits hold their number.
    first = source[rows.first] * 16 + rows.first_count
    second = (
        np.where(rows.second_count > 0, source[rows.second], 0) * 16 + rows.second_count
    )
    return np.asarray(first * 2**32 + second)


def _few_of_each(keys: Keys, codes: Ints) -> Ints:
    """Places of the first few of each code, sorted by the keys."""
    order = np.lexsort(keys[::-1])
    by_code = np.argsort(codes[order], kind="stable")
    # Sorted by code, and within each by the keys: the place within a run is how many come before.
    runs = codes[order][by_code]
    begins = np.append(True, runs[1:] != runs[:-1])
    begun_at = np.maximum.accumulate(np.where(begins, np.arange(len(runs)), 0))
    # how many of the same code come before
    earlier = np.empty(len(runs), dtype=np.int64)
    earlier[by_code] = np.arange(len(runs)) - begun_at
    return np.asarray(order[earlier < _A_RIG])


def _listed(candidates: list[Candidate], most: int) -> list[Candidate]:
    """The best by the chosen order: one a rig and power, and no rig more than a few times."""
    chosen: list[Candidate] = []
    seen: set[Any] = set()
    count_of: dict[Any, int] = {}
    for one in sorted(candidates, key=lambda each: each.keys):
        known = (one.rig, one.powers)
        if known in seen or count_of.get(one.rig, 0) >= _A_RIG:
            continue
        seen.add(known)
        count_of[one.rig] = count_of.get(one.rig, 0) + 1
        chosen.append(one)
        if len(chosen) == most:
            break
    return chosen


def _front(candidates: list[Candidate]) -> list[Candidate]:
    """Those that nothing else beats in ISO, duration and number of lights at once, few lights first."""
    chosen: list[Candidate] = []
    for one in sorted(
        candidates, key=lambda each: (each.lights, each.lasts_s, each.least_iso)
    ):
        shorter = [other for other in chosen if other.lasts_s <= one.lasts_s * _EVEN]
        if all(one.least_iso < other.least_iso for other in shorter):
            chosen.append(one)
    return chosen


def _unsure(settings: Settings, rows: Rows) -> Chosen:
    """Whether the freeze holds by the best guess only: within the doubt of its lights' durations."""
    if not len(settings):
        return np.zeros(len(rows), dtype=bool)
    other = np.where(rows.second_count > 0, settings.doubt_stops[rows.second], 0.0)
    return np.asarray(rows.freeze < np.maximum(settings.doubt_stops[rows.first], other))


def rig_of(fits: Fits, at: int) -> tuple[tuple[int, int], ...]:
    """The lights of one of the fits as (setting, how many)."""
    rows = fits.rows
    pairs = (
        (int(rows.first[at]), int(rows.first_count[at])),
        (int(rows.second[at]), int(rows.second_count[at])),
    )
    return tuple((setting, count) for setting, count in pairs if count)


def made_hit(step: SearchStep, fits: Fits, at: int, settings: Settings) -> Hit:
    """One of the fits of a step as a hit."""
    dials, where = step.table.dials, int(fits.place[at])
    dial, modifier = (
        int(fits.dial[at]),
        step.places.modifiers[int(step.places.modifier[where])],
    )
    return Hit(
        way=step.way,
        settings=settings,
        shutter_s=step.at.shutter_s,
        f_number=float(dials.f_number[dial]),
        iso=float(dials.iso[dial]),
        nd_stops=float(dials.nd_stops[dial]),
        distance_m=float(step.places.distance_m[where]),
        loss_stops=modifier.loss_stops,
        source_size_m=modifier.source_size_m,
        rig=rig_of(fits, at),
        claimed=_claimed(fits, at),
    )


def _claimed(fits: Fits, at: int) -> dict[str, float | None]:
    """The margins of a hit as the search knows them, None where the scene's evaluation has no figure either."""
    freeze, sync = float(fits.rows.freeze[at]), float(fits.rows.sync[at])
    return {
        "freeze": freeze if np.isfinite(freeze) else None,
        "light": float(fits.light[at]),
        "under": float(fits.ghost[at]),
        "sync": None if np.isnan(sync) else sync,
        "frames_per_s": float(fits.rows.frames_per_s[at]),
    }
