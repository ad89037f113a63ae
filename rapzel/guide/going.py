"""Go to or do: every page, scene, piece of gear and input that typed words lead to."""

from collections.abc import Iterator
from dataclasses import asdict, dataclass
from typing import Any

from django.db.models import Q
from django.urls import reverse

from rapzel.core.tools import TOOLS
from rapzel.guide.questions import questions
from rapzel.kit.kinds import KINDS
from rapzel.shoots.models import Scene, Shoot
from rapzel.ui.ways import HOUSE
from rapzel.ui.words import words
from rapzel.workbench.groups import groups_of
from rapzel.workbench.way import STEPS

MOST = 24  # results that are told; more would have to be read
MOST_ROWS = 6  # of each kind of a person's own
_PAGES = (
    ("Begin a scene", "finding:begin"),
    ("Compare strobes", "kit:compare"),
    ("Colour of a flash", "bench:colours"),
    ("Curtain travel", "bench:curtains"),
    ("Account", "accounts:account"),
)
_OPEN_TO_ALL = (("Help", "guide:help"), ("Words", "guide:words"))


@dataclass(frozen=True)
class Destination:
    """Where one can go. kind: what it is, as it is written beside its name."""

    says: str
    kind: str
    address: str


def destinations(user: Any, typed: str, scene: Scene | None) -> list[dict[str, str]]:
    """The first of all that fit what was typed; a scene's own pages and inputs come first."""
    wanted = typed.casefold().split()
    # Each once, in the order in which they are looked for.
    fitting = dict.fromkeys(
        one for one in _everything(user, wanted, scene) if _fits(one, wanted)
    )
    whole = typed.strip().casefold()
    # What begins with what was typed is what most people mean.
    ordered = sorted(fitting, key=lambda one: not one.says.casefold().startswith(whole))
    return [asdict(one) for one in ordered[:MOST]]


def _fits(one: Destination, wanted: list[str]) -> bool:
    """Whether each typed word begins a word of the name, or of its kind."""
    there = f"{one.says} {one.kind}".casefold().split()
    return all(any(each.startswith(word) for each in there) for word in wanted)


def _everything(
    user: Any, wanted: list[str], scene: Scene | None
) -> Iterator[Destination]:
    if scene is not None:
        yield from _of_scene(scene, bool(wanted))
    if user.is_authenticated:
        yield from _of_house()
        yield from _own(user, wanted)
        yield from _calculators(scene)
    for title, view in _OPEN_TO_ALL:
        yield Destination(title, "page", reverse(view))
    # Only for who asks: a list of all words would bury the pages.
    if wanted:
        yield from _explained()


def _of_scene(scene: Scene, inputs: bool) -> Iterator[Destination]:
    for step in STEPS:
        yield Destination(
            step.title, f"page of {scene.name}", reverse(step.view, args=[scene.pk])
        )
    if not inputs:
        return
    plan = reverse("workbench:scene", args=[scene.pk])
    for group in groups_of(scene.document):
        for section in group.sections:
            for field in (*section.fields, *section.more):
                of = section.title or group.title
                yield Destination(field.label, f"input, {of}", f"{plan}#f-{field.key}")


def _of_house() -> Iterator[Destination]:
    for place in HOUSE:
        yield Destination(place.title, "page", reverse(place.view))
    for title, view in _PAGES:
        yield Destination(title, "page", reverse(view))


def _own(user: Any, wanted: list[str]) -> Iterator[Destination]:
    """The person's shoots, scenes and gear whose names hold every word."""
    named = Q()
    for word in wanted:
        named &= Q(name__icontains=word)
    for shoot in Shoot.objects.visible_to(user).filter(named)[:MOST_ROWS]:
        yield Destination(
            shoot.name, "shoot", reverse("workbench:shoot", args=[shoot.pk])
        )
    scenes = Scene.objects.visible_to(user).filter(named).select_related("shoot")
    for scene in scenes.order_by("-changed_at", "pk")[:MOST_ROWS]:
        yield Destination(
            scene.name,
            f"scene of {scene.shoot.name}",
            reverse("workbench:scene", args=[scene.pk]),
        )
    if not wanted:
        return
    for kind in KINDS.values():
        for item in kind.model.objects.visible_to(user).filter(named)[:MOST_ROWS]:
            address = reverse("kit:edit", args=[kind.slug, item.pk])
            yield Destination(item.name, kind.one, address)


def _calculators(scene: Scene | None) -> Iterator[Destination]:
    for tool in TOOLS.values():
        if scene is None:
            address = reverse("tools:page", args=[tool.slug])
        else:
            address = reverse("tools:for_scene", args=[scene.pk, tool.slug])
        yield Destination(tool.title, "calculator", address)


def _explained() -> Iterator[Destination]:
    for place, question in enumerate(questions(), start=1):
        yield Destination(
            question.asks, "help", f"{reverse('guide:help')}#question-{place}"
        )
    for word in words().values():
        yield Destination(word.term, "word", f"{reverse('guide:words')}#{word.key}")
