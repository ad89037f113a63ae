"""What the timing page shows of a scene: both schools, lanes, fixes, the plan of its sensor, and what its takes say."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

from django.http import HttpRequest
from django.utils.safestring import SafeString

from rapzel.core.document.scene import Scene as SceneDocument
from rapzel.core.physics.hearing import lockout_s
from rapzel.core.shared import units
from rapzel.core.tools import beam, beam_words, flight
from rapzel.core.tools.beam_asked import BeamAnswered, BeamAsked
from rapzel.core.trigger.links import Beam, Finger, Sound
from rapzel.core.verdict.change import Change
from rapzel.core.verdict.timing_fixes import (
    SCHOOLS,
    ChainOutcome,
    Fix,
    fixes,
    school_values,
    schools,
)
from rapzel.practice import services as drills
from rapzel.practice.models import Drill
from rapzel.shoots.models import Scene
from rapzel.takes.learning import Learnt, learnt_of
from rapzel.timing.drawings import draw_lanes, draw_sound
from rapzel.tools.drawings.beam import draw_beam
from rapzel.tools.drawings.curves import draw_flight
from rapzel.ui.drawing import Drawing
from rapzel.ui.parts import written_once
from rapzel.workbench.answer import Answer, Proposal
from rapzel.workbench.pages import ScenePage, register

# Lags are typed to the tenth of a millisecond; a microsecond is rounding and no change.
_SAME_S = 1e-6
GROUPS = ("motion", "frame", "shutter", "trigger", "set")


@dataclass(frozen=True)
class School:
    """One of the two schools: which, what it comes to, and the link that makes the scene of it."""

    fires: str
    title: str
    outcome: ChainOutcome
    chosen: bool
    proposal: Proposal | None


class TimingPage:
    """The page's parts, each worked out when it is first asked for."""

    def __init__(self, scene: Scene, answer: Answer) -> None:
        self.scene, self.answer, self.physics = scene, answer, answer.physics
        self._document: SceneDocument = answer.physics.scene

    # What depends on the scene alone is written once for each of its states.

    def _part(self, template: str) -> SafeString:
        # Everything that changes what is written: units and width too, not the scene alone.
        state = (
            self.scene.pk,
            self.answer.fingerprint,
            self.answer.imperial,
            self.answer.narrow,
        )
        context = {"scene": self.scene, "answer": self.answer, "shown": self}
        return written_once(template, state, lambda: context)

    @property
    def answer_part(self) -> SafeString:
        return self._part("timing/_answer.html")

    @property
    def sensor_part(self) -> SafeString:
        return self._part("timing/_sensor.html")

    @property
    def fixes_part(self) -> SafeString:
        return self._part("timing/_fixes.html")

    @property
    def flies(self) -> bool:
        """Whether something falls or leaps, so that its arc says when it is where."""
        return self._document.motion.kind in ("fall", "leap")

    @cached_property
    def _flight(self) -> tuple[flight.FlightAsked, flight.FlightAnswered]:
        said = flight.from_scene(self._document, self.answer.evaluation)
        asked = flight.FlightAsked.model_validate(
            # The tool begins with a ball; a person who leaps has no diameter that drag could be
            # reckoned by.
            {**flight.FLIGHT.beginning, "diameter_m": None, **said}
        )
        return asked, flight.solve(asked)

    @property
    def flight_says(self) -> str:
        return flight.says(*self._flight)

    @property
    def flight_plan(self) -> Drawing:
        return draw_flight(*self._flight)

    @cached_property
    def headline(self) -> str:
        """How often it lands, in one sentence."""
        margin, share = (
            self.answer.evaluation.margin("timing"),
            self.physics.timing.share,
        )
        # A share without its doubt judged would stand there as a promise.
        if share is None or margin.state == "unknown":
            return f"Timing not known: {margin.says}."
        usual = f"{units.format_percent(share).capitalize()} of tries land"
        if margin.state == "unsure":
            return f"{usual} by the best guess; {margin.says}."
        return f"{usual}: {margin.says}."

    @cached_property
    def lanes(self) -> Drawing:
        return draw_lanes(self.physics)

    @cached_property
    def schools(self) -> list[School]:
        chosen = self._document.trigger.fires
        return [
            School(
                fires, SCHOOLS[fires], outcome, fires == chosen, self._proposal(fires)
            )
            for fires, outcome in schools(self.physics).items()
        ]

    def _proposal(self, fires: str) -> Proposal | None:
        values = school_values(self._document, fires)
        change = Change("timing", SCHOOLS[fires], tuple(values.items()))
        if values:
            return Proposal(change, self.answer.document)
        return None

    @cached_property
    def fixes(self) -> list[tuple[Fix, Proposal]]:
        """Every change of the chain that is possible, what lands most first."""
        every = fixes(self.physics, self.answer.imperial)
        return [(fix, Proposal(fix.change, self.answer.document)) for fix in every]

    def _link(self, kind: type) -> Any:
        return next(
            (link for link in self._document.trigger.links if isinstance(link, kind)),
            None,
        )

    @cached_property
    def drill(self) -> Drill | None:
        """The last drill of the person whose finger is in the chain, of the same way."""
        # The owner's drill and not the viewer's: it is the owner who presses.
        owner = self.scene.shoot.owner
        if self.finger:
            return drills.latest(owner, self.finger.way)
        return None

    @property
    def finger_is_drilled(self) -> bool:
        """Whether the chain's finger is what the last drill says."""
        finger, drill = self.finger, self.drill
        if (
            finger is None
            or drill is None
            or finger.lag_s is None
            # (a finger that was never measured cannot agree with a drill)
            or finger.jitter_s is None
        ):
            return False
        off = (
            finger.lag_s - drill.result.bias_s,
            finger.jitter_s - drill.result.spread_s,
        )
        return max(map(abs, off)) < _SAME_S

    @cached_property
    def sound(self) -> Sound | None:
        found: Sound | None = self._link(Sound)
        return found

    @cached_property
    def finger(self) -> Finger | None:
        found: Finger | None = self._link(Finger)
        return found

    @property
    def lockout_s(self) -> float | None:
        """How long the chain is deaf after it has fired [s]; None: not known."""
        return lockout_s(self._document)

    @cached_property
    def sound_plan(self) -> Drawing | None:
        if self.sound:
            return draw_sound(self.sound, f"trigger.links[#{self.sound.id}]")
        return None

    @cached_property
    def _beam_asked(self) -> BeamAsked | None:
        link: Beam | None = self._link(Beam)
        if link is None:
            return None
        given = {
            **beam.from_scene(self._document, self.answer.evaluation),
            # A quarter of what the tool draws: good to half a percent, and answered at once.
            "tries": 50_000,
        }
        return BeamAsked.model_validate(given)

    @cached_property
    def beam_answer(self) -> BeamAnswered | None:
        if self._beam_asked:
            return beam.solve(self._beam_asked)
        return None

    @cached_property
    def beam_plan(self) -> Drawing | None:
        if self._beam_asked is None or self.beam_answer is None:
            return None
        # By the link's identity: its number would name another one after a link is removed.
        at = f"trigger.links[#{self._link(Beam).id}]"
        keys = {
            "upstream": f"{at}.distance_m",
            "length": f"{at}.length_m",
            "turned": f"{at}.turned_deg",
            # Dragging the plane of focus is what focusing is in the scene.
            "focus": "lens.subject_distance_m",
        }
        return draw_beam(self._beam_asked, self.beam_answer, keys)

    @cached_property
    def beam_says(self) -> str:
        if self._beam_asked and self.beam_answer:
            return beam_words.says(self._beam_asked, self.beam_answer)
        return ""

    @cached_property
    def beam_steps(self) -> list[str]:
        if self._beam_asked is None or self.beam_answer is None:
            return []
        return [
            step
            for _, steps in beam_words.lists(self._beam_asked, self.beam_answer)
            for step in steps
        ]

    @property
    def expected(self) -> str:
        """How many tries and minutes the wanted keepers take, half of the time and nearly always."""
        if self.answer.expected is not None:
            return self.answer.expected.says
        if self.physics.timing.share is None:
            return (
                "State the moment: then it can be said how many tries a keeper takes."
            )
        # A share near nothing makes tries without end, and a number would look like a plan.
        return "By timing alone it hardly ever lands: change the chain first."

    @cached_property
    def learnt(self) -> Learnt:
        """What the log of the scene says of its timing."""
        return learnt_of(self.scene, self.answer)


def context_of(request: HttpRequest, scene: Scene, answer: Answer) -> dict[str, Any]:
    """What the page's templates need."""
    return {
        "scene": scene,
        "answer": answer,
        "shown": TimingPage(scene, answer),
        "only": GROUPS,
    }


register(ScenePage("timing", "timing/_changed.html", context_of, GROUPS))
