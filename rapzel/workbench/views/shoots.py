"""Shoots: the list, and one shoot with its scenes."""

from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.db.models import Count, Q
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import (
    require_http_methods,
    require_POST,
    require_safe,
)

from rapzel.core.document.present import fingerprint_of
from rapzel.core.shared.errors import CoreError, DocumentError
from rapzel.shoots import services
from rapzel.shoots.models import Scene, Shoot
from rapzel.ui import http, zones
from rapzel.ui.one_field import save_one_field, with_one_field
from rapzel.ui.parts import written_once
from rapzel.ui.ways import Next
from rapzel.workbench import renewal
from rapzel.workbench.answer import answered
from rapzel.workbench.forms import ShootForm, with_its_clock
from rapzel.workbench.views.common import login_required

A_PAGE = 20  # scenes of one page: each is answered
SHOOTS_A_PAGE = 50
# of a scene without an answer; no name can hold quotes unescaped
_REFUSED = 'class="field-error" data-refused'


def find_shoot(request: HttpRequest, pk: int) -> Shoot:
    """The person's own shoot, whose clock is used from here; 404 for anybody else's."""
    shoot = get_object_or_404(Shoot.objects.visible_to(request.user), pk=pk)
    zones.use(shoot.zone)
    return shoot


@login_required
@require_safe
def shoot_list(request: HttpRequest) -> HttpResponse:
    """All shoots, the last changed first."""
    living = Q(scenes__deleted_at__isnull=True)
    shoots = (
        Shoot.objects.visible_to(request.user)
        # Counted in the query: a list of fifty would else ask fifty times.
        .annotate(scene_count=Count("scenes", filter=living))
        .order_by("-changed_at", "pk")
    )
    page = Paginator(shoots, SHOOTS_A_PAGE).get_page(request.GET.get("page"))
    return render(request, "workbench/list.html", {"page": page})


@login_required
@require_POST
def add(request: HttpRequest) -> HttpResponse:
    """A new shoot with one scene to begin with."""
    name = request.POST.get("name", "").strip()[:120] or "New shoot"
    shoot = services.begin_shoot(request.user, name)
    return redirect("workbench:shoot", pk=shoot.pk)


@login_required
@require_http_methods(["GET", "HEAD", "POST"])
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """One shoot. Its facts are saved one by one as they are changed; scenes stand in a list with their margins."""
    shoot = find_shoot(request, pk)
    if request.method == "POST":
        return _set_fact(request, shoot)
    scenes = shoot.scenes.filter(deleted_at__isnull=True).order_by("position", "pk")
    shown = Paginator(scenes, A_PAGE).get_page(request.GET.get("page"))
    # One look at the kit for all scenes of the page.
    known = renewal.known_strobes(request.user, [scene.document for scene in shown])
    counted = _takes_of(list(shown))
    rows = [{**_row(scene, known), "takes": counted[scene.pk]} for scene in shown]
    stale = [row for row in rows if row["newer"]]
    context = {
        "shoot": shoot,
        "form": ShootForm(instance=shoot),
        "rows": rows,
        "page": shown,
        "stale": stale,
        "comes_next": _comes_next(rows),
    }
    return render(request, "workbench/shoot.html", context)


def _comes_next(rows: list[dict[str, Any]]) -> Next:
    """The first look that has no keeper yet; where there is none, a new one."""
    waiting = [row["scene"] for row in rows if not row["takes"]["kept"]]
    if waiting:
        scene = waiting[0]
        return Next(f"open {scene.name}", reverse("workbench:scene", args=[scene.pk]))
    return Next("begin another scene", reverse("finding:begin"))


def _set_fact(request: HttpRequest, shoot: Shoot) -> HttpResponse:
    form, name = with_one_field(ShootForm, shoot, request)
    saved = save_one_field(form, name, with_its_clock)
    if saved:
        errors = []
    else:
        # Only of the field that was posted; the others were not touched.
        errors = [f"{form[name].label}: {error}" for error in form.errors.get(name, [])]
    errors += [] if saved else [str(error) for error in form.non_field_errors()]
    context = {"errors": errors, "saved": saved}
    return render(
        request, "workbench/_facts_answer.html", context, status=200 if saved else 422
    )


