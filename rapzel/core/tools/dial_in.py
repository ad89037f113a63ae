"""One knob, dialled in: what to set next after what the tries so far showed (science §14)."""

import math
from collections.abc import Callable
from typing import Any, Literal

from pydantic import Field, field_validator

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.scene import Scene
from rapzel.core.shared.part import Lag, Name, Part, shown
from rapzel.core.shared.units import format_set_time, format_time
from rapzel.core.tools.tool import Lists, Tool, ToolAnswer
from rapzel.core.trigger.dial import (
    RUNS_OFF,
    Dialled,
    DialOutcome,
    Knob,
    Try,
    dialled,
    dialled_path,
)
from rapzel.core.trigger.noticed import (
    called_on_over_s,
    keeps_moving,
    runs_off,
    turned_the_wrong_way,
)

_FARTHEST = 3600.0  # in either direction, of any knob
Show = Callable[[float], str]


class TrySaid(Part):
    """One try: the value that was set, how it came out, and by how much it was late, early negative, where told."""

    value: float = Field(ge=-_FARTHEST, le=_FARTHEST)
    outcome: Literal["early", "late", "on"]
    offset_s: float | None = Field(None, ge=-60, le=60)


class DialInAsked(Part):
    """A knob and its tries, oldest first."""

    knob: Name = shown("Flash delay", "Knob", "text")
    history: tuple[TrySaid, ...] = shown(
        (),
        "Tries, oldest first",
        "rows",
        "198 ms; early; 5 ms",
        max_length=100,
        strict=False,
    )
    starts: float | None = shown(
        None,
        "Begin at",
        "delay",
        "before the first try; empty: as it is set",
        ge=-_FARTHEST,
        le=_FARTHEST,
    )
    resolution_s: Lag = shown(0.0001, "Set in steps of", "duration")
    jitter_s: Lag | None = shown(
        None, "A try jitters by", "duration", "sd; empty: not known"
    )
    on_s: float | None = shown(
        None,
        "Looks right within",
        "duration",
        "half width; empty: as it jitters",
        gt=0,
        le=60,
    )
    lowest: float | None = shown(0.0, "Not below", "delay", ge=-_FARTHEST, le=_FARTHEST)
    highest: float | None = shown(
        None, "Not above", "delay", ge=-_FARTHEST, le=_FARTHEST
    )
    judged: Literal["picture", "eye"] = shown(
        "picture",
        "Judged by",
        "choice",
        choices={"picture": "a picture", "eye": "watching and listening"},
    )
    s_per_unit: float = shown(
        1.0,
        "Makes it later by",
        "number",
        "seconds for a step of 1 up; −1: turned up it comes sooner",
        ge=-1e3,
        le=1e3,
    )

    @field_validator("s_per_unit")
    @classmethod
    def _moves_the_light(cls, value: float) -> float:
        # Less than a microsecond for a step of 1: such a knob moves no light.
        if abs(value) < 1e-6:
            raise ValueError(
                "a knob that moves no light cannot be dialled in; 1 is a delay, −1 a lead"
            )
        return value

    def to_core(self) -> Knob:
        """The knob in the kernel's words."""
        return Knob(
            self.resolution_s,
            self.jitter_s,
            self.s_per_unit,
            self.on_s,
            self.lowest,
            self.highest,
            self.judged == "eye",
        )

    def tries(self) -> list[Try]:
        """The tries in the kernel's words. An offset is early where its try is: nobody writes the sign twice."""
        return [Try(each.value, each.outcome, _signed(each)) for each in self.history]


def _signed(said: TrySaid) -> float | None:
    if said.offset_s is None or said.outcome == "on":
        return said.offset_s
    # “5 ms early” is typed as 5: the outcome has said the direction.
    return math.copysign(said.offset_s, -1.0 if said.outcome == "early" else 1.0)


class DialInAnswered(ToolAnswer):
    """What to set next, in the knob's own unit; None before the first try, and where the knob is at its end."""

    next_value: float | None
    converged: bool
    bracket: tuple[float | None, float | None] = Field(
        description="where the right value lies, 98 % sure; null: still open"
    )
    doubt: float | None = Field(description="standard deviation of the right value")
    counted_from: int = Field(
        description="the first try that counts, from 1: earlier ones were contradicted"
    )
    says: str


def words(name: str, knob: Knob, tries: list[Try], found: Dialled, show: Show) -> str:
    """What to do next, in a sentence or two. `show` dresses a value of the knob."""
    text = _next_words(name, knob, tries, found, show)
    # Without the jitter it cannot know whether two tries differ by the knob or by chance.
    if knob.jitter_s is None and tries:
        text += " How much tries differ is not known: it stops by the steps alone, and may chase noise."
    text += "".join(f" {line}" for line in _noticed(knob, tries, show))
    # Left out aloud: a try that vanishes would make people doubt the rest.
    if found.from_try:
        text += (
            f" The first {found.from_try} {'try contradicts' if found.from_try == 1 else 'tries contradict'} "
            "what came later: something else moved, they are left out."
        )
    return text


def _noticed(knob: Knob, tries: list[Try], show: Show) -> list[str]:
    """What no further step would mend: the knob's sign, a rig that keeps moving, a person who calls more on."""
    said = []
    if turned_the_wrong_way(knob, tries):
        said.append(
            "Set later, the light came sooner: the knob works the other way round. Turn its sign, and go on."
        )
    elif runs_off(tries):
        last = tries[-1].outcome
        said.append(
            f"Too {last} {RUNS_OFF} times in a row: does turning it up make the light come later? "
            "This step goes to the other side to see."
        )
    over_s = called_on_over_s(knob, tries)
    if over_s is not None and knob.on_s is not None:
        said.append(
            f"On was called over {format_time(over_s)}, where {format_time(2 * knob.on_s)} were said to look right: "
            "say how wide it really is, or read the offset off the picture."
        )
    if keeps_moving(knob, tries):
        said.append(
            "The right value moves away from one try to the next: something drifts. Find it first: a mount that "
            "slips, a battery, the temperature, the person."
        )
    return said


