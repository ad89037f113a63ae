"""What the scene page shows, made from the core's numbers. Templates only print it."""

import json
from dataclasses import dataclass
from functools import cached_property

from rapzel.core.advice import Change, advise, advise_pairs
from rapzel.core.document import places
from rapzel.core.document.evaluation import Evaluation, LightResult
from rapzel.core.document.gear import Light
from rapzel.core.document.places import Document, called
from rapzel.core.document.present import Present, fingerprint_of, present
from rapzel.core.evaluate import evaluate_physics
from rapzel.core.methods import Method
from rapzel.core.physics import Physics
from rapzel.core.physics.ratios import equal_powers
from rapzel.core.rehearsal.render import close_up_box
from rapzel.core.rehearsal.speeds import AtSpeed, at_speeds
from rapzel.core.shared import units
from rapzel.core.verdict import on_the_set
from rapzel.core.verdict.cautions import Caution, cautions_for
from rapzel.core.verdict.margins import MARGINS
from rapzel.core.verdict.on_the_set import Expected
from rapzel.core.verdict.sheet_lines import sheet_lines
from rapzel.shoots.documents import judged
from rapzel.ui.drawing import Drawing
from rapzel.ui.margins import MarginView
from rapzel.ui.recent import Recent
from rapzel.workbench.drawings import TIMES, VIEWS, draw_ribbon
from rapzel.workbench.fields import Group
from rapzel.workbench.groups import groups_of

REHEARSAL = (960, 640)  # the picture [px]
CLOSE_UP = (190, 116)  # of each speed beside it, in pixels of the sensor


@dataclass(frozen=True)
class Proposal:
    """A change that closes a margin, as a link that applies it."""

    change: Change
    document: Document

    @property
    def says(self) -> str:
        return self.change.says

    @property
    def values_json(self) -> str:
        """The values to set, as a JSON text within the JSON of the request; items are called by their identity."""
        values = {
            called(self.document, path): value for path, value in self.change.values
        }
        # Twice, because htmx takes its values as JSON, and this one is a text in it.
        return json.dumps(json.dumps(values))


# a shoot's page of scenes and more; a quarter of a megabyte each
_ANSWERS: Recent["Answer"] = Recent(30)


def answered(
    document: Document, imperial: bool = False, narrow: bool = False
) -> "Answer":
    """The answer to a document, kept for the next who asks for the same. Raises DocumentError as `Answer` does."""
    # All that an answer depends on: documents with one fingerprint are one document.
    key = (fingerprint_of(document), imperial, narrow)
    return _ANSWERS.get(key, lambda: Answer(_own(document), imperial, narrow))


def _own(document: Document) -> Present:
    """A copy for an answer that is kept, which nobody else changes."""
    # Kept while others edit the row's document; the copy stays what was answered.
    return Present(places.copied(present(document)))


