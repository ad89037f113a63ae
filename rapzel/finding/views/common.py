"""What the pages of methods and of searches share: the scene, its kit and limits, and the sentence of the limits."""

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe
from django_htmx.http import reswap

from rapzel.core.document.places import Document
from rapzel.core.search.limits import Limits, limits_schema
from rapzel.core.shared.errors import DocumentError
from rapzel.finding import chips, kits, services
from rapzel.shoots.documents import judged
from rapzel.shoots.models import Scene
from rapzel.ui import http
from rapzel.ui.inputs.person import likes_feet
from rapzel.workbench.views.common import find_scene, login_required

PAGES = {"methods": "finding:methods", "find": "finding:find"}


@dataclass(frozen=True)
class PageQuestion:
    """What a page is asked about. `own`: whether the scene has limits of its own."""

    scene: Scene
    supply: kits.Supply
    limits: Limits
    own: bool
    imperial: bool

    @property
    def size(self) -> str:
        """How much a search goes through, in words."""
        strobes, lights = len(self.supply.kit.strobes), self.limits.lights
        # What was chosen of the kit, where something was.
        if self.limits.strobes is not None:
            strobes = len(self.limits.strobes)
        if strobes == 1:
            plural = ""
        else:
            plural = "s"
        return f"{strobes} strobe{plural} at every power, up to {lights} at once."

    def words(self) -> list[chips.Chip]:
        """The sentence of the limits."""
        return [
            chips.chip_of(word, self.limits, self.supply.kit, self.imperial)
            for word in chips.WORDS
        ]

    def word(self, name: str, error: str = "") -> chips.Chip:
        """One word of it, and what was wrong with it. Raises DocumentError where there is none of that name."""
        return chips.chip_of(
            chips.word_of(name), self.limits, self.supply.kit, self.imperial, error
        )


def asked_of(request: HttpRequest, pk: int) -> PageQuestion:
    """The person's scene with its kit and limits. Raises DocumentError for a scene that a newer rule refuses."""
    scene = find_scene(request, pk)
    supply = kits.of_owner(request.user, judged(scene.document))
    limits, own = services.limits_for(request.user, scene)
    return PageQuestion(scene, supply, limits, own, likes_feet())


def limits_context(
    request: HttpRequest, asked: PageQuestion, page: str
) -> dict[str, Any]:
    """What the sentence's template needs; `changed` is the word that a request has just changed."""
    name = request.GET.get("word", "")
    # Only then the word alone is swapped; a page that is loaded anew shows them all.
    if name and http.is_htmx(request):
        changed = asked.word(name)
    else:
        changed = None
    return {
        "scene": asked.scene,
        "chips": asked.words(),
        "own": asked.own,
        "page": page,
        "changed": changed,
        "waiting": asked.supply.waiting,
    }


@login_required
@require_POST
def set_limit(request: HttpRequest, pk: int, page: str) -> HttpResponse:
    """Changes one word of the sentence and answers anew; a word that is refused keeps what was typed, and says why."""
    asked = asked_of(request, pk)
    name, texts = request.POST.get("name", ""), request.POST.getlist("value")
    direction = {"up": 1, "down": -1}.get(request.POST.get("direction", ""))
    try:
        if direction is not None:
            if texts:
                typed = texts[0]
            else:
                typed = ""
            texts = [
                chips.stepped(asked.limits, name, typed, direction, asked.imperial)
            ]
        limits = chips.with_word(
            asked.limits, name, texts, asked.supply.kit, asked.imperial
        )
    except DocumentError as error:
        reasons = "; ".join(problem.reason for problem in error.problems)
        # The word as it is kept, the reason beside it; what was typed is still in the browser.
        context = {"chip": asked.word(name, reasons)}
        return reswap(
            render(request, "finding/_refused.html", context, status=422), "none"
        )
    services.keep_limits(request.user, asked.scene, limits)
    return redirect(f"{reverse(PAGES[page], args=[pk])}?word={name}")


@login_required
@require_POST
def set_scope(request: HttpRequest, pk: int, page: str) -> HttpResponse:
    """Gives the scene limits of its own, or those of every scene again."""
    scene = find_scene(request, pk)
    # Own limits begin as a copy, shared ones come back as they are: nothing is lost on either way.
    if request.POST.get("own") == "1":
        services.make_own(request.user, scene)
    else:
        services.make_shared(request.user, scene)
    return redirect(PAGES[page], pk=pk)


@require_safe
def schema(request: HttpRequest) -> HttpResponse:
    """The published JSON Schema of the limits of a search."""
    return http.schema(limits_schema())


def use(
    request: HttpRequest, scene: Scene, document: Document, name: str
) -> HttpResponse:
    """Makes a set-up the scene or a snapshot of it, as the button that was pressed says."""
    if request.POST.get("as") == "snapshot":
        services.pin(scene, document, name)
        messages.info(request, f"“{name}” is pinned beside the scene.")
        return redirect("workbench:compare", pk=scene.pk)
    services.become(scene, document, name)
    messages.info(request, f"The scene is now: {name}. Undo takes it back.")
    return redirect("workbench:scene", pk=scene.pk)
