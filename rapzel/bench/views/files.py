"""What goes out of a recording: the original, the numbers, the figure."""

from django.contrib.auth.decorators import login_required
from django.http import FileResponse, HttpRequest, HttpResponse
from django.views.decorators.http import require_safe

from rapzel.bench.drawings import draw_trace
from rapzel.bench.views.traces import find_trace, measured
from rapzel.core.trace.measuring.result import FIGURES
from rapzel.ui import http
from rapzel.ui.tables import to_csv


@login_required
@require_safe
def original(request: HttpRequest, pk: int) -> FileResponse:
    """The file as it came."""
    trace = find_trace(request, pk)
    return FileResponse(
        trace.file.open("rb"),
        as_attachment=True,
        filename=str(trace.file.name).rsplit("-", 1)[-1],
    )


@login_required
@require_safe
def numbers_json(request: HttpRequest, pk: int) -> HttpResponse:
    """Everything that was found."""
    trace = measured(request, pk)
    return http.json_file(trace.result, f"{trace.name} result")


@login_required
@require_safe
def numbers_csv(request: HttpRequest, pk: int) -> HttpResponse:
    """The figures of every pop, one line each, in SI."""
    trace = measured(request, pk)
    assert trace.result is not None, "held by measured"
    rows = [
        [
            number,
            *(pop[name] for name in FIGURES),
            " ".join(warning["code"] for warning in pop["warnings"]),
        ]
        for number, pop in enumerate(trace.result["pops"], start=1)
    ]
    return http.table(
        to_csv(["pop", *FIGURES, "warnings"], rows), f"{trace.name} figures"
    )


@login_required
@require_safe
def drawing(request: HttpRequest, pk: int) -> HttpResponse:
    """The figure as an SVG file that stands alone."""
    trace = measured(request, pk)
    return http.download(
        draw_trace(trace).svg.markup(paper=True),
        f"{trace.name} figure",
        "svg",
        "image/svg+xml",
    )