class Answer:
    """A scene document answered: sentence, margins, proposals and drawings, each worked out when first asked for."""

    def __init__(
        self, document: Document, imperial: bool = False, narrow: bool = False
    ) -> None:
        self.document, self.imperial, self.narrow = present(document), imperial, narrow
        self.physics = Physics(judged(self.document))
        self._views: dict[str, Drawing] = {}

    @cached_property
    def evaluation(self) -> Evaluation:
        return evaluate_physics(self.physics)

    @cached_property
    def margins(self) -> list[MarginView]:
        return [MarginView(margin) for margin in self.evaluation.margins]

    @cached_property
    def _singles(self) -> list[Change]:
        return advise(self.physics.scene, self.evaluation, self.imperial)

    def _titled(self, changes: list[Change]) -> list[tuple[str, list[Proposal]]]:
        by_margin: dict[str, list[Proposal]] = {}
        for change in changes:
            by_margin.setdefault(self._title(change.margin), []).append(
                Proposal(change, self.document)
            )
        return list(by_margin.items())

    def _title(self, margin: str) -> str:
        over = margin == "light" and (self.evaluation.margin("light").value or 0.0) > 0
        if over:
            return "the light to spare"
        return MARGINS[margin].title.lower()

    @cached_property
    def proposals(self) -> list[tuple[str, list[Proposal]]]:
        """Single changes by the title of the margin that they close."""
        return self._titled(self._singles)

    @cached_property
    def left_open(self) -> list[str]:
        """Titles of the failing margins that no single change closes."""
        # What a single change closes needs no pair.
        closed = {change.margin for change in self._singles}
        failing = [
            margin.name for margin in self.evaluation.margins if margin.state == "fails"
        ]
        return [self._title(name) for name in failing if name not in closed]

    @cached_property
    def pairs(self) -> list[tuple[str, list[Proposal]]]:
        """Two changes together for what no single one closes, by title."""
        return self._titled(
            advise_pairs(
                self.physics.scene, self.evaluation, self._singles, self.imperial
            )
        )

    @property
    def short_of(self) -> Light | None:
        """The light that gives most, where there is not enough light; None where there is, and without one."""
        light = self.evaluation.margin("light")
        lit = self.physics.on_part
        short = light.state == "fails" or light.probably_fails
        if not short or (light.value or 0.0) > 0 or not lit:
            return None
        # One more like the strongest makes the largest difference.
        return max(lit, key=lambda one: one.n_squared).light

    @property
    def short_enough(self) -> str:
        """The t.1 that would freeze, for the comparison of strobes; empty where the light is short enough already."""
        freeze, limit_s = self.evaluation.margin("freeze"), self.physics.limit_s
        stopped_by_pulse = self.physics.method.room_apart and self.physics.on_part
        if freeze.state == "passes" or not stopped_by_pulse:
            return ""
        return units.format_time(limit_s)

    @property
    def powers_differ(self) -> bool:
        """Whether lights of the key's kind stand at other powers than the key."""
        return bool(equal_powers(self.physics.scene))

    @property
    def nothing_to_close(self) -> str:
        """What stands in the place of proposals where nothing fails."""
        states = {margin.state for margin in self.evaluation.margins}
        if states == {"passes"}:
            return "Nothing to close: every margin holds."
        if "unknown" in states:
            return "Nothing fails. What is not known is said in its margin, with what would make it known."
        return "Nothing fails by the best guess; measured figures would make it sure."

    @cached_property
    def ribbon(self) -> Drawing:
        return draw_ribbon(self.physics, self.narrow)

    def view(self, name: str) -> Drawing:
        """One of the views, drawn once; an unknown name gives the first."""
        if name not in VIEWS or name == TIMES:
            return self.ribbon
        if name not in self._views:
            self._views[name] = VIEWS[name](self.physics)
        return self._views[name]

    @cached_property
    def groups(self) -> list[Group]:
        return groups_of(self.document, self.imperial)

    @cached_property
    def cautions(self) -> list[Caution]:
        return cautions_for(self.physics.scene)

    @cached_property
    def light_pairs(self) -> list[tuple[Light, LightResult]]:
        """Each light of the plan beside what it gives."""
        return list(zip(self.physics.scene.lights, self.evaluation.lights, strict=True))

    @cached_property
    def fingerprint(self) -> str:
        """Changes with everything that a figure of the scene depends on."""
        return fingerprint_of(self.document)

    @cached_property
    def expected(self) -> Expected | None:
        """Tries, minutes and what is used up for the wanted keepers; None while that is not known."""
        return on_the_set.expected(self.physics)

    @cached_property
    def batteries(self) -> list[tuple[str, str]]:
        """What the tries take of each light's charge."""
        if self.expected:
            return on_the_set.batteries(self.physics.scene, self.expected.most)
        return []

    @cached_property
    def positions(self) -> list[tuple[str, str]]:
        """Where each thing of the chain stands."""
        return on_the_set.positions(self.physics, self.imperial)

    @cached_property
    def sheet_lines(self) -> list[tuple[str, str]]:
        """What the sheet says of curtain, colour, filters, sun, flicker and a camera that follows."""
        return sheet_lines(self.physics, self.imperial)

    @cached_property
    def dry_run(self) -> list[str]:
        """What to try of the chain before the first take."""
        return on_the_set.dry_run(self.physics.scene)

    @cached_property
    def speeds(self) -> list[AtSpeed]:
        """The subject a third slower, as planned and a third faster."""
        return at_speeds(self.physics)

    @property
    def close_up(self) -> tuple[float, float, float, float]:
        """Where the close-up as planned lies in the rehearsal: left, top, width, height, in its pixels."""
        return close_up_box(self.physics, CLOSE_UP, REHEARSAL)

    @cached_property
    def rehearsal_says(self) -> str:
        """The picture in words."""
        return rehearsal_in_words(self.evaluation, self.physics.method, self.imperial)


def rehearsal_in_words(
    evaluation: Evaluation, method: Method, imperial: bool = False
) -> str:
    """The rehearsal of a scene in words: field, smear, diffraction, the room's trail, a dark band."""
    width = units.format_length(evaluation.framing.field_width_m, imperial)
    smear = "no light"
    # No light is no smear of nothing: it is told as what it is.
    if evaluation.smear_px is not None:
        smear = f"smear {units.format_number(evaluation.smear_px, 2)} px"
    trail = band = ""
    seen = [
        one
        for one in evaluation.trails
        if one.of == "room" and (one.visible or one.faint)
    ]
    # Alone, the room is the picture, and no trail beside it.
    if seen and method.room_apart and evaluation.flash_offset_stops is not None:
        length = units.format_number(seen[0].px, 2)
        trail = f", room trail {length} px at {units.format_stops(seen[0].stops)} stops"
    if evaluation.shutter.dark_share:
        band = f", dark band over {units.format_percent(evaluation.shutter.dark_share)}"
    diffraction = units.format_number(evaluation.diffraction_px, 2)
    return f"Field {width} wide, {smear}, diffraction {diffraction} px{trail}{band}."
