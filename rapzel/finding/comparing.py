"""The methods page from the core's comparison: columns on one water line, each row a fact of all of them."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

from django.core.cache import caches

from rapzel.core.document.places import Document
from rapzel.core.document.present import fingerprint_of
from rapzel.core.search.cheap import CheapAnswer, cheap_answers
from rapzel.core.search.columns import Column
from rapzel.core.search.compare import Comparison, compare
from rapzel.core.search.find import Kit
from rapzel.core.search.hits import Hit
from rapzel.core.search.limits import Limits
from rapzel.core.shared import units
from rapzel.core.verdict.margins import MARGINS
from rapzel.finding.drawings.winners import draw_winners
from rapzel.finding.question import question_of, read_question
from rapzel.finding.words import Words
from rapzel.shoots.models import Scene
from rapzel.ui.drawing import Drawing
from rapzel.ui.margins import MarginView
from rapzel.workbench.answer import rehearsal_in_words


@dataclass(frozen=True)
class ColumnView:
    """One method as the page shows it."""

    column: Column
    recommended: bool
    imperial: bool

    @property
    def key(self) -> str:
        return self.column.method.key

    @property
    def title(self) -> str:
        title = self.column.method.title
        return title[0].upper() + title[1:]

    @property
    def verdict(self) -> str:
        """What is said of it in a word."""
        if self.recommended:
            return "recommended"
        if self.column.works:
            return "works"
        return "not within these limits"

    @property
    def hit(self) -> Hit | None:
        return self.column.shown

    @property
    def rehearsal_says(self) -> str:
        """Its picture in words."""
        if self.hit is None:
            return ""
        return rehearsal_in_words(
            self.hit.evaluation, self.column.method, self.imperial
        )

    @cached_property
    def words(self) -> Words:
        """What it needs and takes, of a method that has a set-up."""
        assert self.hit is not None, "asked of those that are shown"
        return Words(self.hit.needs, self.hit.cost, self.imperial)

    @cached_property
    def fingerprint(self) -> str:
        if self.hit is None:
            return ""
        return fingerprint_of(self.hit.document)

    @cached_property
    def margins(self) -> dict[str, MarginView]:
        """By name; none for what cannot be."""
        if self.hit is None:
            return {}
        # By name, because rows of the table go across methods.
        return {one.name: MarginView(one) for one in self.hit.evaluation.margins}

    @property
    def sentence(self) -> str:
        if self.hit is None:
            return ""
        return self.hit.evaluation.sentence


@dataclass(frozen=True)
class Row:
    """One fact of every method that has a set-up to show: its title and the cells."""

    title: str
    cells: list[str]


@dataclass(frozen=True)
class MarginRow:
    """One margin of every method, on one water line."""

    title: str
    cells: list[MarginView]


class MethodsPage:
    """Everything that the page shows of one question."""

    def __init__(self, text: str, imperial: bool) -> None:
        self.imperial = imperial
        # From its text, which is what is kept and compared: the same question, the same page.
        self.scene, kit, limits = read_question(text)
        self.comparison: Comparison = compare(self.scene, kit, limits)

    @cached_property
    def columns(self) -> list[ColumnView]:
        """Every method, the recommended first and what cannot be last."""
        best = self.comparison.recommended
        return [
            ColumnView(one, one.method.key == best, self.imperial)
            for one in self.comparison.columns
        ]

    @cached_property
    def shown(self) -> list[ColumnView]:
        """Those with a set-up to show."""
        return [one for one in self.columns if one.hit is not None]

    @cached_property
    def others(self) -> list[ColumnView]:
        """Those without, which say why."""
        return [one for one in self.columns if one.hit is None]

    @cached_property
    def margins(self) -> list[MarginRow]:
        return [
            # One row a margin, all columns on one scale: bars are compared across.
            MarginRow(kind.title, [column.margins[kind.name] for column in self.shown])
            for kind in MARGINS.values()
            if all(kind.name in column.margins for column in self.shown)
        ]

    @cached_property
    def rows(self) -> list[Row]:
        """What each set-up needs and takes."""
        return [
            Row(title, cells)
            for title, write in _ROWS.items()
            # A fact that no method has is no row.
            if any(cells := [write(column.words, column) for column in self.shown])
        ]

    @property
    def row_count(self) -> int:
        """Rows of the table's body: picture, margins, facts, choices."""
        return 2 + len(self.margins) + len(self.rows)

    @cached_property
    def chart(self) -> Drawing | None:
        """The winner over room light and speed; None for a subject that is still."""
        chart = self.comparison.chart
        if chart is None:
            return None
        return draw_winners(chart, self.here, self.imperial)

    @property
    def here(self) -> tuple[float, float]:
        """Room light [EV] and speed [m/s] of the scene."""
        return self.comparison.here

    @cached_property
    def turning(self) -> list[str]:
        return self.comparison.turning(self.imperial)

    @cached_property
    def cheap(self) -> list["CheapView"]:
        """What may be done instead, about the scene as it is."""
        return [CheapView(one) for one in cheap_answers(self.scene, self.imperial)]

    def document(self, key: str) -> Document | None:
        """The scene of a method's set-up; None where it has none."""
        # A method without a set-up has nothing that a scene could become.
        column = next((one for one in self.shown if one.key == key), None)
        if column is None or column.hit is None:
            return None
        return column.hit.document


