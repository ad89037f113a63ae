"""The workbench and what goes in and out of a scene."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from rapzel.core.document.scene import scene_schema
from rapzel.core.evaluate import evaluation_schema
from rapzel.core.shared.errors import DocumentError
from rapzel.shoots import services
from rapzel.shoots.models import Scene, Snapshot
from rapzel.ui import http
from rapzel.workbench import mending, pictures
from rapzel.workbench.answer import Answer, answered
from rapzel.workbench.drawings import DRAWINGS
from rapzel.workbench.groups import differences
from rapzel.workbench.views.common import (
    answer_of,
    find_scene,
    find_snapshot,
    inputs_context,
    kept_while_it_stands,
    login_required,
    page_context,
    respond,
    seen_revision,
)


@login_required
@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The workbench; for a scene that a newer rule refuses, what is wrong with it and the ways on."""
    scene = find_scene(request, pk)
    try:
        shown = answer_of(request, scene)
        context = page_context(request, scene, shown)
    except DocumentError as error:
        context = {
            "scene": scene,
            "places": mending.places_of(scene.document, error.problems),
        }
        # The page names each place that is refused, with an input for it, so that nothing is lost.
        return render(request, "workbench/broken.html", context, status=422)
    # What was put away stays in the table until it is forgotten, and is never shown.
    snapshots = scene.snapshots.filter(deleted_at__isnull=True)
    takes = scene.takes.filter(deleted_at__isnull=True).count()
    context |= {
        **inputs_context(request, scene, shown),
        "snapshots": snapshots,
        "takes": takes,
    }
    return render(request, "workbench/scene.html", context)


@login_required
@require_POST
def mend(request: HttpRequest, pk: int) -> HttpResponse:
    """Sets what was wrong of a stored scene; one that is still refused stays as it was, with what was typed."""
    scene = find_scene(request, pk)
    typed = {
        path: request.POST.get(f"value:{path}", "")
        for path in request.POST.getlist("path")
    }
    try:
        mending.mend(scene, typed)
    except DocumentError as error:
        shown = mending.places_of(
            # What was typed is shown again, also where it was refused.
            mending.with_typed(scene.document, typed),
            error.problems,
            typed,
        )
        return render(
            request,
            "workbench/broken.html",
            {"scene": scene, "places": shown, "again": True},
            status=422,
        )
    messages.info(request, "The scene answers again. Undo takes the mending back.")
    return redirect("workbench:scene", pk=pk)


@login_required
@require_safe
def answer(request: HttpRequest, pk: int) -> HttpResponse:
    """Everything the workbench shows, for a page that was left and comes back; nothing where it is as it was."""
    scene = find_scene(request, pk)
    # A page that comes back from the browser's memory asks; most have missed nothing.
    if seen_revision(request) == scene.revision and "anew" not in request.GET:
        return HttpResponse(status=204)
    return respond(request, scene, structural=True)


@login_required
@require_safe
def pairs(request: HttpRequest, pk: int) -> HttpResponse:
    """Two changes together for what no single one closes; searched for when the answer stands already."""
    scene = find_scene(request, pk)
    shown = answer_of(request, scene)
    # A margin that no pair closes either is named, or its silence would read as success.
    closed = {title for title, _ in shown.pairs}
    left = [title for title in shown.left_open if title not in closed]
    return render(
        request,
        "workbench/_pairs.html",
        {"scene": scene, "pairs": shown.pairs, "left": left},
    )


@login_required
@require_safe
def view_fragment(request: HttpRequest, pk: int, name: str) -> HttpResponse:
    """One of the views; the choice is remembered."""
    scene = find_scene(request, pk)
    if name not in DRAWINGS:
        raise Http404
    shown = answer_of(request, scene)
    context = {
        "scene": scene,
        "view": name,
        "answer": shown,
        "drawing": shown.view(name),
    }
    response = render(request, "workbench/_view.html", context)
    # The choice goes with the browser, not the scene: on a phone another view may be the best.
    response.set_cookie("view", name, max_age=365 * 24 * 3600, samesite="Lax")
    return response


def _picture(
    request: HttpRequest, shown: Answer, made: tuple[bytes, str]
) -> HttpResponse:
    """A picture of an answer, which browsers may keep while the scene stands."""
    image, content_type = made
    response = HttpResponse(image, content_type=content_type)
    return kept_while_it_stands(request, response, shown.fingerprint)


@login_required
@require_safe
def rehearsal(request: HttpRequest, pk: int, kind: str) -> HttpResponse:
    """The computed picture."""
    shown = answer_of(request, find_scene(request, pk))
    size = "draft" if "draft" in request.GET else "whole"
    return _picture(request, shown, pictures.rehearsal(shown, kind, size))


@login_required
@require_safe
def plan_picture(request: HttpRequest, pk: int) -> HttpResponse:
    """The computed picture alone, as it stands beside the close-ups; `?draft` with a quarter of the pixels."""
    shown = answer_of(request, find_scene(request, pk))
    size = "plain draft" if "draft" in request.GET else "plain"
    return _picture(request, shown, pictures.rehearsal(shown, size=size))


@login_required
@require_safe
def speeds(request: HttpRequest, pk: int) -> HttpResponse:
    """The fastest part at 100 %, a third slower, as planned and a third faster."""
    shown = answer_of(request, find_scene(request, pk))
    return _picture(request, shown, pictures.speeds(shown))


@login_required
@require_safe
def snapshot_rehearsal(request: HttpRequest, pk: int, snapshot: int) -> HttpResponse:
    """The computed picture of a snapshot."""
    # A snapshot never changes, so that its picture is one that browsers may keep for long.
    pinned = answered(find_snapshot(request, pk, snapshot).document)
    return _picture(request, pinned, pictures.rehearsal(pinned))


