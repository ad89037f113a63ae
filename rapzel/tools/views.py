"""Tools on their own and beside a scene: the page, its answer as a part, JSON and CSV out, JSON in, results pinned."""

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import (
    require_http_methods,
    require_POST,
    require_safe,
)
from django_htmx.http import push_url

from rapzel.core.evaluate import evaluate
from rapzel.core.shared.errors import CoreError, DocumentError
from rapzel.core.tools import TOOLS, Tool, answered, ask
from rapzel.shoots import services
from rapzel.shoots.documents import judged
from rapzel.shoots.models import Scene
from rapzel.tools import questions
from rapzel.tools.drawings import DRAWINGS
from rapzel.tools.forms import ToolForm
from rapzel.ui import http
from rapzel.ui.tables import to_csv


def _tool(slug: str) -> Tool:
    if slug not in TOOLS:
        raise Http404
    return TOOLS[slug]


def _scene(request: HttpRequest, pk: int | None) -> Scene | None:
    if pk is None:
        return None
    return get_object_or_404(
        Scene.objects.visible_to(request.user).select_related("shoot"), pk=pk
    )


def _begins_with(tool: Tool, scene: Scene | None) -> dict[str, Any]:
    """What the inputs show first: what the scene says, and what the tool begins with for the rest."""
    defaults = {
        name: info.default
        # What has to be said has no default; the tool's beginning gives an example of it.
        for name, info in tool.asks.model_fields.items()
        if not info.is_required()
    }
    given = defaults | dict(tool.beginning)
    if scene is not None:
        known = judged(scene.document)
        # What the scene knows comes last, so that it wins over example and default.
        given |= tool.from_scene(known, evaluate(known))
    return given


def _lacking(tool: Tool, scene: Scene | None) -> str:
    """What the scene lacks for this tool, in words."""
    if scene is None:
        return ""
    return tool.lacks(judged(scene.document))


def _form(request: HttpRequest, tool: Tool, scene: Scene | None) -> ToolForm:
    """The inputs as they were sent, else as they begin; what was not sent keeps what it begins with."""
    begins = _begins_with(tool, scene)
    fields = ToolForm(tool).fields
    texts = {
        name: field.prepare_value(begins.get(name)) for name, field in fields.items()
    }
    # From the form, the address, or a stored question that a short address stands for.
    given = questions.sent_in(request, tool.slug)
    sent = {name: value for name, value in given.items() if name in fields}
    # Always bound: a page that was only opened has an answer, too.
    return ToolForm(tool, data={**texts, **sent}, initial=begins)


def _answer(request: HttpRequest, form: ToolForm) -> dict[str, Any]:
    """What the answer's template needs; no answer where an input is refused."""
    if not form.is_valid():
        return {"form": form, "says": "", "drawing": None, "lists": []}
    answer = form.tool.solve(form.asked)
    # Not every tool has something to draw.
    draw = DRAWINGS.get(form.tool.slug)
    return {
        "form": form,
        "says": form.tool.says(form.asked, answer),
        "drawing": draw(form.asked, answer) if draw else None,
        "lists": form.tool.lists(form.asked, answer),
        "query": questions.query_of(request, form.tool.slug, _texts(form)),
    }


def _texts(form: ToolForm) -> dict[str, str]:
    """The inputs as they are written."""
    return {name: str(form.data[name]) for name in form.fields}


@login_required
@require_safe
def index(request: HttpRequest, pk: int | None = None) -> HttpResponse:
    """The tools there are, for themselves or for a scene."""
    return render(
        request,
        "tools/list.html",
        {"tools": TOOLS.values(), "scene": _scene(request, pk)},
    )


@login_required
@require_http_methods(["GET", "HEAD", "POST"])
def page(request: HttpRequest, slug: str, pk: int | None = None) -> HttpResponse:
    """A tool with its inputs and its answer; for htmx the answer alone, with the address that asks this again.

    Asked by POST, since rows of inputs grow longer than an address may be.
    """
    tool, scene = _tool(slug), _scene(request, pk)
    answer = _answer(request, _form(request, tool, scene))
    context = {"tool": tool, "scene": scene, "lacking": _lacking(tool, scene), **answer}
    # Without scripts the form is an ordinary one and its answer the whole page.
    if not http.is_htmx(request):
        return render(request, "tools/page.html", context)
    response = render(request, "tools/_answer.html", context)
    if "query" not in answer:
        return response  # what is refused has no address of its own
    # The address asks the same again, so that an answer can be kept as a bookmark or sent.
    return push_url(response, f"{request.path}?{answer['query']}")


def _asked(request: HttpRequest, tool: Tool) -> Any:
    """The inputs of a request as the core reads them. Raises DocumentError with what is wrong."""
    # A file says what was asked in full, so that the scene it came from is not needed.
    form = _form(request, tool, None)
    if form.is_valid():
        return form.asked
    said = [
        f"{form[name].label if name in form.fields else 'Inputs'}: {error}"
        for name, all_ in form.errors.items()
        for error in all_
    ]
    raise CoreError(" ".join(said))


