"""A dial-in as it stands: its knob, its tries, what to set next, and what else was moved since it began."""

from dataclasses import dataclass, replace
from functools import cached_property

from rapzel.core.document import places
from rapzel.core.document.evidence import OF_NO_TRY
from rapzel.core.document.places import Document
from rapzel.core.shared.errors import CoreError
from rapzel.core.shared.units import format_time
from rapzel.core.tools.dial_in import words
from rapzel.core.trigger.dial import Dialled, Try, dialled
from rapzel.core.verdict.knobs import SceneKnob, knobs_of
from rapzel.dialling.models import DialIn, DialStep
from rapzel.dialling.moved import Moved, moved_between
from rapzel.shoots.documents import stored_form
from rapzel.shoots.models import Scene
from rapzel.takes.models import TakePicture
from rapzel.tools.drawings.dial import draw_path
from rapzel.ui.drawing import Drawing
from rapzel.workbench.answer import Answer, answered

_ASKED = 60  # tries at most that the next value is worked out from
# The two knobs that are spoken of by name; every other one is as the core lists it.
SECOND, DELAY = "drops.second_set_s", "trigger.set_delay_s"


class NotNow(CoreError):
    """What was asked for cannot be done as things stand; str() says why and what can."""


@dataclass(frozen=True)
class Dialling:
    """A dial-in as it stands: its knob, its tries, and what to set next."""

    dial_in: DialIn
    scene: Scene
    answer: Answer

    @cached_property
    def knob(self) -> SceneKnob | None:
        """The knob as it began, at the value that it has now; None where it is no longer there.

        How much tries differ goes by the plan of then: it would change a little with the knob itself.
        """
        value = places.get(self.scene.document, self.dial_in.path)
        every = knobs_of(answered(self.dial_in.document).physics, self.dial_in.by_eye)
        found = next((each for each in every if each.path == self.dial_in.path), None)
        # The link may have gone, or another document was restored.
        if found is None or value is None:
            return None
        return replace(found, value=float(value))

    @cached_property
    def steps(self) -> list[DialStep]:
        """Its tries, oldest first, without those whose take was removed."""
        # A take that was removed by hand counts no more, or undoing would teach.
        living = self.dial_in.steps.filter(take__deleted_at__isnull=True)
        return list(living.select_related("take"))

    @property
    def path(self) -> list[tuple[DialStep, str, bool]]:
        """Each try with its value dressed, and whether it has a picture."""
        takes = [step.take_id for step in self.steps]
        # One query for all of them.
        pictured = set(
            TakePicture.objects.filter(take__in=takes).values_list("take", flat=True)
        )
        return [
            (step, self.show(step.value) if self.knob else "", step.take_id in pictured)
            for step in self.steps
        ]

    @cached_property
    def tries(self) -> list[Try]:
        return [step.tried for step in self.steps[-_ASKED:]]

    @cached_property
    def found(self) -> Dialled | None:
        if self.knob is None:
            return None
        return dialled(self.knob.knob, self.tries)

    @property
    def says(self) -> str:
        """What to do next, in words."""
        if self.knob is None or self.found is None:
            return f"{self.dial_in.name} is no longer in this scene: leave this, and choose another knob."
        knob = self.knob
        return words(knob.name, knob.knob, self.tries, self.found, self.show)

    def show(self, value: float) -> str:
        """A value of the knob in the person's units."""
        assert self.knob is not None
        return self.knob.show(value, self.answer.imperial)

    @property
    def against_plan(self) -> str:
        """Once a delay is in: by how much the set differs from the plan."""
        needed = self.answer.physics.timing.needed_delay_s
        if (
            not self.found
            or not self.found.converged
            or self.dial_in.path != DELAY
            or needed is None
        ):
            return ""
        # What tries found against what was reckoned: the difference is what the plan does not know.
        off = (self.found.next_value or 0.0) - needed
        # Two deviations: nearer than that, plan and set do not disagree.
        if abs(off) <= 2 * (self.found.doubt or 0.0):
            return "That is what the plan says, as far as tries can tell."
        if off > 0:
            more = "later"
        else:
            more = "sooner"
        assert self.knob is not None
        planned = self.show(self.knob.knob.settable(max(needed, 0.0)))
        return f"The plan says {planned}: on this set it happens {format_time(abs(off))} {more}."

    @property
    def value_text(self) -> str:
        """The knob as it is set now."""
        if self.knob is None:
            return ""
        return self.show(self.knob.value)

    @property
    def tried_text(self) -> str:
        """The knob's value as the page sends it back with how the try came out."""
        if self.knob is None:
            return ""
        return repr(self.knob.value)

    @property
    def path_drawing(self) -> Drawing | None:
        if self.knob and self.tries:
            return draw_path(self.knob.knob, self.tries, self.show)
        return None

    @cached_property
    def moved(self) -> list[Moved]:
        """What else has been changed since it began."""
        # complete: a part that an older plan lacked is no change
        # Both in the form in which they are stored, so that only what was edited differs.
        now = stored_form(self.scene.document)
        before = stored_form(as_begun(self.dial_in, now))
        return moved_between(before, now, self.answer.imperial)


def open_of(scene: Scene) -> DialIn | None:
    """The dial-in that is under way, also since yesterday."""
    return scene.dial_ins.filter(ended_at__isnull=True).first()


def as_begun(dial_in: DialIn, now: Document) -> Document:
    """The plan as it was when the dial-in began, with the knob, and whatever is harmless, as it is now."""
    before = places.copied(dial_in.document)
    # What moves no light and changes no picture may be edited while one dials.
    same = {
        path: places.get(now, path)
        for path in (*OF_NO_TRY, dial_in.path)
        if _there(now, path)
    }
    return places.changed(
        before, {path: value for path, value in same.items() if _there(before, path)}
    )


def _there(document: Document, path: str) -> bool:
    """Whether a path leads somewhere: not into a part that is null, or a link that is gone."""
    nothing = object()
    return places.get(document, path, nothing) is not nothing
