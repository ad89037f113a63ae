"""Settings found: every combination of a kit within a person's limits, ranked and shown (science §8).

What is left out of the sums is left out because it cannot be a hit, or cannot be among those that are shown. A hit
holds freeze, light, room, ghost, sync and pace by the best guess, and none of them is unknown. Timing is told of each
hit and asked of none: no light changes when the subject comes.

One kind of light at a time comes first and is always quick. Two kinds together are many more; they come a block at a
time, so that memory stays what it is, and where they would take longer than one waits, that is said and they are left
out.
"""

import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np

from rapzel.core.document.gear import Strobe
from rapzel.core.document.scene import Scene
from rapzel.core.methods import METHODS
from rapzel.core.search.at_shutter import at_shutter
from rapzel.core.search.blocks import blocks_of_two, counts_of_two, row_count_of_two
from rapzel.core.search.fitting import Fits, Table, fit, room_of
from rapzel.core.search.gathering import Gathering, Point, SearchStep
from rapzel.core.search.hits import Hit
from rapzel.core.search.limits import Limits
from rapzel.core.search.pulses import Settings, settings_of
from rapzel.core.search.rigs import Rows, counts_of, of_one_kind, rows_at
from rapzel.core.search.ways import (
    Modifier,
    Places,
    Way,
    dials_of,
    no_shutter,
    places_of,
    spills,
    way_of,
    why_not,
)
from rapzel.core.shared.once import once

Progress = Callable[[float], None]  # told the share that is done; may raise to cancel
Beat = Callable[[], None]  # called while a step goes on; may raise to cancel
CELLS = 400_000  # rigs times places that are worked out together: some 50 MB
# such cells up to which every combination is looked at, also those that cannot be shown
_COUNTED = 30_000_000
_ONE_KIND = 0.25  # share of the work that one kind at a time is said to be
_TRIAL_S = 1.5  # of two kinds, after which the rest is estimated
_SPILLS = (
    "its light makes the backdrop too bright for black from every place: flag it, or go "
    "further from it"
)
_REMEMBERED = 4000  # rigs of one kind that each step keeps


@dataclass(frozen=True)
class Kit:
    """What may be used: strobes and modifiers by name."""

    strobes: tuple[Strobe, ...]
    modifiers: Mapping[str, Modifier] = field(default_factory=dict)


@dataclass(frozen=True)
class LeftOut:
    """Two kinds of light together that were not searched: how long they would take [s], and what would make it short.

    strobes, lights: so many of either would do.
    """

    takes_s: float
    strobes: int
    lights: int


@dataclass(frozen=True)
class Found:
    """What a search found: how many combinations it covered, how many of them hit, and the best of them in order.

    hit_count: None where those that cannot be shown were passed over without being counted.
    """

    combinations: int
    hit_count: int | None
    hits: list[Hit]
    front: list[Point]
    reasons: dict[str, str]  # methods that cannot be, or are not known to, and why
    unknown: list[str]  # strobes of which it is not known whether they keep up
    left_out: LeftOut | None = None


