"""Recordings: bringing them in, confirming how they are read, and what was found."""

from typing import Any

from django import forms
from django.conf import settings
from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.paginator import Paginator
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import (
    require_http_methods,
    require_POST,
    require_safe,
)
from django_htmx.http import HttpResponseClientRefresh

from rapzel.bench import services, waveform
from rapzel.bench.drawings import draw_trace
from rapzel.bench.forms import ROLES, UNITS, ConfirmForm
from rapzel.bench.models import Trace
from rapzel.bench.stand_in import plugged_in
from rapzel.bench.words import figure_rows
from rapzel.core.shared.errors import DocumentError
from rapzel.core.trace.reading.layout import WAYS
from rapzel.core.trace.reading.samples import TraceError
from rapzel.ui import http

MOST_FILES = 30
# A page of recordings; a bench day makes more than a screen can show.
A_PAGE = 50
MOST_OVERLAID = 8
# More curves than these cannot be told apart, by colour or otherwise.
MOST_CHANNELS = 4


def find_trace(request: HttpRequest, pk: int) -> Trace:
    """The person's own trace; 404 for anybody else's."""
    return get_object_or_404(
        Trace.objects.visible_to(request.user).select_related("strobe"), pk=pk
    )


def measured(request: HttpRequest, pk: int) -> Trace:
    """A trace with a result; 404 while there is none."""
    trace = find_trace(request, pk)
    if trace.state != Trace.State.DONE:
        raise Http404
    return trace


@login_required
@require_safe
def trace_list(request: HttpRequest) -> HttpResponse:
    """All recordings with their figures."""
    every = (
        Trace.objects.visible_to(request.user)
        .select_related("strobe")
        # Both are large, and the list shows neither.
        .defer("layout", "result")
    )
    page = Paginator(every, A_PAGE).get_page(request.GET.get("page"))
    context = {
        "traces": page,
        "page": page,
        "simulator": bool(settings.BENCH_SIMULATOR),
        "stand_in": plugged_in(),
    }
    return render(request, "bench/list.html", context)


@login_required
@require_POST
def bring_in(request: HttpRequest) -> HttpResponse:
    """Stores recordings; one leads to its confirmation, several to the list. Each file stands for itself."""
    # No file at all goes the same way, and is answered in the same words.
    files: list[Any] = [*request.FILES.getlist("file")] or [None]
    if len(files) > MOST_FILES:
        messages.error(
            request,
            f"{len(files)} files at once are too many; bring in up to {MOST_FILES} at a time.",
        )
        return redirect("bench:list")
    added: list[Trace] = []
    for upload in files:
        try:
            # One bad file of thirty does not throw the other twenty-nine away.
            added.append(services.bring_in(request.user, upload))
        except TraceError as error:
            messages.error(
                request,
                f"{upload.name if upload else 'Nothing'} was not imported: {error}",
            )
    if len(added) == 1:
        return redirect("bench:confirm", pk=added[0].pk)
    if added:
        messages.info(request, f"{len(added)} recordings wait to be confirmed.")
    return redirect("bench:list")


@login_required
@require_http_methods(["GET", "HEAD", "POST"])
def confirm(request: HttpRequest, pk: int) -> HttpResponse:
    """What was recognised, to be corrected; confirming queues the measuring."""
    trace = find_trace(request, pk)
    # Another delimiter makes other columns, so the recognition begins again from the file.
    if request.POST.get("way") in WAYS and not trace.busy:
        try:
            services.read_again(trace, request.POST["way"])
        except TraceError as error:
            messages.error(request, f"Not read so: {error}")
        return redirect("bench:confirm", pk=pk)
    form = ConfirmForm(request.POST or None, trace=trace, owner=request.user)
    if request.method == "POST" and form.is_valid():
        try:
            layout = form.confirmed()
        except forms.ValidationError as error:
            # A layout that cannot be read concerns several fields, and is told above them.
            form.add_error(None, error)
        else:
            trace.name = form.cleaned_data["name"]
            trace.save(update_fields=["name"])
            services.confirm(
                trace, layout, form.cleaned_data["channel"], form.cleaned_data
            )
            return redirect("bench:trace", pk=pk)
    context = {
        "trace": trace,
        "form": form,
        "roles": ROLES,
        "units": UNITS,
        "ways": WAYS,
    }
    return render(
        request, "bench/confirm.html", context, status=422 if form.errors else 200
    )


