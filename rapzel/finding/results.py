"""What a search found, as its page shows it: rows with margins and cost, the front, what comes nearest."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

from django.urls import reverse
from django.utils.safestring import SafeString

from rapzel.core.document.evaluation import Margin
from rapzel.core.document.places import Document
from rapzel.core.methods import METHODS
from rapzel.core.shared import units
from rapzel.core.verdict.margin import listed
from rapzel.finding.drawings.front import FrontPoint, draw_front
from rapzel.finding.models import Finding
from rapzel.finding.searching import SHOWN_FIRST
from rapzel.finding.words import Words
from rapzel.ui.drawing import Drawing
from rapzel.ui.margins import MarginView
from rapzel.ui.parts import written_once

# As their addresses name them; nothing else of a result can be asked for.
KINDS = ("hits", "front", "misses")


@dataclass(frozen=True)
class SetUp:
    """One set-up: where it stands in what was found, and its facts."""

    finding: Finding
    kind: str
    place: int
    imperial: bool

    @property
    def _stored(self) -> dict[str, Any]:
        return (self.finding.result or {})[self.kind][self.place]

    @cached_property
    def words(self) -> Words:
        return Words(self._stored["needs"], self._stored["cost"], self.imperial)

    @cached_property
    def margins(self) -> list[MarginView]:
        return [
            MarginView(Margin.model_validate(one)) for one in self._stored["margins"]
        ]

    @property
    def document(self) -> Document:
        return dict(self._stored["document"])

    @property
    def method(self) -> str:
        return METHODS[self._stored["method"]].title

    @property
    def fails(self) -> str:
        """What fails and by how much, of one that is near."""
        return str(self._stored.get("says", ""))

    @property
    def name(self) -> str:
        """What it is called as a snapshot."""
        rig = self.words.rig or self.method
        return f"{rig}, {self.words.dials}"[:120]

    @property
    def url(self) -> str:
        own = [self.finding.scene_id, self.finding.pk, self.kind, self.place]
        return reverse("finding:set_up", args=own)


@dataclass(frozen=True)
class Relaxed:
    """A limit that, widened, lets something fit."""

    place: int
    says: str


class FoundView:
    """Everything that the page shows of a search that is done."""

    def __init__(self, finding: Finding, imperial: bool, whole: bool = True) -> None:
        """whole: every hit, not the first few."""
        self.finding, self.imperial, self.whole = finding, imperial, whole
        self.result: dict[str, Any] = finding.result or {}

    def _all(self, kind: str) -> list[SetUp]:
        # Views of what is stored: nothing of it is judged or read before it is shown.
        count = len(self.result[kind])
        return [
            SetUp(self.finding, kind, place, self.imperial) for place in range(count)
        ]

    @cached_property
    def hits(self) -> list[SetUp]:
        return self._all("hits")

    @cached_property
    def misses(self) -> list[SetUp]:
        return self._all("misses")

    @property
    def more(self) -> bool:
        """Whether there are more hits than are shown."""
        return not self.whole and len(self.hits) > SHOWN_FIRST

    @property
    def hits_part(self) -> SafeString:
        """The table of hits, as it is kept."""
        return self._table(self.hits[:SHOWN_FIRST] if self.more else self.hits)

    @property
    def misses_part(self) -> SafeString:
        """The table of misses, as it is kept."""
        return self._table(self.misses, near=True)

    def _table(self, rows: list[SetUp], near: bool = False) -> SafeString:
        # A table is written once for each state of its search; a long one costs more than the page.
        state = (self.finding.pk, self.finding.heard_at, len(rows), near, self.imperial)
        context = {"scene": self.finding.scene, "rows": rows, "near": near}
        return written_once("finding/_rows.html", state, lambda: context)

    @cached_property
    def relaxations(self) -> list[Relaxed]:
        return [
            Relaxed(place, one["says"])
            for place, one in enumerate(self.result["relaxations"])
        ]

    @cached_property
    def front(self) -> Drawing | None:
        """The drawing of the front; nothing where it is empty."""
        points = [
            self._point(set_up, one["lasts_s"])
            for set_up, one in zip(
                self._all("front"), self.result["front"], strict=True
            )
        ]
        if points:
            return draw_front(points)
        return None

    def _point(self, set_up: SetUp, lasts_s: float) -> FrontPoint:
        needs = set_up.words.needs
        # By room light alone there is no rig, so the method's name stands for it.
        says = f"{set_up.words.rig or set_up.method}, {set_up.words.dials}"
        return FrontPoint(needs["iso"], lasts_s, needs["lights"], says, set_up.url)

    @property
    def sentence(self) -> str:
        """What came of it, in one sentence."""
        tried = _about(self.result["combinations"])
        # “None works” would be untrue while mixtures were not searched.
        if not self.hits and self.left_out:
            return "No set-up with one kind of light works within these limits."
        if not self.hits:
            return f"None of {tried} combinations works within these limits."
        words = self.hits[0].words
        first = f"{words.rig or self.hits[0].method}, {words.dials}"
        if len(self.hits) == 1:
            return f"One set-up works: {first}."
        if self.more:
            shown = SHOWN_FIRST
        else:
            shown = len(self.hits)
        return f"The best {shown} set-ups are listed. First: {first}."

    @property
    def left_out(self) -> str:
        """What was not searched because it takes long, how long, and what would make it short."""
        left = self.result.get("left_out")
        if not left:
            return ""
        # What would make it short is said in the words of the limits themselves.
        narrower = [f"at most {_count(left['strobes'], 'strobe')}"]
        if left["lights"] > 1:
            narrower.append(f"at most {_count(left['lights'], 'light')}")
        return (
            "Only one kind of light at a time was searched: two kinds together would take "
            f"{_long(left['takes_s'])}. Choose {' or '.join(narrower)} to search them in a minute."
        )

    @property
    def can_be_patient(self) -> bool:
        """Whether what was left out may be searched all the same."""
        # Nothing left out: there is nothing to be patient for.
        left = self.result.get("left_out") or {"takes_s": float("inf")}
        return bool(left["takes_s"] <= _LONGEST_S)

    @property
    def untried(self) -> bool:
        """Whether limits were left that might do if they were widened."""
        return bool(self.result.get("untried"))

    @property
    def not_possible(self) -> list[str]:
        """Methods that were not searched, and why."""
        reasons = self.result["not_possible"].items()
        return [f"{METHODS[key].title} ({reason})" for key, reason in reasons]

    @property
    def unknown_recycles(self) -> str:
        """Strobes that were passed over because nobody knows whether they keep up."""
        names = self.result.get("unknown_recycles")
        if not names:
            return ""
        return (
            f"Whether {listed(names)} keeps up is not known: time the recycle at full power and at the lowest, "
            "and search again."
        )


_LONGEST_S = 1800.0  # of a search that is begun when somebody asks for it


def _count(count: int, what: str) -> str:
    return f"{count} {what}{'' if count == 1 else 's'}"


def _long(seconds: float) -> str:
    """A time that one waits, as one says it."""
    # Beyond two days a figure is no help.
    if seconds > 48 * 3600:
        return "days"
    if seconds > 5400:
        return f"about {_count(round(seconds / 3600), 'hour')}"
    return f"about {_count(max(round(seconds / 60), 1), 'minute')}"


_WORDS = ((1e12, "trillion"), (1e9, "billion"), (1e6, "million"))


def _about(count: int) -> str:
    """A count as one says it: exact while it is small, then with two digits."""
    # Thirteen digits say no more than “12 trillion”.
    for size, word in _WORDS:
        if count >= size:
            return f"{units.format_number(count / size, 2)} {word}"
    return f"{count:,}".replace(",", "\u202f")