class Search:
    """One search: a scene, a kit and limits, with everything that its steps share."""

    def __init__(
        self, scene: Scene, kit: Kit, limits: Limits, mixed: bool = True
    ) -> None:
        self.scene, self.limits, self.mixed = scene, limits, mixed
        chosen = limits.strobes
        self.strobes = [
            one for one in kit.strobes if chosen is None or one.name in chosen
        ]
        self.settings: Settings = settings_of(tuple(self.strobes))
        self.kit = kit
        keys = METHODS if limits.methods is None else limits.methods
        self.reasons = {key: why_not(scene, key) for key in keys}
        if not self.strobes:
            for key in keys:
                if METHODS[key].flashes:
                    self.reasons[key] = self.reasons[key] or "no strobe to search with"
        if spills(scene, limits):
            for key in keys:
                if METHODS[key].flashes:
                    self.reasons[key] = self.reasons[key] or _SPILLS
        ways = [way_of(scene, key, limits) for key in keys if not self.reasons[key]]
        for way in ways:
            if not way.shutters:
                self.reasons[way.method.key] = no_shutter(way)
        self.ways = [way for way in ways if way.shutters]
        self.counts = True  # whether a run counts what it cannot show
        self._steps: dict[tuple[str, float], SearchStep] = {}
        self._alone: dict[tuple[str, float], Rows] = {}

    @property
    def unknown_recycles(self) -> list[str]:
        """Strobes whose recycle is not known well enough for the frames a second that are asked for, by name."""
        asked = self.limits.frames_per_s or self.scene.exposure.frames_per_s
        if not asked:
            return []
        kept = [light.strobe for light in self.scene.lights if not light.on_moving_part]
        known = {
            strobe.name or "a strobe"
            for strobe in (*self.strobes, *kept)
            if strobe.full_recycle_s is None or strobe.recycle_floor_s is None
        }
        return sorted(known)

    def steps(self) -> Iterator[SearchStep]:
        """Every way at every shutter it may use."""
        for way in self.ways:
            for shutter in way.shutters:
                yield self.step(way, shutter)

    def step(self, way: Way, shutter_s: float) -> SearchStep:
        """One way at one shutter, worked out once."""
        key = (way.method.key, shutter_s)
        if key not in self._steps:
            at = at_shutter(way, self.settings, shutter_s)
            table = self.tables[way.method.key]
            self._steps[key] = SearchStep(
                way, at, room_of(way, shutter_s), table, self.places
            )
        return self._steps[key]

    def alone(self, step: SearchStep) -> Rows:
        """The rigs of one kind at a step, whatever they do; remembered where they are few."""
        key = (step.way.method.key, step.at.shutter_s)
        if key in self._alone:
            return self._alone[key]
        rows = of_one_kind(step.way, self.settings, step.at, self.limits)
        if len(rows) <= _REMEMBERED:
            self._alone[key] = rows
        return rows

    def rows(self, step: SearchStep) -> Rows:
        """The rigs of one kind at a step that freeze, meet the shutter and keep up."""
        return rows_at(step.way, step.at, self.limits, self.alone(step))

    @once
    def places(self) -> Places:
        """Where lights may stand and what may be before them."""
        return places_of(self.scene, self.limits, self.kit.modifiers)

    @once
    def tables(self) -> dict[str, Table]:
        """The dials of each way, sorted."""
        usual, order = self.scene.exposure.f_number, self.limits.order
        return {
            way.method.key: Table(dials_of(way, self.limits), order, usual)
            for way in self.ways
        }

    @property
    def step_count(self) -> int:
        return sum(len(way.shutters) for way in self.ways)

    def combinations(self) -> int:
        """How many combinations the search covers."""
        places, together = len(self.places.distance_m), 0
        for way in self.ways:
            dials = len(self.tables[way.method.key].dials.iso)
            if way.method.flashes:
                rigs = self._rig_count(way)
            else:
                rigs = 1
            together += (
                len(way.shutters) * dials * rigs * (places if way.method.flashes else 1)
            )
        return together

    def _rig_count(self, way: Way) -> int:
        fires = np.array(
            [
                not way.method.on_strobe(source.strobe)
                for source in self.settings.sources
            ],
            bool,
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
        if self.mixed and not way.placed:
            mixed = len(counts) - alone
        else:
            mixed = 0
        return alone * len(power) + mixed * pairs

    def any_hit(self, beat: Beat | None = None) -> bool:
        """Whether anything fits at all; of two kinds of light where they are few. `beat` is called now and then."""
        alone = ((step, self.rows(step)) for step in self.steps())
        if any(self._fits_any(step, rows, beat) for step, rows in alone):
            return True
        if not self.few:
            return False
        two = ((step, rows) for step in self.steps() for rows in self.two_kinds(step))
        return any(self._fits_any(step, rows, beat) for step, rows in two)

    def _fits_any(self, step: SearchStep, rows: Rows, beat: Beat | None) -> bool:
        if beat is not None:
            beat()
        return any(len(fits.count) for fits in self.fits(step, rows))

    @once
    def two_kind_count(self) -> int:
        """How many rigs of two kinds all steps have together."""
        if not self.mixed:
            return 0
        return sum(
            row_count_of_two(step.way, self.settings, step.at, self.limits)
            for step in self.steps()
        )

    @property
    def few(self) -> bool:
        """Whether they are few enough that every combination can be looked at, also those that cannot be shown."""
        return self.two_kind_count * len(self.places.distance_m) <= _COUNTED

    def two_kinds(self, step: SearchStep) -> Iterator[Rows]:
        """The rigs of two kinds at a step that freeze, meet the shutter and keep up, a block at a time."""
        for rows in self.two_kind_blocks(step):
            yield self.frozen(rows)

    def two_kind_blocks(self, step: SearchStep) -> Iterator[Rows]:
        """The same before it is asked whether they freeze."""
        if self.mixed:
            yield from blocks_of_two(step.way, self.settings, step.at, self.limits)

    def frozen(self, rows: Rows) -> Rows:
        """Those of some rigs that freeze."""
        return rows.where(rows.freeze >= self.limits.freeze_stops - 1e-9)

    def fits(self, step: SearchStep, rows: Rows) -> Iterator[Fits]:
        """What fits of some rows, of so many at a time that memory holds them."""
        for part in rows.parts(max(CELLS // len(step.places.distance_m), 1)):
            yield fit(part, step.room, step.table, step.places, self.limits)

    def run(
        self,
        progress: Progress | None = None,
        patience_s: float | None = None,
        count: bool = True,
    ) -> Found:
        """The best hits. `progress` is told the share that is done after each block.

        patience_s [s]: two kinds of light together are left out where they would take longer; None takes the time.
        count: hits that cannot be shown are counted where there are few; else they are passed over, which is quicker.
        """
        told = progress or _nobody
        self.counts = count and self.few
        gathering = Gathering(self.limits, self.settings)
        if self.mixed:
            share = _ONE_KIND
        else:
            share = 1.0
        self._one_kind(gathering, lambda done: told(done * share))
        # what was begun and left out is not in the list by halves
        both = gathering.copy()
        two = _TwoKinds(self, both, lambda done: told(share + done * (1 - share)))
        left_out = two.run(patience_s)
        if left_out is None:
            gathering = both
        return Found(
            self.combinations(),
            gathering.hit_count if self.counts and left_out is None else None,
            [one.hit() for one in gathering.listed],
            [one.point(self.limits) for one in gathering.front],
            {key: reason for key, reason in self.reasons.items() if reason},
            self.unknown_recycles,
            left_out,
        )

    def best_of_each(self, progress: Progress | None = None) -> dict[str, Hit]:
        """The best hit of one kind of light by each method that has one."""
        self.counts = False
        gathering = Gathering(self.limits, self.settings, only_best=True)
        self._one_kind(gathering, progress or _nobody)
        return {key: best.hit() for key, best in gathering.best_of_each().items()}

    def _one_kind(self, gathering: Gathering, told: Progress) -> None:
        for number, step in enumerate(self.steps(), start=1):
            self.add(gathering, step, self.rows(step))
            told(number / self.step_count)

    def add(self, gathering: Gathering, step: SearchStep, rows: Rows) -> None:
        """What fits of some rows goes to the others; without counting only where it may be shown."""
        if not self.counts:
            rows = rows.where(gathering.hopeful(step, rows))
        for fits in self.fits(step, rows):
            gathering.add(step, fits)


class _TwoKinds:
    """The rigs of two kinds of a search, a block at a time."""

    def __init__(self, search: Search, gathering: Gathering, told: Progress) -> None:
        self.search, self.gathering, self.told = search, gathering, told

    def run(self, patience_s: float | None) -> LeftOut | None:
        """Adds what they hold; says what was left out where that would take longer than one waits."""
        begun, done = time.monotonic(), 0
        for step in self.search.steps():
            for rows in self.search.two_kind_blocks(step):
                self.search.add(self.gathering, step, self.search.frozen(rows))
                done += len(rows)
                self.told(min(done / self.search.two_kind_count, 1.0))
                # Extrapolated from what is done: the first second says well enough how long the
                # rest takes.
                spent_s = time.monotonic() - begun
                takes_s = spent_s / done * self.search.two_kind_count
                if (
                    patience_s is not None
                    and spent_s > _TRIAL_S
                    and takes_s > patience_s
                ):
                    return self._left_out(takes_s, patience_s)
        return None

    def _left_out(self, takes_s: float, patience_s: float) -> LeftOut:
        """Pairs grow with the square of the strobes, and with the ways to part the lights in two."""
        # How much smaller the search would have to be.
        part = patience_s / takes_s
        strobes = int(len(self.search.strobes) * part**0.5)
        now = len(counts_of_two(self.search.limits))
        fewer = [
            lights
            for lights in range(2, self.search.limits.lights)
            if lights * (lights - 1) / 2 <= part * now
        ]
        return LeftOut(takes_s, max(strobes, 1), max(fewer, default=1))


def _nobody(share: float) -> None:
    """Nobody wants to know how far it is."""


def find_settings(
    scene: Scene, kit: Kit, limits: Limits, progress: Progress | None = None
) -> Found:
    """Every combination of the kit within the limits, and the best that work. See `Found`."""
    return Search(scene, kit, limits).run(progress)
