"""The first page with its live scene, help, the words of the interface, and where typed words lead."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import redirect, render
from django.utils.cache import patch_cache_control
from django.views.decorators.http import require_safe

from rapzel.guide import live as live_scene
from rapzel.guide.going import destinations
from rapzel.guide.questions import questions
from rapzel.shoots.models import Scene
from rapzel.ui import http
from rapzel.ui.words import words
from rapzel.workbench import pictures

_LONGEST_TYPED = 80


@require_safe
def front(request: HttpRequest) -> HttpResponse:
    """What Rapzel does, shown by a scene that answers; who is logged in comes to the shoots."""
    if request.user.is_authenticated:
        return redirect("workbench:shoots")
    return render(request, "guide/front.html", _shown(*live_scene.AT_FIRST))


@require_safe
def live(request: HttpRequest) -> HttpResponse:
    """The answer to another speed or power, each as a step of its slider."""
    context = _shown(
        _step(request.GET.get("speed", ""), len(live_scene.SPEEDS_M_S)),
        _step(request.GET.get("power", ""), live_scene.POWER_STEPS),
    )
    return render(request, "guide/_live.html", context)


def _step(text: str, count: int) -> int:
    """The step of a slider; 404 for one that it does not have."""
    if not (text.isascii() and text.isdigit() and len(text) < 4 and int(text) < count):
        raise Http404
    return int(text)


def _shown(speed: int, power: int) -> dict[str, Any]:
    speed_says, power_says = live_scene.says(speed, power)
    return {
        "answer": live_scene.live_answer(speed, power),
        "speed": speed,
        "power": power,
        "speed_says": speed_says,
        "power_says": power_says,
        "last_speed": len(live_scene.SPEEDS_M_S) - 1,
        "last_power": live_scene.POWER_STEPS - 1,
    }


@require_safe
def live_picture(request: HttpRequest, speed: int, power: int) -> HttpResponse:
    """The rehearsal of one of the live scene's steps."""
    if speed >= len(live_scene.SPEEDS_M_S) or power >= live_scene.POWER_STEPS:
        raise Http404
    image, content_type = pictures.rehearsal(
        live_scene.live_answer(speed, power), size=pictures.FRONT
    )
    response = HttpResponse(image, content_type=content_type)
    patch_cache_control(response, public=True, max_age=3600)
    return response


@require_safe
def help_page(request: HttpRequest) -> HttpResponse:
    """A dozen questions of the job, each with the page that answers it for the scene last worked on."""
    scene = _last_scene(request)
    pk = scene.pk if scene is not None else None
    asked = [(each, each.address(pk)) for each in questions()]
    return render(request, "guide/help.html", {"questions": asked, "last": scene})


def _last_scene(request: HttpRequest) -> Scene | None:
    if not request.user.is_authenticated:
        return None
    own = Scene.objects.visible_to(request.user)
    return own.order_by("-changed_at", "pk").only("pk", "name").first()


@require_safe
def words_page(request: HttpRequest) -> HttpResponse:
    """All words of the interface, by their letters."""
    ordered = sorted(words().values(), key=lambda word: word.term.casefold())
    return render(request, "guide/words.html", {"words": ordered})


@require_safe
def word(request: HttpRequest, key: str) -> HttpResponse:
    """One word, for the place where it stands."""
    if key not in words():
        raise Http404
    response = render(request, "guide/_word.html", {"word": words()[key]})
    patch_cache_control(response, private=True, max_age=3600)
    return response


@require_safe
def go(request: HttpRequest) -> HttpResponse:
    """Where typed words lead, as JSON; `scene` is the scene whose page is open."""
    typed = request.GET.get("q", "")[:_LONGEST_TYPED]
    found = destinations(request.user, typed, _open_scene(request))
    response = JsonResponse({"found": found})
    patch_cache_control(response, private=True, no_store=True)
    return response


def _open_scene(request: HttpRequest) -> Scene | None:
    """The person's own scene of that number; None without one, or for somebody else's."""
    keys = http.keys_of([request.GET.get("scene", "")])
    if not keys or not request.user.is_authenticated:
        return None
    return Scene.objects.visible_to(request.user).filter(pk__in=keys).first()
