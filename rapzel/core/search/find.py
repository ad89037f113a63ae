"""Settings found: every combination of a kit within a person's limits, counted, ranked and shown (science §8).

The search is exhaustive: what it leaves out of the sums it leaves out because it cannot be a hit. A hit holds freeze,
light, ghost, sync and pace by the best guess. Timing is told of each hit and asked of none: no light changes when the
subject comes.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

import numpy as np

from rapzel.core.document.gear import Strobe
from rapzel.core.document.scene import Scene
from rapzel.core.methods import METHODS
from rapzel.core.search.fitting import Fits, Room, Table, fit, room_of
from rapzel.core.search.hits import Hit
from rapzel.core.search.limits import Limits
from rapzel.core.search.pulses import Settings, settings_of
from rapzel.core.search.rigs import AtShutter, Rows, at_shutter, counts_of, of_one_kind, rows_at
from rapzel.core.search.ways import (
    Array,
    Modifier,
    Places,
    Way,
    dials_of,
    places_of,
    way_of,
    why_not,
)

Progress = Callable[[float], None]  # told the share that is done; may raise to cancel
_A_RIG = 3  # hits that one rig by one method may have in the list: other rigs want to be seen, too


@dataclass(frozen=True)
class Kit:
    """What may be used: strobes and modifiers by name."""

    strobes: tuple[Strobe, ...]
    modifiers: Mapping[str, Modifier] = field(default_factory=dict)


@dataclass(frozen=True)
class Point:
    """A hit on the front: nothing else has a lower ISO, a shorter light and fewer lights at once."""

    iso: float
    lasts_s: float
    lights: int
    hit: Hit


@dataclass(frozen=True)
class Found:
    """What a search found: how many combinations it covered, how many of them hit, and the best of them in order."""

    combinations: int
    hit_count: int
    hits: list[Hit]
    front: list[Point]
    reasons: dict[str, str]  # methods that cannot be, and why


@dataclass(frozen=True)
class Step:
    """One way at one shutter."""

    way: Way
    at: AtShutter
    room: Room
    table: Table
    places: Places
    alone: Rows  # the rigs of one kind, whatever they do


class Search:
    """One search: a scene, a kit and limits, with everything that its steps share."""

    def __init__(self, scene: Scene, kit: Kit, limits: Limits, mixed: bool = True) -> None:
        self.scene, self.limits, self.mixed = scene, limits, mixed
        chosen = limits.strobes
        strobes = [one for one in kit.strobes if chosen is None or one.name in chosen]
        self.settings: Settings = settings_of(tuple(strobes))
        self.kit = kit
        keys = METHODS if limits.methods is None else limits.methods
        self.reasons = {key: why_not(scene, key) for key in keys}
        if not strobes:
            for key in keys:
                if METHODS[key].flashes:
                    self.reasons[key] = self.reasons[key] or "no strobe to search with"
        self.ways = [way_of(scene, key, limits) for key in keys if not self.reasons[key]]
        self._steps: dict[tuple[str, float], Step] = {}

    def steps(self) -> Iterator[Step]:
        """Every way at every shutter it may use."""
        for way in self.ways:
            for shutter in way.shutters:
                yield self.step(way, shutter)

    def step(self, way: Way, shutter_s: float) -> Step:
        """One way at one shutter, worked out once."""
        key = (way.method.key, shutter_s)
        if key not in self._steps:
            at = at_shutter(way, self.settings, shutter_s)
            table = self.tables[way.method.key]
            alone = of_one_kind(way, self.settings, at, self.limits)
            room = room_of(way, shutter_s)
            self._steps[key] = Step(way, at, room, table, self.places, alone)
        return self._steps[key]

    @cached_property
    def places(self) -> Places:
        """Where lights may stand and what may be before them."""
        return places_of(self.scene, self.limits, self.kit.modifiers)

    @cached_property
    def tables(self) -> dict[str, Table]:
        """The dials of each way, sorted."""
        usual, order = self.scene.exposure.f_number, self.limits.order
        return {
            way.method.key: Table(dials_of(way, self.limits), order, usual) for way in self.ways
        }

    @property
    def step_count(self) -> int:
        return sum(len(way.shutters) for way in self.ways)

    def combinations(self) -> int:
        """How many combinations the search covers."""
        places, together = len(self.places.distance_m), 0
        for way in self.ways:
            dials = len(self.tables[way.method.key].dials.iso)
            rigs = self._rig_count(way) if way.method.flashes else 1
            together += len(way.shutters) * dials * rigs * (places if way.method.flashes else 1)
        return together

    def _rig_count(self, way: Way) -> int:
        fires = np.array(
            [not way.method.on_strobe(source.strobe) for source in self.settings.sources], bool
        )[self.settings.source]
        source, power = self.settings.source[fires], self.settings.power[fires]
        per_source = np.bincount(source, minlength=1)
        if self.limits.equal_power:
            first, second = np.meshgrid(np.arange(len(power)), np.arange(len(power)))
            equal = np.isclose(power[first], power[second], rtol=0.01)
            pairs = int(np.sum(equal & (source[first] < source[second])))
        else:
            pairs = int((per_source.sum() ** 2 - (per_source**2).sum()) // 2)
        counts = list(counts_of(self.limits.lights))
        alone = sum(1 for _, others in counts if others == 0)
        mixed = len(counts) - alone if self.mixed and not way.placed else 0
        return alone * len(power) + mixed * pairs

    def any_hit(self) -> bool:
        """Whether anything fits at all."""
        return any(len(self._fits(step).count) for step in self.steps())

    def _fits(self, step: Step) -> Fits:
        rows = rows_at(step.way, self.settings, step.at, self.limits, step.alone, self.mixed)
        return fit(rows, step.room, step.table, step.places, self.limits)

    def run(self, progress: Progress | None = None) -> Found:
        """All hits. `progress` is told the share that is done after each step."""
        gathered = self._gathered(progress)
        hits = [gathered.hit(place) for place in gathered.ranked(self.limits)]
        front = [gathered.point(place, self.limits) for place in gathered.front()]
        reasons = {key: reason for key, reason in self.reasons.items() if reason}
        return Found(self.combinations(), gathered.hit_count, hits, front, reasons)

    def best_of_each(self, progress: Progress | None = None) -> dict[str, Hit]:
        """The best hit by each method that has one."""
        gathered = self._gathered(progress)
        best = gathered.best_of_each(self.limits)
        return {key: gathered.hit(place) for key, place in best.items()}

    def _gathered(self, progress: Progress | None) -> "_Gathered":
        parts: list[tuple[Step, Fits]] = []
        for number, step in enumerate(self.steps(), start=1):
            fits = self._fits(step)
            if len(fits.count):
                parts.append((step, fits))
            if progress is not None:
                progress(number / self.step_count)
        return _Gathered(parts, self.settings)


class _Gathered:
    """The fits of all steps as arrays of one length."""

    def __init__(self, parts: Sequence[tuple[Step, Fits]], settings: Settings) -> None:
        self.parts, self.settings = parts, settings
        sizes = [len(fits.count) for _, fits in parts]
        self.hit_count = sum(int(fits.count.sum()) for _, fits in parts)
        self.part = np.repeat(np.arange(len(parts)), sizes)
        self.within = np.concatenate([np.arange(size) for size in sizes] or [np.zeros(0, int)])
        self.lights = self._all(lambda step, fits: fits.rows.lights)
        self.lasts_s = self._all(lambda step, fits: fits.rows.lasts_s)
        self.rate = self._all(lambda step, fits: fits.rows.frames_per_s)
        self.iso = self._all(lambda step, fits: step.table.dials.iso[fits.dial])
        self.f_number = self._all(lambda step, fits: step.table.dials.f_number[fits.dial])
        self.nd_stops = self._all(lambda step, fits: step.table.dials.nd_stops[fits.dial])
        self.away = self._all(lambda step, fits: step.places.preferred[fits.place])
        self.unsure = self._all(lambda step, fits: _unsure(settings, fits))
        self.other_f = self._all(
            lambda step, fits: np.abs(
                np.log2(step.table.dials.f_number[fits.dial] / step.table.usual_f_number)
            ).round(3)
        )
        self.least_iso = self._all(lambda step, fits: fits.least_iso)

    def _all(self, of: Callable[[Step, Fits], Any]) -> Array:
        return np.concatenate([of(step, fits) for step, fits in self.parts] or [np.zeros(0)])

    def _keys(self, limits: Limits) -> tuple[Any, ...]:
        """What sorts hits by the chosen order, the most important first."""
        rate = np.where(np.isnan(self.rate), 0.0, self.rate)
        lasts = np.round(np.log2(self.lasts_s), 6)
        first: tuple[Any, ...] = {
            "iso": (self.iso, self.lights),
            "lights": (self.lights, self.iso),
            "pulse": (lasts, self.iso, self.lights),
            "depth": (-self.f_number, self.iso, self.lights),
            "rate": (-np.round(rate, 6), self.iso, self.lights),
        }[limits.order]
        return (
            *first, self.nd_stops, self.unsure, np.round(self.away, 3), self.other_f, lasts,
            self._shutters(),
        )  # fmt: skip

    def best_of_each(self, limits: Limits) -> dict[str, int]:
        """The first of each method by the chosen order; one that freezes beyond doubt goes before others."""
        titles = [step.way.method.key for step, _ in self.parts]
        keys = (self.unsure, *self._keys(limits))
        best: dict[str, int] = {}
        sorted_places = np.lexsort(keys[::-1])
        parts, firsts = np.unique(self.part[sorted_places], return_index=True)
        for first, part in sorted(zip(firsts, parts, strict=True)):
            best.setdefault(titles[part], int(sorted_places[first]))
        return best

    def ranked(self, limits: Limits) -> list[int]:
        """The best hits by the chosen order: one a rig and power, and no rig more than a few times."""
        keys = self._keys(limits)
        chosen: list[int] = []
        seen: dict[Any, int] = {}
        for place in np.lexsort(keys[::-1]):
            rig, powers = self._called(int(place))
            if (rig, powers) in seen or seen.get(rig, 0) >= _A_RIG:
                continue
            seen[rig, powers] = 1
            seen[rig] = seen.get(rig, 0) + 1
            chosen.append(int(place))
            if len(chosen) == limits.most:
                break
        return chosen

    def _shutters(self) -> Array:
        return self._all(lambda step, fits: np.full(len(fits.count), step.at.shutter_s))

    def _called(self, place: int) -> tuple[Any, Any]:
        """(method and strobes with their numbers, settings): what makes two hits alike."""
        step, fits, at = self._at(place)
        rig = _rig(fits, at)
        sources = tuple((int(self.settings.source[one]), count) for one, count in rig)
        return (step.way.method.key, sources), rig

    def _at(self, place: int) -> tuple[Step, Fits, int]:
        step, fits = self.parts[self.part[place]]
        return step, fits, int(self.within[place])

    def front(self) -> list[int]:
        """The hits that nothing else beats in ISO, duration and number of lights at once, few lights first."""
        chosen: list[int] = []
        best: list[tuple[float, float]] = []  # (duration, lowest ISO up to it) over fewer lights
        for place in np.lexsort((self.least_iso, self.lasts_s, self.lights)):
            lasts, iso = float(self.lasts_s[place]), float(self.least_iso[place])
            if all(iso < other for time, other in best if time <= lasts * (1 + 1e-9)):
                chosen.append(int(place))
                best.append((lasts, iso))
        return chosen

    def point(self, place: int, limits: Limits) -> Point:
        """A hit of the front with the lowest ISO that it can have."""
        step, fits, at = self._at(place)
        one = np.arange(len(fits.count)) == at
        cleanest = replace(step, table=replace(step.table, order="iso"))
        alone = fit(fits.rows.where(one), step.room, cleanest.table, step.places, limits, False)
        hit = made_hit(cleanest, alone, 0, self.settings)
        return Point(hit.iso, float(self.lasts_s[place]), int(self.lights[place]), hit)

    def hit(self, place: int) -> Hit:
        return made_hit(*self._at(place), self.settings)


def made_hit(step: Step, fits: Fits, at: int, settings: Settings) -> Hit:
    """One of the fits of a step as a hit."""
    dials, where = step.table.dials, int(fits.place[at])
    dial, modifier = int(fits.dial[at]), step.places.modifiers[int(step.places.modifier[where])]
    return Hit(
        way=step.way, settings=settings, shutter_s=step.at.shutter_s,
        f_number=float(dials.f_number[dial]), iso=float(dials.iso[dial]),
        nd_stops=float(dials.nd_stops[dial]),
        distance_m=float(step.places.distance_m[where]), loss_stops=modifier.loss_stops,
        source_size_m=modifier.source_size_m, rig=_rig(fits, at), claimed=_claimed(step, fits, at),
    )  # fmt: skip


def _unsure(settings: Settings, fits: Fits) -> Any:
    """Whether the freeze holds by the best guess only: within the doubt of its lights' durations."""
    if not len(settings):
        return np.zeros(len(fits.count), dtype=bool)
    rows = fits.rows
    other = np.where(rows.second_count > 0, settings.doubt_stops[rows.second], 0.0)
    return rows.freeze < np.maximum(settings.doubt_stops[rows.first], other)


def _rig(fits: Fits, at: int) -> tuple[tuple[int, int], ...]:
    rows = fits.rows
    pairs = (
        (int(rows.first[at]), int(rows.first_count[at])),
        (int(rows.second[at]), int(rows.second_count[at])),
    )
    return tuple((setting, count) for setting, count in pairs if count)


def _claimed(step: Step, fits: Fits, at: int) -> dict[str, float | None]:
    """The margins of a hit as the search knows them, None where the scene's evaluation has no figure either."""
    freeze, sync = float(fits.rows.freeze[at]), float(fits.rows.sync[at])
    return {
        "freeze": freeze if np.isfinite(freeze) else None,
        "light": float(fits.light[at]),
        "under": float(fits.ghost[at]),
        "sync": None if np.isnan(sync) else sync,
        "frames_per_s": float(fits.rows.frames_per_s[at]),
    }


def find_settings(
    scene: Scene, kit: Kit, limits: Limits, progress: Progress | None = None
) -> Found:
    """Every combination of the kit within the limits, and the best that work. See `Found`."""
    return Search(scene, kit, limits).run(progress)
