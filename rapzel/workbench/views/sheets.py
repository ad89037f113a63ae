"""The run sheet: on paper, as PDF, and on a phone."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.views.decorators.http import require_safe

from rapzel.ui import http
from rapzel.workbench.views.common import answer_of, find_scene, login_required

TEST_ORDER = (
    (
        "Stand-in and focus point",
        "Somebody stands where the action will be; focus by hand on the spot and leave it.",
    ),
    (
        "Black frame",
        "No flash: the frame must be as dark as planned. It shows the room and any ghost.",
    ),
    (
        "Flash only",
        "Room dark or as it is, subject still: exposure and pattern of the lights.",
    ),
    ("Both, subject still", "Exposure holds, no band, no gradient towards one side."),
    (
        "Trigger dry run",
        "A stick or a hand in place of the event: it fires once, when it should.",
    ),
    ("Slow action", "Half speed: framing, focus and timing."),
    ("Takes", "One knob at a time. Log each try."),
)


@login_required
@require_safe
def run_sheet(request: HttpRequest, pk: int) -> HttpResponse:
    """The run sheet for paper; `?phone` gives the one for a phone."""
    scene = find_scene(request, pk)
    context = {
        "scene": scene,
        "answer": answer_of(request, scene),
        "test_order": TEST_ORDER,
    }
    # On a narrow screen the strip leads to the sheet for a phone; the one for paper is asked for there.
    narrow = request.COOKIES.get("narrow") == "1" and "paper" not in request.GET
    if narrow or "phone" in request.GET:
        name = "workbench/sheet_phone.html"
    else:
        name = "workbench/sheet.html"
    return render(request, name, context)


@login_required
@require_safe
def run_sheet_pdf(request: HttpRequest, pk: int) -> HttpResponse:
    """The run sheet as a PDF of one page."""
    from rapzel.workbench.pdf import to_pdf  # noqa: PLC0415  the typesetter is loaded by the first who wants paper

    scene = find_scene(request, pk)
    context = {
        "scene": scene,
        "answer": answer_of(request, scene),
        "test_order": TEST_ORDER,
    }
    page = render_to_string("workbench/sheet_pdf.html", context)
    return http.download(
        to_pdf(page), f"{scene.name} run sheet", "pdf", "application/pdf"
    )