def _next_words(
    name: str, knob: Knob, tries: list[Try], found: Dialled, show: Show
) -> str:
    if not tries:
        return "Nothing tried yet: try it as it is set, and say how it came out."
    low, high = found.bracket
    # The knob, and not the person, is at its end: the way on is another knob.
    if found.at_end:
        if tries[-1].outcome == "early":
            way = "later"
        else:
            way = "sooner"
        return f"{name} is at its end, and the light has to come {way} still: change something else first."
    assert found.next_value is not None
    # While one side is open steps double; once both are known they halve.
    if low is None or high is None:
        return f"Too {tries[-1].outcome} each time so far: {show(found.next_value)} next, twice as far."
    between = f"between {show(knob.settable(low))} and {show(knob.settable(high))}"
    if found.converged:
        return f"Dialled in: {show(found.next_value)}, {between}. {_why_enough(knob, found)}"
    return f"{show(found.next_value)} next; it lies {between}."


def _why_enough(knob: Knob, found: Dialled) -> str:
    """Why it is left at that: further tries would tell no more, or it looks right over more than is left open."""
    blur, doubt_s = (
        format_time(knob.fine_s),
        (found.doubt or 0.0) * abs(knob.s_per_unit),
    )
    # Still open by more than a step, but it looks right over more than that.
    if doubt_s > knob.fine_s and knob.on_s is not None:
        return f"It has been on, and looks right within {format_time(knob.on_s)} of its instant."
    if knob.by_eye:
        return f"An eye tells no finer than {blur}: go on with pictures."
    # Tries differ by more than a step, so that finer steps could not be seen.
    if (knob.jitter_s or 0.0) >= knob.resolution_s:
        return f"More tries tell no more: each differs by {blur} anyway."
    return f"More tries tell no more: a step is {blur}."


def solve(asked: DialInAsked) -> DialInAnswered:
    """The next value, and whether it is there."""
    knob, tries = asked.to_core(), asked.tries()
    found = dialled(knob, tries)
    said = words(asked.knob or "The knob", knob, tries, found, format_set_time)
    following = found.next_value
    if not tries and asked.starts is not None:
        # Where a scene stands is where its first try is made.
        following = knob.settable(asked.starts)
        said = f"Begin at {format_set_time(following)}, and say how it came out."
    return DialInAnswered(
        next_value=following,
        converged=found.converged,
        bracket=found.bracket,
        doubt=found.doubt,
        counted_from=found.from_try + 1,
        says=said,
    )


def lists(asked: DialInAsked, answer: DialInAnswered) -> Lists:
    """How to go about it."""
    steps = [
        "One knob at a time: leave everything else as it is until this one is in.",
        "How far off it was, read off the picture, spares tries: 5 ms, or its way by the speed.",
    ]
    if asked.jitter_s is None:
        steps.append(
            "How much a try jitters is not known: it stops by the steps alone, and may chase noise."
        )
    return [("How", steps)]


def from_scene(scene: Scene, evaluation: Evaluation) -> dict[str, Any]:
    """The delay of a scene, its unit's steps and its chain's jitter."""
    return {
        "knob": "Flash delay",
        # Its own tries, of which there is none yet, and not those of the example.
        "history": [],
        "starts": scene.trigger.set_delay_s,
        # A unit that does not say its step is taken to set tenths of a millisecond.
        "resolution_s": scene.trigger.resolution_s or 0.0001,
        "jitter_s": evaluation.timing.jitter_s,
        "on_s": None if scene.moment.lasts_s is None else scene.moment.lasts_s / 2,
    }


def table(asked: DialInAsked) -> tuple[list[str], list[list[float]]]:
    """Each try with the bracket after it [s]; an open end is as far as any knob goes."""
    rows = []
    # After each try as it was known then, not as it looks from the end.
    steps = dialled_path(asked.to_core(), asked.tries())
    for number, (said, found) in enumerate(
        zip(asked.history, steps, strict=True), start=1
    ):
        if found.bracket[0] is None:
            low = -_FARTHEST
        else:
            low = found.bracket[0]
        if found.bracket[1] is None:
            high = _FARTHEST
        else:
            high = found.bracket[1]
        late = {"early": -1.0, "on": 0.0, "late": 1.0}[said.outcome]
        rows.append([float(number), said.value, late, low, high])
    return ["try", "value", "late", "low", "high"], rows


DIAL_IN = Tool(
    slug="dial-in",
    title="Dial a knob in",
    purpose="Early, late or on: what to set next, and when to stop turning.",
    asks=DialInAsked,
    answers=DialInAnswered,
    beginning={
        "knob": "Flash delay",
        "jitter_s": 0.0006,
        "history": [
            {"value": 0.198, "outcome": "early"},
            {"value": 0.206, "outcome": "late"},
            {"value": 0.202, "outcome": "early", "offset_s": -0.002},
        ],
    },
    solve=solve,
    says=lambda asked, answer: answer.says,
    from_scene=from_scene,
    table=table,
    lists=lists,
)

__all__ = [
    "DIAL_IN",
    "DialInAnswered",
    "DialInAsked",
    "DialOutcome",
    "TrySaid",
    "words",
]