def _takes_of(scenes: list[Scene]) -> dict[int, dict[str, int]]:
    """How many tries each scene has and how many were kept; counted in the log's own index, without the documents."""
    # the log's app stands above this one
    log = Scene._meta.get_field("takes").related_model
    assert log is not None
    assert not isinstance(log, str)
    found = {scene.pk: {"tries": 0, "kept": 0} for scene in scenes}
    living = log._default_manager.filter(
        scene__in=list(found), deleted_at__isnull=True
    ).order_by()
    for scene, outcome, count in living.values_list("scene", "outcome").annotate(
        count=Count("*")
    ):
        found[scene]["tries"] += count
        found[scene]["kept"] += count if outcome == "keep" else 0
    return found


def _row(scene: Scene, known: Any) -> dict[str, Any]:
    """A scene of the list. What it says is worked out once for each of its states."""
    state = (scene.pk, scene.name, fingerprint_of(scene.document))
    says = written_once("workbench/_scene_says.html", state, lambda: _says(scene))
    # Of a scene that a newer rule refuses nothing is known of its gear, either.
    if _REFUSED in says:
        newer = []
    else:
        newer = renewal.newer_figures(scene.document, known)
    return {"scene": scene, "says": says, "newer": newer}


def _says(scene: Scene) -> dict[str, Any]:
    """Its answer. One that a newer rule refuses says what is wrong, and closes nothing but itself."""
    try:
        return {"scene": scene, "answer": answered(scene.document)}
    except DocumentError as error:
        return {"scene": scene, "answer": None, "problems": error.problems[:5]}


@login_required
@require_POST
def add_scene(request: HttpRequest, pk: int) -> HttpResponse:
    """A new scene, opened on the workbench."""
    shoot = find_shoot(request, pk)
    scene = services.add_scene(shoot, services.NEW_SCENE, "Untitled scene")
    return redirect("workbench:scene", pk=scene.pk)


@login_required
@require_POST
def bring_in(request: HttpRequest, pk: int) -> HttpResponse:
    """Adds the scene in a JSON file, or every scene of a shoot document; says all that is wrong and adds nothing."""
    shoot = find_shoot(request, pk)
    try:
        document = http.parse_json(http.read_text(request.FILES.get("file")))
        added = services.add_scenes(shoot, _scenes_in(document))
    except CoreError as error:
        http.say_problems(request, "Nothing was imported.", error)
    else:
        # Ten names fit a notice; the rest are counted.
        names = [scene.name for scene in added[:10]] + (
            [f"{len(added) - 10} more"] if len(added) > 10 else []
        )
        messages.info(request, f"Imported: {', '.join(names)}.")
    return redirect("workbench:shoot", pk=pk)


def _scenes_in(document: Any) -> list[Any]:
    if (
        isinstance(document, dict)
        # Both forms are opened by one button: people do not know which they have.
        and document.get("format") == "rapzel.shoot"
        and isinstance(document.get("scenes"), list)
    ):
        return document["scenes"]
    return [document]


@login_required
@require_safe
def export_json(request: HttpRequest, pk: int) -> HttpResponse:
    """The shoot with its scenes as one JSON document."""
    shoot = find_shoot(request, pk)
    return http.json_file(services.shoot_document(shoot), shoot.name)


@login_required
@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Puts a shoot away; the list offers to take it back."""
    shoot = find_shoot(request, pk)
    http.put_away(request, shoot, reverse("workbench:shoot_back", args=[pk]))
    return redirect("workbench:shoots")


@login_required
@require_POST
def take_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes a removed shoot back."""
    shoot = get_object_or_404(Shoot.objects.put_away_by(request.user), pk=pk)
    shoot.take_back()
    messages.info(request, f"“{shoot.name}” is back.")
    return redirect("workbench:shoot", pk=pk)