@login_required
@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """One recording: its state, its figures, its curve."""
    trace = find_trace(request, pk)
    # Nothing is measured before a person has said what the columns are.
    if trace.state == Trace.State.NEW:
        return redirect("bench:confirm", pk=pk)
    # The progress asks; once the background has answered the whole page is another one.
    if http.is_htmx(request):
        if trace.busy:
            return render(request, "bench/_progress.html", {"trace": trace})
        return HttpResponseClientRefresh()
    context: dict[str, Any] = {"trace": trace}
    if trace.state == Trace.State.DONE:
        others = (
            Trace.objects.visible_to(request.user)
            .filter(state=Trace.State.DONE)
            # (to lay over this one; itself it would cover)
            .exclude(pk=pk)
        )
        context |= {
            "figures": figure_rows(trace.result or {}),
            "drawing": draw_trace(trace),
            "usable": services.is_usable(trace),
            "question": services.unusual(trace),
            "others": others.only("pk", "name")[:50],
            "pops": range(len((trace.result or {})["segments"])),
        }
    return render(request, "bench/trace.html", context)


@login_required
@require_POST
def cancel(request: HttpRequest, pk: int) -> HttpResponse:
    """Asks the background to stop."""
    services.cancel(find_trace(request, pk))
    return redirect("bench:trace", pk=pk)


@login_required
@require_POST
def apply(request: HttpRequest) -> HttpResponse:
    """Puts chosen measurements into their strobe's table, all or none."""
    chosen = http.keys_of(request.POST.getlist("trace"))
    traces = list(
        Trace.objects.visible_to(request.user)
        .select_related("strobe")
        .filter(pk__in=chosen)
    )
    try:
        # “Sure” answers the question that an unusual figure puts; without it nothing is stored.
        strobe = services.apply(traces, sure=request.POST.get("sure") == "1")
    except DocumentError as error:
        http.say_problems(request, "Nothing was applied.", error)
        if len(traces) == 1:
            return redirect("bench:trace", pk=traces[0].pk)
        return redirect("bench:list")
    if len(traces) == 1:
        counted = "1 measurement is"
    else:
        counted = f"{len(traces)} measurements are"
    words = f"{counted} in the table of {strobe.name}."
    http.say_undo(request, words, reverse("kit:undo_table", args=[strobe.pk]))
    return redirect("kit:edit", slug="strobes", pk=strobe.pk)


def _seconds(request: HttpRequest, name: str) -> float | None:
    try:
        value = float(request.GET.get(name, ""))
    except ValueError:
        return None
    # An infinity or a NaN from the address would get as far as the decimation.
    if abs(value) < 1e9:
        return value
    return None


def _measured_first(result: dict[str, Any]) -> list[int]:
    measured_one = result["channel_number"]
    return sorted(
        range(len(result["channels"])), key=lambda place: place != measured_one
    )


@login_required
@require_safe
def data(request: HttpRequest, pk: int) -> HttpResponse:
    """Curves for the plot, decimated: the channels between `from` and `to`, or with `over` several pops aligned.

    The measured channel comes first: the cursors tell its level, and its colour is the light's.
    """
    trace = measured(request, pk)
    assert trace.result is not None, "held by measured"
    over = http.keys_of(request.GET.getlist("over"))[:MOST_OVERLAID]
    if over:
        others = Trace.objects.visible_to(request.user).filter(
            pk__in=over, state=Trace.State.DONE
        )
        # The recording of the page comes first, so that it keeps its colour.
        chosen = [trace, *(other for other in others if other.pk != pk)]
        pops = [{"name": each.name, **waveform.aligned(each)} for each in chosen]
        return JsonResponse({"aligned": pops, "unit": "%"})
    segment = min(
        # A sweep that does not exist is the nearest one that does; the plot never stays empty.
        max(int(_seconds(request, "segment") or 0), 0),
        len(trace.result["segments"]) - 1,
    )
    span = (_seconds(request, "from"), _seconds(request, "to"))
    curves = [
        {
            "name": trace.result["channels"][place],
            **waveform.curve(trace, segment, place, *span),
        }
        for place in _measured_first(trace.result)[:MOST_CHANNELS]
    ]
    return JsonResponse({"curves": curves, "unit": trace.result["unit"]})


@login_required
@require_POST
def remove(request: HttpRequest, pk: int) -> HttpResponse:
    """Puts a recording away; the list offers to take it back."""
    http.put_away(
        request, find_trace(request, pk), reverse("bench:take_back", args=[pk])
    )
    return redirect("bench:list")


@login_required
@require_POST
def take_back(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes a removed recording back."""
    trace = get_object_or_404(Trace.objects.put_away_by(request.user), pk=pk)
    trace.take_back()
    messages.info(request, f"“{trace.name}” is back.")
    return redirect("bench:list")
