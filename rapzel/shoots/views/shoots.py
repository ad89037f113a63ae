"""Shoots: the list, and one shoot with its scenes."""

from typing import Any

from django.contrib import messages
from django.db.models import Count, Q
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from rapzel.core.errors import DocumentError
from rapzel.shoots import services
from rapzel.shoots.forms import ShootForm
from rapzel.shoots.models import Shoot
from rapzel.shoots.views.common import login_required
from rapzel.shoots.workbench import Answer
from rapzel.ui import http


def find_shoot(request: HttpRequest, pk: int) -> Shoot:
    """The person's own shoot; 404 for anybody else's."""
    return get_object_or_404(Shoot.objects.visible_to(request.user), pk=pk)


@login_required
@require_GET
def shoot_list(request: HttpRequest) -> HttpResponse:
    """All shoots, the last changed first."""
    living = Q(scenes__deleted_at__isnull=True)
    shoots = Shoot.objects.visible_to(request.user).annotate(scene_count=Count("scenes", filter=living))
    return render(request, "shoots/list.html", {"shoots": shoots})


@login_required
@require_POST
def add(request: HttpRequest) -> HttpResponse:
    """A new shoot with one scene to begin with."""
    name = request.POST.get("name", "").strip()[:120] or "New shoot"
    shoot = services.begin_shoot(request.user, name)
    return redirect("shoots:shoot", pk=shoot.pk)


@login_required
@require_http_methods(["GET", "POST"])
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """One shoot. Its facts are saved as they are changed; scenes stand in a list with their margins."""
    shoot = find_shoot(request, pk)
    form = ShootForm(request.POST or None, instance=shoot)
    if request.method == "POST":
        saved = form.is_valid()
        if saved:
            form.save()
        return render(request, "shoots/_facts.html", {"form": form, "saved": saved}, status=200 if saved else 422)
    living = Q(takes__deleted_at__isnull=True)
    scenes = shoot.scenes.filter(deleted_at__isnull=True).annotate(
        take_count=Count("takes", filter=living), keep_count=Count("takes", filter=living & Q(takes__outcome="keep"))
    )
    rows = [{"scene": scene, "answer": Answer(scene.document)} for scene in scenes]
    return render(request, "shoots/shoot.html", {"shoot": shoot, "form": form, "rows": rows})


@login_required
@require_POST
def add_scene(request: HttpRequest, pk: int) -> HttpResponse:
    """A new scene, opened on the workbench."""
    shoot = find_shoot(request, pk)
    scene = services.add_scene(shoot, services.NEW_SCENE, "Untitled scene")
    return redirect("shoots:scene", pk=scene.pk)


@login_required
@require_POST
def bring_in(request: HttpRequest, pk: int) -> HttpResponse:
    """Adds the scene in a JSON file, or every scene of a shoot document; says all that is wrong and adds nothing."""
    shoot = find_shoot(request, pk)
    try:
        document = http.parse_json(http.read_text(request.FILES.get("file")))
        added = services.add_scenes(shoot, _scenes_in(document))
    except DocumentError as error:
        http.say_problems(request, "Nothing was imported.", error)
    else:
        messages.info(request, f"Imported: {', '.join(scene.name for scene in added)}.")
    return redirect("shoots:shoot", pk=pk)


def _scenes_in(document: Any) -> list[Any]:
    if (
        isinstance(document, dict)
        and document.get("format") == "rapzel.shoot"
        and isinstance(document.get("scenes"), list)
    ):
        return document["scenes"]
    return [document]


@login_required
@require_GET
def export_json(request: HttpRequest, pk: int) -> HttpResponse:
    """The shoot with its scenes as one JSON document."""
    shoot = find_shoot(request, pk)
    return http.json_file(services.shoot_document(shoot), shoot.name)


@login_required
@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Puts a shoot away; the list offers to take it back."""
    shoot = find_shoot(request, pk)
    http.put_away(request, shoot, reverse("shoots:shoot_back", args=[pk]))
    return redirect("shoots:list")


@login_required
@require_POST
def take_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes a removed shoot back."""
    shoot = get_object_or_404(Shoot.objects.put_away_by(request.user), pk=pk)
    shoot.take_back()
    messages.info(request, f"“{shoot.name}” is back.")
    return redirect("shoots:shoot", pk=pk)
