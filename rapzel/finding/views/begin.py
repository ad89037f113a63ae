"""What moves? The page that a shoot, or one more scene, begins with."""

import io

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.cache import patch_cache_control
from django.views.decorators.http import require_POST, require_safe
from PIL import Image

from rapzel.core.subjects.drawn import portrait
from rapzel.finding.beginning import BEGINNINGS, Beginning, begin
from rapzel.shoots.models import Shoot
from rapzel.ui import http
from rapzel.workbench.views.common import login_required

_SIZE = (300, 200)


def _beginning(key: str) -> Beginning:
    if key not in BEGINNINGS:
        raise Http404
    return BEGINNINGS[key]


def _shoot(request: HttpRequest, text: str) -> Shoot | None:
    """The shoot that a scene is to be added to; None for a new one, 404 for somebody else's."""
    keys = http.keys_of([text])
    if not text:
        return None
    return get_object_or_404(Shoot.objects.visible_to(request.user), pk__in=keys)


@login_required
@require_safe
def page(request: HttpRequest) -> HttpResponse:
    """The motions as pictures."""
    shoot = _shoot(request, request.GET.get("shoot", ""))
    context = {"beginnings": BEGINNINGS.values(), "shoot": shoot}
    return render(request, "finding/begin.html", context)


@login_required
@require_POST
def choose(request: HttpRequest, key: str) -> HttpResponse:
    """Makes the scene of a motion and opens it."""
    begun = begin(
        request.user, _beginning(key), _shoot(request, request.POST.get("shoot", ""))
    )
    if begun.with_starter:
        messages.info(
            request,
            "Your kit has no lights yet: these are the starter's. Put your own in their place in Lights.",
        )
    return redirect("workbench:scene", pk=begun.scene.pk)


@login_required
@require_safe
def picture(request: HttpRequest, key: str) -> HttpResponse:
    """The drawn subject of a motion."""
    out = io.BytesIO()
    Image.fromarray(portrait(_beginning(key).subject, *_SIZE)).save(out, "PNG")
    response = HttpResponse(out.getvalue(), content_type="image/png")
    patch_cache_control(response, private=True, max_age=3600)
    return response
