"""The workbench and what goes in and out of a scene."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_POST

from rapzel.core.evaluation import evaluation_schema
from rapzel.core.scene import scene_schema
from rapzel.shoots import pictures, services
from rapzel.shoots.drawings import FIGURES
from rapzel.shoots.fields import differences
from rapzel.shoots.models import Scene, Snapshot
from rapzel.shoots.views.common import answer_of, find_scene, kit_choices, login_required, page_context
from rapzel.shoots.workbench import Answer
from rapzel.ui import http


@login_required
@require_GET
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The workbench."""
    scene = find_scene(request, pk)
    answer = answer_of(request, scene)
    context = page_context(request, scene, answer)
    snapshots = scene.snapshots.filter(deleted_at__isnull=True)
    takes = scene.takes.filter(deleted_at__isnull=True).count()
    return render(
        request, "shoots/scene.html", {**context, "kit": kit_choices(request), "snapshots": snapshots, "takes": takes}
    )


@login_required
@require_GET
def view_fragment(request: HttpRequest, pk: int, name: str) -> HttpResponse:
    """One of the views; the choice is remembered."""
    scene = find_scene(request, pk)
    if name not in FIGURES:
        raise Http404
    context = {"scene": scene, "view": name, "drawing": answer_of(request, scene).view(name)}
    response = render(request, "shoots/_view.html", context)
    response.set_cookie("view", name, max_age=365 * 24 * 3600, samesite="Lax")
    return response


@login_required
@require_GET
@cache_control(private=True, max_age=3600)
def rehearsal(request: HttpRequest, pk: int, kind: str) -> HttpResponse:
    """The computed picture; its address carries a fingerprint of the scene."""
    image, content_type = pictures.rehearsal(answer_of(request, find_scene(request, pk)).setup, kind)
    return HttpResponse(image, content_type=content_type)


@login_required
@require_GET
@cache_control(private=True, max_age=3600)
def snapshot_rehearsal(request: HttpRequest, pk: int, snapshot: int) -> HttpResponse:
    """The computed picture of a snapshot."""
    scene = find_scene(request, pk)
    pinned = get_object_or_404(scene.snapshots.filter(deleted_at__isnull=True), pk=snapshot)
    image, content_type = pictures.rehearsal(Answer(pinned.document).setup)
    return HttpResponse(image, content_type=content_type)


@login_required
@require_GET
def figure(request: HttpRequest, pk: int, name: str) -> HttpResponse:
    """A drawing as an SVG file that stands alone."""
    if name not in FIGURES:
        raise Http404
    scene = find_scene(request, pk)
    drawing = FIGURES[name](answer_of(request, scene).setup)
    return http.download(drawing.svg.markup(paper=True), f"{scene.name} {name}", "svg", "image/svg+xml")


@login_required
@require_GET
def export_json(request: HttpRequest, pk: int) -> HttpResponse:
    """The scene document."""
    scene = find_scene(request, pk)
    return http.json_file(scene.document, scene.name)


@login_required
@require_GET
def evaluation_json(request: HttpRequest, pk: int) -> HttpResponse:
    """The evaluation of the scene."""
    scene = find_scene(request, pk)
    return http.json_file(answer_of(request, scene).evaluation.to_document(), f"{scene.name} evaluation")


@login_required
@require_POST
def pin(request: HttpRequest, pk: int) -> HttpResponse:
    """Pins the scene as it is and opens the comparison."""
    scene = find_scene(request, pk)
    snapshot = services.pin(scene, request.POST.get("name", ""))
    messages.info(request, f"“{snapshot.name}” is pinned.")
    return redirect("shoots:compare", pk=pk)


@login_required
@require_POST
def unpin(request: HttpRequest, pk: int, snapshot: int) -> HttpResponse:
    """Puts a snapshot away; the next page offers to take it back."""
    scene = find_scene(request, pk)
    pinned = get_object_or_404(scene.snapshots.filter(deleted_at__isnull=True), pk=snapshot)
    http.put_away(request, pinned, reverse("shoots:repin", args=[pk, snapshot]))
    return redirect("shoots:compare", pk=pk)


@login_required
@require_POST
def repin(request: HttpRequest, pk: int, snapshot: int) -> HttpResponse:
    """Takes a removed snapshot back."""
    scene = find_scene(request, pk)
    get_object_or_404(Snapshot, scene=scene, pk=snapshot).take_back()
    return redirect("shoots:compare", pk=pk)


@login_required
@require_GET
def compare(request: HttpRequest, pk: int) -> HttpResponse:
    """The scene beside its pinned snapshots: margins, pictures, and the settings that differ."""
    scene = find_scene(request, pk)
    pinned = list(scene.snapshots.filter(deleted_at__isnull=True))
    now = answer_of(request, scene)
    columns: list[dict[str, Any]] = [{"snapshot": None, "answer": now}]
    columns += [{"snapshot": each, "answer": Answer(each.document, now.imperial)} for each in pinned]
    rows = differences([column["answer"].document for column in columns], now.imperial)
    return render(request, "shoots/compare.html", {"scene": scene, "columns": columns, "rows": rows})


@login_required
@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Puts a scene away; the shoot's page offers to take it back."""
    scene = find_scene(request, pk)
    http.put_away(request, scene, reverse("shoots:scene_back", args=[pk]))
    return redirect("shoots:shoot", pk=scene.shoot_id)


@login_required
@require_POST
def take_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes a removed scene back."""
    scene = get_object_or_404(Scene.objects.put_away_by(request.user), pk=pk)
    scene.take_back()
    messages.info(request, f"“{scene.name}” is back.")
    return redirect("shoots:shoot", pk=scene.shoot_id)


@require_GET
def schema(request: HttpRequest, name: str) -> HttpResponse:
    """The published JSON Schemas of the scene and of its evaluation."""
    return http.schema({"scene": scene_schema, "evaluation": evaluation_schema}[name]())
