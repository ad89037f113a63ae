"""Settings that are found for a scene."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST, require_safe
from django_htmx.http import HttpResponseClientRedirect

from rapzel.core.methods import method_of
from rapzel.core.search.limits import MOST_LIGHTS, read_limits
from rapzel.finding import searching, services
from rapzel.finding.models import Finding
from rapzel.finding.question import question_of
from rapzel.finding.results import KINDS, FoundView, SetUp
from rapzel.finding.tasks import later
from rapzel.finding.views.common import asked_of, limits_context, use
from rapzel.shoots.documents import judged
from rapzel.ui import http
from rapzel.ui.inputs.person import likes_feet
from rapzel.workbench import pictures
from rapzel.workbench.answer import Answer
from rapzel.workbench.views.common import (
    find_scene,
    kept_while_it_stands,
    login_required,
)


def _asked_before(request: HttpRequest, pk: int) -> Finding | None:
    """The search that a page asks about again; none where it is gone, as a newer question may have taken its place."""
    keys = http.keys_of([request.GET.get("search", "")])
    own = Finding.objects.visible_to(request.user).select_related("scene__shoot")
    return own.filter(scene=pk, pk__in=keys).first()


def _found(finding: Finding, imperial: bool, whole: bool) -> FoundView | None:
    """What a search found where it is done; `whole`: all of it."""
    if finding.state != Finding.State.DONE:
        return None
    if whole:
        searching.judge_all(finding)
    return FoundView(finding, imperial, whole)


@login_required
@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The whole page; only what was found where a limit was changed or a search is asked for that was under way."""
    asked = asked_of(request, pk)
    finding = _asked_before(request, pk)
    # The question is of the scene as it is now: what was found for an older one answers nothing.
    if finding is None or not finding.goes_on:
        question = question_of(asked.scene.document, asked.supply.kit, asked.limits)
        finding = searching.find(asked.scene, question, later)
    found = _found(finding, asked.imperial, "all" in request.GET)
    context = {
        **limits_context(request, asked, "find"),
        "finding": finding,
        "found": found,
    }
    if finding.state == Finding.State.RUNNING:
        # How many searches are before it: a wait that is explained is a shorter one.
        context |= {"behind": searching.waits_behind(finding), "size": asked.size}
    # A changed word swaps what was found; the sentence itself keeps the cursor.
    partly = context["changed"] or (http.is_htmx(request) and "part" in request.GET)
    return render(
        request, "finding/_found.html" if partly else "finding/find.html", context
    )


def _finding(request: HttpRequest, pk: int, finding: int) -> Finding:
    own = Finding.objects.visible_to(request.user).select_related("scene__shoot")
    return get_object_or_404(own, scene=pk, pk=finding)


@login_required
@require_POST
def cancel(request: HttpRequest, pk: int, finding: int) -> HttpResponse:
    """Stops a search."""
    searching.cancel(_finding(request, pk, finding))
    return redirect("finding:find", pk=pk)


@login_required
@require_POST
def again(request: HttpRequest, pk: int, finding: int) -> HttpResponse:
    """Searches anew what was stopped."""
    searching.again(_finding(request, pk, finding), later)
    return redirect("finding:find", pk=pk)


@login_required
@require_POST
def patiently(request: HttpRequest, pk: int, finding: int) -> HttpResponse:
    """Searches what was left out because it takes long."""
    row = _finding(request, pk, finding)
    if (
        row.state == Finding.State.DONE
        and FoundView(row, imperial=False).can_be_patient
    ):
        searching.again(row, later, patient=True)
    return redirect("finding:find", pk=pk)


@login_required
@require_POST
def relax(request: HttpRequest, pk: int, finding: int, place: int) -> HttpResponse:
    """Widens the limit of a relaxation that succeeds."""
    row = _finding(request, pk, finding)
    relaxations = (row.result or {}).get("relaxations", [])
    # A page older than the search may name a relaxation that it no longer has.
    if place >= len(relaxations):
        raise Http404
    services.keep_limits(
        request.user, row.scene, read_limits(relaxations[place]["limits"])
    )
    return redirect("finding:find", pk=pk)


def _set_up(
    request: HttpRequest, pk: int, finding: int, kind: str, place: int
) -> SetUp:
    row = _finding(request, pk, finding)
    # Set-ups have no key of their own: they stand by kind and place in what was found.
    if kind not in KINDS or place >= len((row.result or {}).get(kind, [])):
        raise Http404
    searching.judge_all(row)
    return SetUp(row, kind, place, likes_feet())


@login_required
@require_safe
def set_up(request: HttpRequest, pk: int, **which: Any) -> HttpResponse:
    """One set-up: picture, sentence, margins, what it needs and takes."""
    shown = _set_up(request, pk, **which)
    answer = Answer(shown.document, shown.imperial)
    context = {"scene": shown.finding.scene, "set_up": shown, "answer": answer}
    return render(request, "finding/set_up.html", context)


@login_required
@require_safe
def picture(request: HttpRequest, pk: int, **which: Any) -> HttpResponse:
    """The rehearsal of a set-up."""
    answer = Answer(_set_up(request, pk, **which).document)
    image, content_type = pictures.rehearsal(answer)
    response = HttpResponse(image, content_type=content_type)
    return kept_while_it_stands(request, response, answer.fingerprint)


@login_required
@require_POST
def choose(request: HttpRequest, pk: int, **which: Any) -> HttpResponse:
    """Makes a set-up the scene, or a snapshot of it."""
    chosen = _set_up(request, pk, **which)
    return use(request, chosen.finding.scene, chosen.document, chosen.name)


@login_required
@require_safe
def export_json(request: HttpRequest, pk: int, finding: int) -> HttpResponse:
    """What was found, as JSON."""
    row = _finding(request, pk, finding)
    searching.judge_all(row)
    return http.json_file(row.result or {}, f"{row.scene.name} settings")


@login_required
@require_POST
def how_many(request: HttpRequest, pk: int, light: str) -> HttpResponse:
    """How many lights of a kind are needed as everything else is set: limits of the scene's own, and a search."""
    scene = find_scene(request, pk)
    plan = judged(scene.document)
    # By its identity: the light that was meant, wherever it stands in the list by now.
    one = next((one for one in plan.lights if one.id == light), None)
    if one is None:
        raise Http404
    dials = plan.exposure
    limits, _ = services.limits_for(request.user, scene)
    # Everything is held as it is set, and the count alone is left free.
    kept = limits.model_dump(mode="json") | {
        "methods": [method_of(plan).key],
        "iso": [dials.iso, dials.iso],
        "f_number": [dials.f_number, dials.f_number],
        "shutter_s": [dials.shutter_s, dials.shutter_s],
        "distance_m": [one.distance_m, one.distance_m],
        "strobes": [one.strobe.name],
        "lights": MOST_LIGHTS,
        "order": "lights",
    }
    # Of its own, or the limits of every other scene would be narrowed with it.
    services.make_own(request.user, scene)
    services.keep_limits(request.user, scene, read_limits(kept))
    messages.info(
        request,
        "The limits of this scene are now: as it is set, and as many of this light as it takes.",
    )
    if http.is_htmx(request):
        return HttpResponseClientRedirect(reverse("finding:find", args=[pk]))
    return redirect("finding:find", pk=pk)
