"""Calibrating a camera's curtains from test frames of a plain wall. The picture stays in the browser."""

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from rapzel.bench.forms import FRAMES, CurtainForm
from rapzel.core.shared import units
from rapzel.core.shutter.calibrate import Calibration, CalibrationError, calibrated
from rapzel.kit import services as kit
from rapzel.kit.models import Camera
from rapzel.ui import http


def _answered(form: CurtainForm) -> tuple[Calibration | None, str]:
    """What the frames say, or what is wrong with them; nothing of an empty form."""
    if not form.is_valid() or not form.bands:
        return None, ""
    try:
        return calibrated(
            form.bands, form.cleaned_data["latency"], form.cleaned_data["pulse"] or 0.0
        ), ""
    except CalibrationError as error:
        return None, str(error)


@login_required
@require_safe
def page(request: HttpRequest) -> HttpResponse:
    """The frames and what they say; what was entered stands in the address, so that nothing is lost."""
    form = CurtainForm(request.GET or None)
    found, wrong = _answered(form)
    cameras = Camera.objects.visible_to(request.user)
    context = {
        "form": form,
        "found": found,
        "wrong": wrong,
        "cameras": cameras,
        "frames": FRAMES,
    }
    partly = http.is_htmx(request)
    return render(
        request, "bench/_curtains.html" if partly else "bench/curtains.html", context
    )


@login_required
@require_POST
def store(request: HttpRequest) -> HttpResponse:
    """Stores the travel in a camera, with its doubt."""
    found, wrong = _answered(CurtainForm(request.POST))
    keys = http.keys_of([request.POST.get("camera", "")])
    camera = get_object_or_404(Camera.objects.visible_to(request.user), pk__in=keys)
    if found is None:
        return http.notice(request, wrong or "Give the frames first.")
    if camera.curtain_travel_s:
        before = units.format_time(camera.curtain_travel_s)
    else:
        before = "not known"
    kept = kit.store_travel(
        camera, round(found.travel_s, 9), round(found.travel_sd_s, 9), found.first_edge
    )
    says = f"{camera.name}: curtain travel {units.format_time(found.travel_s)}. It was {before}."
    http.say_undo(request, says, reverse("kit:undo_figures", args=[kept.pk]))
    return redirect("kit:edit", slug="cameras", pk=camera.pk)
