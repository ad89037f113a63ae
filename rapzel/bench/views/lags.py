"""The lag bench: from a trigger signal or a sound to the light, and into the kit as a measured lag."""

from typing import TYPE_CHECKING, Any

import numpy as np
from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe

from rapzel.bench.drawings import draw_histogram
from rapzel.bench.models import Trace
from rapzel.bench.views.traces import measured
from rapzel.bench.waveform import recording_of
from rapzel.core.shared import units
from rapzel.core.trace.reading.samples import TraceError
from rapzel.kit import services as kit
from rapzel.kit.kinds import KINDS
from rapzel.kit.models import Camera, Trigger
from rapzel.ui import http

if TYPE_CHECKING:
    from rapzel.core.trace.measuring.lags import LagResult

TARGETS: dict[str, Any] = {"trigger": Trigger, "camera": Camera}


# How a body stood when it was measured: the difference from its plain lag is what that saves, or adds.
STATES = (
    ("", "as it is"),
    ("mirror_s", "of a camera, with the mirror up"),
    ("first_curtain_s", "of a camera, with the electronic first curtain"),
    ("wake_s", "of a camera that was asleep"),
)


def _place(request: HttpRequest, name: str, default: int) -> int:
    text = request.GET.get(name) or request.POST.get(name) or ""
    return next(iter(http.keys_of([text])), default)


def _lags(
    request: HttpRequest, trace: Trace
) -> "tuple[LagResult | None, str, int, int]":
    assert trace.result is not None, "held by measured"
    light = _place(request, "light", trace.result["channel_number"])
    other = next(
        (place for place in range(len(trace.result["channels"])) if place != light),
        light,
    )
    event = _place(request, "event", other)
    from rapzel.core.trace.measuring.lags import measure_lags  # noqa: PLC0415  signal processing, for this page alone

    try:
        return measure_lags(recording_of(trace), event, light), "", event, light
    except TraceError as error:
        return None, str(error), event, light


@login_required
@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """Lag, jitter and their histogram of one recording with two channels."""
    trace = measured(request, pk)
    found, wrong, event, light = _lags(request, trace)
    context: dict[str, Any] = {
        "trace": trace,
        "found": found,
        "wrong": wrong,
        "event": event,
        "light": light,
        "channels": list(enumerate((trace.result or {})["channels"])),
        "targets": [
            (f"{key}:{item.pk}", item.name)
            for key, model in TARGETS.items()
            for item in model.objects.visible_to(request.user)
        ],
        "states": STATES,
    }
    if found:
        context["drawing"] = draw_histogram(found)
    return render(request, "bench/lag.html", context)


@login_required
@require_POST
def store(request: HttpRequest, pk: int) -> HttpResponse:
    """Stores the lag in a trigger or a camera, as measured."""
    trace = measured(request, pk)
    key, _, target = request.POST.get("target", "").partition(":")
    if key not in TARGETS:
        raise Http404
    item = get_object_or_404(
        TARGETS[key].objects.visible_to(request.user), pk__in=http.keys_of([target])
    )
    found, wrong, _, _ = _lags(request, trace)
    if found is None:
        messages.error(request, wrong)
        return redirect("bench:lag", pk=pk)
    state = request.POST.get("state", "")
    if state and isinstance(item, Camera):
        return _store_share(request, trace, item, state, found.mean_s)
    if item.lag_s is None:
        before = "not known"
    else:
        before = units.format_time(item.lag_s)
    jitter = float(np.round(found.jitter_s or 0.0, 9))
    kept = kit.store_lag(
        KINDS[f"{key}s"], item, float(np.round(found.mean_s, 9)), jitter, found.lags_s
    )
    says = f"{item.name}: lag {units.format_time(found.mean_s)}, measured. It was {before}."
    http.say_undo(request, says, reverse("kit:undo_figures", args=[kept.pk]))
    return redirect("kit:edit", slug=f"{key}s", pk=item.pk)


def _store_share(
    request: HttpRequest, trace: Trace, camera: Camera, state: str, lag_s: float
) -> HttpResponse:
    """Stores what a state of a body takes off its plain lag, or adds to it."""
    if state not in dict(STATES):
        raise Http404
    if camera.lag_s is None:
        messages.error(
            request,
            f"Measure {camera.name} as it is first: what this state changes is not known without.",
        )
        return redirect("bench:lag", pk=trace.pk)
    if state == "wake_s":
        share = lag_s - camera.lag_s
    else:
        share = camera.lag_s - lag_s
    if share < 0:
        if state == "wake_s":
            way = "quicker"
        else:
            way = "slower"
        says = f"{camera.name} was {way} than as it is: nothing was stored. Check which state this was."
        messages.error(request, says)
        return redirect("bench:lag", pk=trace.pk)
    values = {state: round(share, 9)}
    kept = kit.store_figures(KINDS["cameras"], camera, values, "a measured state")
    says = f"{camera.name}, {dict(STATES)[state].split(', ')[-1]}: {units.format_time(share)}, measured."
    http.say_undo(request, says, reverse("kit:undo_figures", args=[kept.pk]))
    return redirect("kit:edit", slug="cameras", pk=camera.pk)