@dataclass(frozen=True)
class CheapView:
    """A cheap answer as a link that makes the change."""

    answer: CheapAnswer

    @property
    def says(self) -> str:
        return self.answer.says

    @property
    def effect(self) -> str:
        """What it does, in stops of which margin."""
        return f"{MARGINS[self.answer.margin].title.lower()} {units.format_stops(self.answer.effect_stops)}"


_ROWS: dict[str, Callable[[Words, ColumnView], str]] = {
    "Lights": lambda words, column: words.rig,
    "Distance": lambda words, column: words.distance,
    "ISO": lambda words, column: words.iso,
    "Aperture": lambda words, column: words.aperture,
    "Shutter": lambda words, column: words.shutter,
    "ND": lambda words, column: words.filter,
    "Reach": lambda words, column: words.length(column.column.reach_m),
    "Rate": lambda words, column: words.rate,
    "Energy": lambda words, column: words.energy,
    "Light left": lambda words, column: words.stops(column.column.reserve_stops),
    "Binds": lambda words, column: column.column.binds,
}


# Few: each holds what its search went through, some megabytes. What pages show of it is kept as it was written.
@lru_cache(maxsize=2)
def _page(text: str, imperial: bool) -> MethodsPage:
    return MethodsPage(text, imperial)


def methods_page(
    document: Document, kit: Kit, limits: Limits, imperial: bool
) -> MethodsPage:
    """The page for a scene, kept for the next who asks the same."""
    return _page(question_of(document, kit, limits), imperial)


def keep_set_ups(scene: Scene, page: MethodsPage) -> None:
    """Keeps the columns' set-ups for their pictures, which any of the server's processes may be asked for."""
    shown = (
        (_place_of(scene, one.key, one.fingerprint), one.hit) for one in page.shown
    )
    # In one go: each place of the cache is a row of a table.
    caches["pictures"].set_many(
        {place: hit.document for place, hit in shown if hit is not None}
    )


def kept_set_up(scene: Scene, key: str, fingerprint: str) -> dict[str, Any] | None:
    """A set-up that a page of this scene has shown; None where it is not kept any more."""
    # It comes from an address, and becomes part of a key.
    if not fingerprint.isalnum():
        return None
    kept: dict[str, Any] | None = caches["pictures"].get(
        _place_of(scene, key, fingerprint)
    )
    return kept


def _place_of(scene: Scene, key: str, fingerprint: str) -> str:
    return f"set-up:{scene.pk}:{key}:{fingerprint}"
