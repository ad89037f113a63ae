"""Finding what a person may see, and rendering an answer."""

import json
from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render

from rapzel.core.presets import USUAL_SPEEDS
from rapzel.kit.models import Camera, Lens, Modifier, Strobe, Trigger
from rapzel.shoots.drawings import VIEWS
from rapzel.shoots.fields import all_fields
from rapzel.shoots.models import Scene
from rapzel.shoots.workbench import Answer

__all__ = ["answer_of", "find_scene", "login_required", "page_context", "respond"]


def find_scene(request: HttpRequest, pk: int) -> Scene:
    """The person's own scene with its shoot; 404 for anybody else's."""
    return get_object_or_404(Scene.objects.visible_to(request.user).select_related("shoot"), pk=pk)


def answer_of(request: HttpRequest, scene: Scene) -> Answer:
    """The scene answered in the person's units."""
    return Answer(scene.document, bool(getattr(request.user, "imperial", False)))


def chosen_view(request: HttpRequest) -> str:
    """Which view stands beside the rehearsal: as asked, else as it was."""
    asked = request.GET.get("view") or request.POST.get("view") or request.COOKIES.get("view", "")
    return asked if asked in VIEWS else "pulse"


def kit_choices(request: HttpRequest) -> dict[str, Any]:
    """What the pickers offer: names only; the rest is read when one is chosen."""
    kinds = {"strobe": Strobe, "camera": Camera, "lens": Lens, "trigger": Trigger, "modifier": Modifier}
    own = {key: list(model.objects.visible_to(request.user).values_list("pk", "name")) for key, model in kinds.items()}
    return {**own, "speed": [(place, each.says) for place, each in enumerate(USUAL_SPEEDS)]}


def page_context(request: HttpRequest, scene: Scene, answer: Answer) -> dict[str, Any]:
    """What the answer's templates need."""
    view = chosen_view(request)
    return {"scene": scene, "answer": answer, "view": view, "views": list(VIEWS), "drawing": answer.view(view)}


def respond(request: HttpRequest, scene: Scene, structural: bool = False, forced: str = "") -> HttpResponse:
    """The answer after a change: its fragment, the states of the groups, and what the inputs should show.

    With `structural`, the inputs are made anew as well; `forced` is the path of an input that must show its value
    even while it is being edited.
    """
    answer = answer_of(request, scene)
    context = page_context(request, scene, answer)
    if structural:
        context["kit"] = kit_choices(request)
    response = render(request, "shoots/_changed.html", {**context, "structural": structural})
    shown = {field.key: field.text for field in all_fields(answer.groups) if field.quantity or not field.check}
    events = {
        "rapzel:changed": {
            "fields": shown,
            "forced": forced,
            "rehearsal": answer.fingerprint,
            "revision": scene.revision,
        }
    }
    response["HX-Trigger-After-Settle"] = json.dumps(events)
    return response
