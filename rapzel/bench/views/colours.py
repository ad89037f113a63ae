"""The colour bench: frames of a grey card, judged pop by pop, into the strobe's table."""

from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import (
    require_http_methods,
    require_POST,
    require_safe,
)
from django_htmx.http import HttpResponseClientRefresh

from rapzel.bench import services
from rapzel.bench.chroma import ENLARGED, draw_path, draw_swatches
from rapzel.bench.drawings import draw_colours
from rapzel.bench.forms import ColourForm
from rapzel.bench.models import ColourRun, State
from rapzel.core.colour.grey_card import FrameError
from rapzel.core.shared.errors import DocumentError
from rapzel.ui import http
from rapzel.ui.tables import to_csv


def find_run(request: HttpRequest, pk: int) -> ColourRun:
    """The person's own run; 404 for anybody else's."""
    return get_object_or_404(
        ColourRun.objects.visible_to(request.user).select_related("strobe"), pk=pk
    )


@login_required
@require_http_methods(["GET", "HEAD", "POST"])
def colours(request: HttpRequest) -> HttpResponse:
    """All runs, and frames for a new one."""
    form = ColourForm(request.POST or None, owner=request.user)
    if request.method == "POST" and form.is_valid():
        try:
            run = services.bring_in_frames(
                request.user, request.FILES.getlist("frame"), form.cleaned_data
            )
        except FrameError as error:
            # Said above the form, with all that was typed still in it; only the files are to be
            # chosen anew.
            form.add_error(None, str(error))
        else:
            return redirect("bench:colour", pk=run.pk)
    # The newest two hundred: who has more looks for a strobe's page.
    runs = ColourRun.objects.visible_to(request.user).select_related("strobe")[:200]
    if form.errors:
        status = 422
    else:
        status = 200
    return render(
        request, "bench/colours.html", {"form": form, "runs": runs}, status=status
    )


@login_required
@require_safe
def colour(request: HttpRequest, pk: int) -> HttpResponse:
    """One run: its state, and each pop against the mean."""
    run = find_run(request, pk)
    if http.is_htmx(request):
        if run.busy:
            return render(request, "bench/_colour_progress.html", {"run": run})
        # Measured meanwhile: the whole page is another one.
        return HttpResponseClientRefresh()
    context: dict[str, Any] = {"run": run, "drawing": None}
    if run.state == State.DONE:
        context |= {
            "drawing": draw_colours(run),
            "swatches": draw_swatches(run),
            "path": draw_path(run),
            # Differences that no eye sees are shown enlarged as well, and said to be so.
            "enlarged": draw_swatches(run, ENLARGED),
        }
    return render(request, "bench/colour.html", context)


@login_required
@require_safe
def colour_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """The pops as CSV."""
    run = find_run(request, pk)
    # A run that is still measured, or was stopped, has no pops to write down.
    if run.result is None:
        raise Http404
    names = (
        "name",
        "power",
        "cct_k",
        "duv",
        "delta_e00",
        "mired_shift",
        "exposure_stops",
        "beyond",
    )
    rows = [[frame[name] for name in names] for frame in run.result["frames"]]
    return http.table(to_csv(names, rows), f"{run.name} colours")


@login_required
@require_POST
def colour_cancel(request: HttpRequest, pk: int) -> HttpResponse:
    """Asks the background to stop."""
    services.cancel(find_run(request, pk))
    return redirect("bench:colour", pk=pk)


@login_required
@require_POST
def colour_apply(request: HttpRequest, pk: int) -> HttpResponse:
    """Puts the colours into the strobe's table."""
    run = find_run(request, pk)
    try:
        strobe = services.apply_colour(run)
    except DocumentError as error:
        http.say_problems(request, "Nothing was applied.", error)
        return redirect("bench:colour", pk=pk)
    http.say_undo(
        request,
        f"The colours are in the table of {strobe.name}.",
        reverse("kit:undo_table", args=[strobe.pk]),
    )
    return redirect("kit:edit", slug="strobes", pk=strobe.pk)


@login_required
@require_POST
def colour_remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Puts a run away; the list offers to take it back."""
    http.put_away(
        request, find_run(request, pk), reverse("bench:colour_back", args=[pk])
    )
    return redirect("bench:colours")


@login_required
@require_POST
def colour_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes a removed run back."""
    get_object_or_404(ColourRun.objects.put_away_by(request.user), pk=pk).take_back()
    return redirect("bench:colours")