@login_required
@require_safe
def as_json(request: HttpRequest, slug: str) -> HttpResponse:
    """What is asked and what is answered, as a JSON file in SI."""
    tool = _tool(slug)
    asked = _asked(request, tool)
    document = {
        "tool": tool.slug,
        "in": asked.model_dump(mode="json"),
        "out": answered(tool, asked),
    }
    return http.json_file(document, tool.title)


@login_required
@require_POST
def ask_in_json(request: HttpRequest, slug: str) -> HttpResponse:
    """The answer to a JSON document of inputs in SI, as JSON; what is wrong with it as a list of problems."""
    try:
        document = http.parse_json(http.body_of(request))
        return JsonResponse(ask(_tool(slug), document))
    except DocumentError as error:
        problems = [
            {"path": problem.path, "reason": problem.reason}
            for problem in error.problems
        ]
        return JsonResponse({"problems": problems}, status=422)


@login_required
@require_safe
def as_csv(request: HttpRequest, slug: str) -> HttpResponse:
    """The rows that the drawing shows, in SI."""
    tool = _tool(slug)
    header, rows = tool.table(_asked(request, tool))
    return http.table(to_csv(header, rows), tool.title)


@login_required
@require_safe
def as_svg(request: HttpRequest, slug: str) -> HttpResponse:
    """The drawing as a file that stands alone."""
    tool = _tool(slug)
    if slug not in DRAWINGS:
        raise Http404
    asked = _asked(request, tool)
    markup = DRAWINGS[slug](asked, tool.solve(asked)).svg.markup(paper=True)
    return http.download(markup, tool.title, "svg", "image/svg+xml")


@require_safe
def schema(request: HttpRequest, slug: str) -> HttpResponse:
    """The published JSON Schema of a tool."""
    return http.schema(_tool(slug).schema())


@login_required
@require_POST
def bring_in(request: HttpRequest, slug: str) -> HttpResponse:
    """Opens a tool with the inputs of a JSON file: what it was asked, or a whole answer that was taken out."""
    tool = _tool(slug)
    address = reverse("tools:page", args=[slug])
    try:
        document = http.parse_json(http.read_text(request.FILES.get("file")))
        if isinstance(document, dict) and isinstance(document.get("in"), dict):
            # A whole answer brings its question along; the answer is worked out anew.
            inside = document.get("in")
        else:
            inside = document
        # Checked by the tool's own class before anything becomes text in an input.
        asked = tool.read(inside)
    except CoreError as error:
        http.say_problems(request, "The file was not opened.", error)
        return redirect(address)
    given = asked.model_dump()
    texts = {
        name: str(field.prepare_value(given[name]))
        for name, field in ToolForm(tool).fields.items()
    }
    return redirect(f"{address}?{questions.query_of(request, slug, texts)}")


@login_required
@require_POST
def pin(request: HttpRequest, slug: str, pk: int) -> HttpResponse:
    """Keeps what a tool says with the scene; undo of the scene takes it back."""
    tool, scene = _tool(slug), _scene(request, pk)
    assert scene is not None
    form = ToolForm(tool, data=request.POST)
    if not form.is_valid():
        messages.error(request, "Nothing was pinned: an input is not a value yet.")
    else:
        answer = tool.solve(form.asked)
        result = {
            "tool": tool.slug,
            "says": tool.says(form.asked, answer),
            # Kept with its question: a sentence alone could not be checked later.
            "asked": form.asked.model_dump(mode="json"),
            "answer": answer.model_dump(mode="json"),
        }
        services.pin_result(scene, result)
        messages.info(request, f"Pinned to “{scene.name}”.")
    return redirect("tools:for_scene", pk=pk, slug=slug)


@login_required
@require_POST
def use(request: HttpRequest, slug: str, pk: int) -> HttpResponse:
    """Makes what a tool was asked and says the scene's own; undo of the scene takes it back."""
    tool, scene = _tool(slug), _scene(request, pk)
    assert scene is not None
    # Most tools only tell; a scene has no place for what they answer.
    if tool.to_scene is None:
        raise Http404
    form = ToolForm(tool, data=request.POST)
    if not form.is_valid():
        messages.error(
            request, "The scene was not changed: an input is not a value yet."
        )
        return redirect("tools:for_scene", pk=pk, slug=slug)
    values = tool.to_scene(judged(scene.document), form.asked)
    try:
        services.change_scene(scene, values, tool.title.lower())
        messages.info(request, f"“{scene.name}” has it now.")
    except DocumentError as error:
        http.say_problems(request, "The scene was not changed.", error)
    return redirect("tools:for_scene", pk=pk, slug=slug)


@login_required
@require_POST
def unpin(request: HttpRequest, pk: int, result: str) -> HttpResponse:
    """Takes a pinned result off the scene; undo of the scene brings it back."""
    scene = _scene(request, pk)
    assert scene is not None
    services.unpin_result(scene, result)
    return redirect("tools:scene_index", pk=pk)
