"""The way through a scene: its pages in the order of the job, how each stands, and the scenes before and after it."""

from dataclasses import dataclass

from django.urls import reverse

from rapzel.core.document.evaluation import Margin
from rapzel.core.shared.errors import DocumentError
from rapzel.shoots.models import Scene
from rapzel.ui.ways import Next
from rapzel.workbench.answer import Answer, answered


@dataclass(frozen=True)
class Step:
    """A page of the strip. answers: the question that it answers; leads: what one goes there for."""

    key: str
    title: str
    view: str
    shortcut: str
    answers: str
    leads: str


STEPS = (
    Step(
        "plan", "Plan", "workbench:scene", "w",
        "Will you get the picture, and how often?",
        "go on with the plan",
    ),
    Step(
        "methods", "Methods", "finding:methods", "m",
        "Which way of stopping the motion leaves the most to spare?",
        "compare the ways of stopping the motion",
    ),
    Step(
        "find", "Find", "finding:find", "f",
        "Which settings of your own kit would give this picture?",
        "find settings that your kit can do",
    ),
    Step(
        "timing", "Timing", "timing:page", "i",
        "When does the light come, and how often does a try catch the moment?",
        "see when the light comes",
    ),
    Step(
        "dial", "Dial in", "dialling:page", "a",
        "Which value of one setting is right on this set? Try, and say early or late.",
        "dial it in on the set",
    ),
    Step(
        "sheet", "Run sheet", "workbench:sheet", "r",
        "What does everybody on the set need to know?",
        "take the run sheet to the set",
    ),
    Step(
        "takes", "Takes", "takes:list", "t",
        "What came out of each try, and what does that say about the plan?",
        "log the tries",
    ),
    Step(
        "compare", "Compare", "workbench:compare", "c",
        "Which version of this scene is the better one?",
        "compare it with other versions of this scene",
    ),
)  # fmt: skip
_BY_VIEW = {step.view: step for step in STEPS}
# Pages that are opened from one of the strip, and belong to it.
_OPENED_FROM = {
    "workbench:cutout": "workbench:scene",
    "tools:scene_index": "workbench:scene",
    "tools:for_scene": "workbench:scene",
    "finding:set_up": "finding:find",
}


@dataclass(frozen=True)
class Stop:
    """A step as the strip shows it. state: a count; mark: `fails` or `unknown`, with what that means in words."""

    step: Step
    address: str
    here: str  # what aria-current says; empty elsewhere
    state: str = ""
    mark: "Mark | None" = None


@dataclass(frozen=True)
class Mark:
    """How a page's own question stands: `fails`, `unknown`, or empty where nothing is the matter; and in words."""

    kind: str = ""
    says: str = ""


@dataclass(frozen=True)
class Neighbour:
    """The scene before or after: its name, and the same page of it."""

    name: str
    address: str


@dataclass(frozen=True)
class Way:
    """All that the scene's bar shows."""

    scene: Scene
    stops: tuple[Stop, ...]
    number: int
    count: int
    before: Neighbour | None
    after: Neighbour | None

    @property
    def here(self) -> Stop | None:
        """Where one is; None beside the strip."""
        return next((stop for stop in self.stops if stop.here), None)


def step_of(view: str) -> Step | None:
    """The step that a page is, or belongs to."""
    return _BY_VIEW.get(_OPENED_FROM.get(view, view))


def way_of(scene: Scene, view: str) -> Way:
    """The bar of a scene on one of its pages, called by the name of its address."""
    here = step_of(view)
    marks = _marks_of_stored(scene)
    states = _counts(scene)
    stops = []
    for step in STEPS:
        current = ""
        if step is here:
            current = "page" if step.view == view else "true"
        address = reverse(step.view, args=[scene.pk])
        stops.append(
            Stop(step, address, current, states.get(step.key, ""), marks.get(step.key))
        )
    looks = _looks(scene)
    place = [pk for pk, _ in looks].index(scene.pk)
    same = here or STEPS[0]
    return Way(
        scene,
        tuple(stops),
        number=place + 1,
        count=len(looks),
        before=_neighbour(looks[place - 1], same) if place else None,
        after=_neighbour(looks[place + 1], same) if place + 1 < len(looks) else None,
    )


def _looks(scene: Scene) -> list[tuple[int, str]]:
    """Key and name of each scene of the shoot, in the order of the day."""
    living = scene.shoot.scenes.filter(deleted_at__isnull=True)
    return list(living.order_by("position", "pk").values_list("pk", "name"))


def _neighbour(look: tuple[int, str], step: Step) -> Neighbour:
    pk, name = look
    return Neighbour(name, reverse(step.view, args=[pk]))


def _counts(scene: Scene) -> dict[str, str]:
    """How many tries are logged and how many snapshots kept; nothing where there are none."""
    takes = scene.takes.filter(deleted_at__isnull=True).count()
    snapshots = scene.snapshots.filter(deleted_at__isnull=True).count()
    counted = {"takes": takes, "compare": snapshots}
    return {key: str(count) for key, count in counted.items() if count}


def _marks_of_stored(scene: Scene) -> dict[str, Mark]:
    try:
        return marks_of(answered(scene.document))
    except DocumentError:
        # Its own page says what is wrong with it.
        return {"plan": Mark("unknown", "has to be put right"), "timing": Mark()}


def marks_of(answer: Answer) -> dict[str, Mark]:
    """What stands in the way, at the page that deals with it."""
    plan, timing = Mark(), Mark()
    for margin in answer.evaluation.margins:
        if margin.name != "timing" and _stands_in_the_way(margin):
            plan = Mark("fails", "something fails")
    hits = answer.evaluation.margin("timing")
    if _stands_in_the_way(hits):
        timing = Mark("fails", "most tries miss")
    elif hits.state == "unknown":
        timing = Mark("unknown", "unknown")
    return {"plan": plan, "timing": timing}


def _stands_in_the_way(margin: Margin) -> bool:
    return margin.state == "fails" or margin.probably_fails


def comes_next(scene: Scene, view: str, answer: Answer | None = None) -> Next | None:
    """What usually comes after a page of a scene; the plan's depends on how it stands."""
    here = step_of(view)
    if here is None:
        return None
    if view != here.view:
        return _lead(scene, here)
    if here.key == "plan" and answer is not None:
        return _lead(scene, _after_the_plan(answer))
    if here.key == "takes":
        return _after_the_takes(scene)
    if here.key == "compare":
        return _lead(scene, STEPS[0])
    return _lead(scene, STEPS[STEPS.index(here) + 1])


def _lead(scene: Scene, step: Step) -> Next:
    return Next(step.leads, reverse(step.view, args=[scene.pk]))


def _after_the_plan(answer: Answer) -> Step:
    """What fails is dealt with by another method; what is not known or missed, by looking at the timing."""
    by_key = {step.key: step for step in STEPS}
    margins = answer.evaluation.margins
    failing = {each.name for each in margins if _stands_in_the_way(each)}
    timing = answer.evaluation.margin("timing")
    if failing - {"timing"}:
        return by_key["methods"]
    if failing or timing.state == "unknown":
        return by_key["timing"]
    return by_key["sheet"]


def _after_the_takes(scene: Scene) -> Next:
    """The next look of the day; after the last one, the shoot."""
    looks = _looks(scene)
    place = [pk for pk, _ in looks].index(scene.pk)
    if place + 1 < len(looks):
        pk, name = looks[place + 1]
        return Next(f"go on to {name}", reverse("workbench:scene", args=[pk]))
    return Next(
        f"go back to {scene.shoot.name}",
        reverse("workbench:shoot", args=[scene.shoot_id]),
    )
