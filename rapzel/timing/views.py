"""The timing page of a scene. Its inputs are saved like the workbench's; what follows a change is `page`'s."""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST, require_safe

from rapzel.core.shared import units
from rapzel.core.trace.reading.samples import LARGEST_FILE, TraceError
from rapzel.shoots import services
from rapzel.timing.drawings.loudness import draw_loudness
from rapzel.timing.page import GROUPS, TimingPage, context_of
from rapzel.ui import http
from rapzel.ui.drawing import Drawing
from rapzel.workbench import pictures
from rapzel.workbench.views.common import (
    answer_of,
    find_scene,
    inputs_context,
    kept_while_it_stands,
    login_required,
    respond,
)

_DRAWINGS = {"lanes": "lanes", "beam": "beam_plan", "sound": "sound_plan"}
# of a unit that does not say its own, said beside what is counted with it (memory)
_USUAL_LOCKOUT_S = 0.1


@login_required
@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """Chain, sensor and moment of a scene."""
    scene = find_scene(request, pk)
    answer = answer_of(request, scene)
    context = context_of(request, scene, answer)
    context |= inputs_context(request, scene, answer, GROUPS)
    return render(request, "timing/page.html", context)


@login_required
@require_safe
def picture(request: HttpRequest, pk: int) -> HttpResponse:
    """The rehearsal with the outlines of where the subject is, and may be, when the light comes."""
    answer = answer_of(request, find_scene(request, pk))
    if "draft" in request.GET:
        size = "draft"
    else:
        size = "whole"
    image, content_type = pictures.rehearsal(answer, size=size, marked=True)
    response = HttpResponse(image, content_type=content_type)
    return kept_while_it_stands(request, response, answer.fingerprint)


@login_required
@require_safe
def drawing(request: HttpRequest, pk: int, name: str) -> HttpResponse:
    """One of the page's drawings as a file that stands alone."""
    scene = find_scene(request, pk)
    shown = TimingPage(scene, answer_of(request, scene))
    found: Drawing | None = (
        # A scene without a beam has no plan of one: not found, like a name that is none.
        getattr(shown, _DRAWINGS[name]) if name in _DRAWINGS else None
    )
    if found is None:
        raise Http404
    return http.download(
        found.svg.markup(paper=True), f"{scene.name} {name}", "svg", "image/svg+xml"
    )


@login_required
@require_POST
def use_finger(request: HttpRequest, pk: int) -> HttpResponse:
    """Puts what the person's last drill says in the place of the chain's finger."""
    scene = find_scene(request, pk)
    shown = TimingPage(scene, answer_of(request, scene))
    # The chain may have been changed in another tab since the button was drawn.
    if shown.finger is None or shown.drill is None:
        return http.notice(
            request, "There is no finger in this chain, or no drill of its way yet."
        )
    at, result = f"trigger.links[#{shown.finger.id}]", shown.drill.result
    values = {
        f"{at}.lag_s": result.bias_s,
        f"{at}.jitter_s": result.spread_s,
        f"{at}.lag_provenance": "measured",
        f"{at}.jitter_shape": "normal",
    }
    found = services.change_scene(scene, values, "the finger of a drill")
    return respond(request, scene, structural=True, found=found)


@login_required
@require_POST
def recording(request: HttpRequest, pk: int) -> HttpResponse:
    """What a recording of the event says of microphone and threshold; nothing of it is kept."""
    from rapzel.core.trace.measuring.loudness import analyse_file  # noqa: PLC0415  its reader, for this page alone

    scene = find_scene(request, pk)
    shown = TimingPage(scene, answer_of(request, scene))
    upload, context = (
        request.FILES.get("file"),
        dict[str, Any](scene=scene, sound=shown.sound),
    )
    try:
        if upload is None:
            raise TraceError("Choose a WAV recording of the event first.")
        if (upload.size or 0) > LARGEST_FILE:
            raise TraceError(
                f"{upload.name} has {(upload.size or 0) / 2**20:.0f} MB; up to 100 MB are read."
            )
        if shown.lockout_s is None:
            # Echoes are counted up to where the unit answers again; its time is said beside them.
            deaf_s = _USUAL_LOCKOUT_S
        else:
            deaf_s = shown.lockout_s
        found = analyse_file(upload.read(), deaf_s)
        context |= {
            "found": found,
            "drawing": draw_loudness(found),
            "deaf": units.format_time(deaf_s),
        }
        # Only a recording that crosses the threshold says how long it takes to.
        if found.to_threshold_s is not None:
            context["rise"] = units.format_time(found.to_threshold_s)
    except TraceError as error:
        context["wrong"] = str(error)
    return render(request, "timing/_recording.html", context)