@login_required
@require_safe
def drawing(request: HttpRequest, pk: int, name: str) -> HttpResponse:
    """A drawing as an SVG file that stands alone."""
    if name not in DRAWINGS:
        raise Http404
    scene = find_scene(request, pk)
    shown = answer_of(request, scene)
    # A file is opened anywhere: it brings its styles along, dark on white.
    markup = DRAWINGS[name](shown.physics).svg.markup(paper=True)
    response = http.download(markup, f"{scene.name} {name}", "svg", "image/svg+xml")
    return kept_while_it_stands(request, response, shown.fingerprint)


@login_required
@require_safe
def export_json(request: HttpRequest, pk: int) -> HttpResponse:
    """The scene document."""
    scene = find_scene(request, pk)
    return http.json_file(scene.document, scene.name)


@login_required
@require_safe
def evaluation_json(request: HttpRequest, pk: int) -> HttpResponse:
    """The evaluation of the scene."""
    scene = find_scene(request, pk)
    return http.json_file(
        answer_of(request, scene).evaluation.to_document(), f"{scene.name} evaluation"
    )


@login_required
@require_POST
def pin(request: HttpRequest, pk: int) -> HttpResponse:
    """Pins the scene as it is and opens the comparison."""
    scene = find_scene(request, pk)
    snapshot = services.pin(scene, request.POST.get("name", ""))
    messages.info(request, f"“{snapshot.name}” is pinned.")
    return redirect("workbench:compare", pk=pk)


@login_required
@require_POST
def rename_snapshot(request: HttpRequest, pk: int, snapshot: int) -> HttpResponse:
    """Gives a snapshot another name."""
    pinned = find_snapshot(request, pk, snapshot)
    # An emptied name leaves the old one: a snapshot without a name could not be told apart.
    pinned.name = request.POST.get("name", "").strip()[:120] or pinned.name
    pinned.save(update_fields=["name"])
    return redirect("workbench:compare", pk=pk)


@login_required
@require_POST
def restore(request: HttpRequest, pk: int, snapshot: int) -> HttpResponse:
    """Makes the scene what it was when it was pinned; undo takes that back."""
    pinned = find_snapshot(request, pk, snapshot)
    services.restore(find_scene(request, pk), pinned)
    messages.info(request, f"The scene is as in “{pinned.name}”. Undo takes it back.")
    return redirect("workbench:scene", pk=pk)


@login_required
@require_POST
def open_snapshot(request: HttpRequest, pk: int, snapshot: int) -> HttpResponse:
    """Opens a snapshot as a scene of its own."""
    pinned = find_snapshot(request, pk, snapshot)
    scene = find_scene(request, pk)
    opened = services.add_scene(
        scene.shoot, pinned.document, f"{scene.name}: {pinned.name}"
    )
    return redirect("workbench:scene", pk=opened.pk)


@login_required
@require_POST
def copy(request: HttpRequest, pk: int) -> HttpResponse:
    """A second scene like this one, opened."""
    scene = find_scene(request, pk)
    twin = services.add_scene(scene.shoot, scene.document, f"{scene.name} again")
    messages.info(request, f"This is a copy of “{scene.name}”.")
    return redirect("workbench:scene", pk=twin.pk)


@login_required
@require_POST
def unpin(request: HttpRequest, pk: int, snapshot: int) -> HttpResponse:
    """Puts a snapshot away; the next page offers to take it back."""
    pinned = find_snapshot(request, pk, snapshot)
    http.put_away(request, pinned, reverse("workbench:repin", args=[pk, snapshot]))
    return redirect("workbench:compare", pk=pk)


@login_required
@require_POST
def repin(request: HttpRequest, pk: int, snapshot: int) -> HttpResponse:
    """Takes a removed snapshot back."""
    scene = find_scene(request, pk)
    # Looked up among the scene's own, so that no other person's snapshot can be taken back.
    get_object_or_404(Snapshot, scene=scene, pk=snapshot).take_back()
    return redirect("workbench:compare", pk=pk)


@login_required
@require_safe
def compare(request: HttpRequest, pk: int) -> HttpResponse:
    """The scene beside its pinned snapshots: margins, pictures, and the settings that differ."""
    scene = find_scene(request, pk)
    pinned = list(scene.snapshots.filter(deleted_at__isnull=True))
    now = answer_of(request, scene)
    # The scene as it is now always stands first.
    columns: list[dict[str, Any]] = [{"snapshot": None, "answer": now}]
    broken = []
    for each in pinned:
        try:
            columns.append(
                {"snapshot": each, "answer": answered(each.document, now.imperial)}
            )
        except DocumentError as error:
            # A rule that is newer than the snapshot; the others are still compared, and this one is
            # named.
            broken.append((each, error.problems[:3]))
    rows = differences([column["answer"].document for column in columns], now.imperial)
    return render(
        request,
        "workbench/compare.html",
        {"scene": scene, "columns": columns, "rows": rows, "broken": broken},
    )


@login_required
@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Puts a scene away; the shoot's page offers to take it back."""
    scene = find_scene(request, pk)
    http.put_away(request, scene, reverse("workbench:scene_back", args=[pk]))
    return redirect("workbench:shoot", pk=scene.shoot_id)


@login_required
@require_POST
def take_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes a removed scene back."""
    scene = get_object_or_404(Scene.objects.put_away_by(request.user), pk=pk)
    scene.take_back()
    messages.info(request, f"“{scene.name}” is back.")
    return redirect("workbench:shoot", pk=scene.shoot_id)


@require_safe
def schema(request: HttpRequest, name: str) -> HttpResponse:
    """The published JSON Schemas of the scene and of its evaluation."""
    return http.schema({"scene": scene_schema, "evaluation": evaluation_schema}[name]())
