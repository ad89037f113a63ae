"""The log of a scene: a table, a form that the keyboard fills in seconds, and what it amounts to."""

from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.cache import patch_cache_control
from django.views.decorators.http import require_POST, require_safe

from rapzel.core.shared.errors import DocumentError
from rapzel.shoots.models import Scene
from rapzel.takes import services
from rapzel.takes.learning import Learnt, learnt_of
from rapzel.takes.models import Outcome, Take, TakePicture
from rapzel.takes.sent import Sent
from rapzel.ui import http
from rapzel.workbench.views.common import answer_of, find_scene

A_PAGE = 50


def _log(request: HttpRequest, scene: Scene) -> dict[str, Any]:
    before = next(iter(http.keys_of([request.GET.get("before", "")])), None)
    # one more tells whether there are earlier ones
    takes = services.listed(scene, A_PAGE + 1, before)
    shown = takes[:A_PAGE]
    return {
        "scene": scene,
        "rows": services.with_margins(shown),
        "earlier": shown[-1].number if len(takes) > A_PAGE else None,
        "newest": before is not None,
        "totals": services.totals(scene),
        "outcomes": Outcome,
        "learnt": _learnt(request, scene),
    }


def _learnt(request: HttpRequest, scene: Scene) -> Learnt | None:
    """What the log says of the timing; None for a scene that cannot be answered."""
    try:
        return learnt_of(scene, answer_of(request, scene))
    except DocumentError:
        return None


@login_required
@require_safe
def take_list(request: HttpRequest, pk: int) -> HttpResponse:
    """The log."""
    return render(request, "takes/list.html", _log(request, find_scene(request, pk)))


@login_required
@require_POST
def add(request: HttpRequest, pk: int) -> HttpResponse:
    """Logs a try and answers with the log."""
    scene = find_scene(request, pk)
    posted = request.POST
    try:
        services.log_take(
            scene,
            posted.get("outcome", ""),
            changed=posted.get("changed", ""),
            note=posted.get("note", ""),
            off=posted.get("off", ""),
            sent=Sent.read(posted),
        )
    except ValueError as error:
        return http.notice(request, str(error))
    return render(request, "takes/_log.html", _log(request, scene))


@login_required
@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Puts a take away; the log offers to take it back."""
    take = get_object_or_404(Take.objects.visible_to(request.user), pk=pk)
    take.put_away()
    http.say_undo(
        request,
        f"Take {take.number} was removed.",
        reverse("takes:take_back", args=[pk]),
    )
    return redirect("takes:list", pk=take.scene_id)


@login_required
@require_POST
def take_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes a removed take back."""
    take = get_object_or_404(Take.objects.put_away_by(request.user), pk=pk)
    take.take_back()
    return redirect("takes:list", pk=take.scene_id)


@login_required
@require_safe
def export_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """The log as CSV."""
    scene = find_scene(request, pk)
    return http.table(services.to_csv(scene), f"{scene.name} takes")


@login_required
@require_safe
def picture(request: HttpRequest, pk: int) -> HttpResponse:
    """The frame of a take."""
    take = get_object_or_404(Take.objects.visible_to(request.user), pk=pk)
    found = get_object_or_404(TakePicture, take=take)
    response = HttpResponse(bytes(found.image), content_type=found.content_type)
    patch_cache_control(response, private=True, max_age=3600)
    return response
