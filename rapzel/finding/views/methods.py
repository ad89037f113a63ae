"""The methods side by side."""

from typing import Any

from django.contrib import messages
from django.core.signing import BadSignature, Signer
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.safestring import SafeString
from django.views.decorators.http import require_POST, require_safe

from rapzel.core.search.cheap import cheap_answers
from rapzel.finding.comparing import (
    MethodsPage,
    keep_set_ups,
    kept_set_up,
    methods_page,
)
from rapzel.finding.question import question_of
from rapzel.finding.views.common import PageQuestion, asked_of, limits_context, use
from rapzel.shoots.documents import judged
from rapzel.shoots.services import change_scene
from rapzel.ui import http
from rapzel.ui.inputs.person import likes_feet
from rapzel.ui.lanes import LANE
from rapzel.ui.parts import kept, key_of, written_once
from rapzel.workbench import pictures
from rapzel.workbench.answer import Answer
from rapzel.workbench.views.common import (
    find_scene,
    kept_while_it_stands,
    login_required,
)

_PART = "finding/_compared.html"


def _compared(asked: PageQuestion) -> MethodsPage:
    return methods_page(
        asked.scene.document, asked.supply.kit, asked.limits, asked.imperial
    )


def _part(asked: PageQuestion, state: tuple[Any, ...]) -> SafeString | None:
    """The comparison as the page shows it, written once a question; None where it takes longer than a page waits."""

    def context() -> dict[str, Any]:
        shown = _compared(asked)
        keep_set_ups(asked.scene, shown)
        return {"scene": asked.scene, "shown": shown}

    # One comparison a person at a time: a newer question takes the place of the older one.
    who, key = ("comparison", asked.scene.shoot.owner_id), key_of(_PART, *state)
    return kept(key) or LANE.ask(who, key, lambda: written_once(_PART, state, context))


def _asked_before(request: HttpRequest, signer: Signer) -> SafeString | None:
    """What a page asked for that it asks for again, where it is written by now; the scene may be another since."""
    try:
        # Signed, so that nobody asks for what was written for somebody else.
        return kept(signer.unsign(request.GET.get("of", "")))
    except BadSignature:
        return None


@login_required
@require_safe
def page(request: HttpRequest, pk: int) -> HttpResponse:
    """The whole page; only what is compared, where that was waited for or one word of the limits was changed."""
    asked = asked_of(request, pk)
    question = question_of(asked.scene.document, asked.supply.kit, asked.limits)
    # All that what is written depends on: the question, the units and whose scene it is.
    state = (question, asked.imperial, asked.scene.pk)
    signer = Signer(salt=f"comparison of {request.user.pk} {pk}")
    context = {
        **limits_context(request, asked, "methods"),
        # A page that has waited gets what it waited for, also after a newer change.
        "compared": _asked_before(request, signer) or _part(asked, state),
        "of": signer.sign(key_of(_PART, *state)),
    }
    partly = context["changed"] or (http.is_htmx(request) and "part" in request.GET)
    return render(
        request, "finding/_methods.html" if partly else "finding/methods.html", context
    )


@login_required
@require_safe
def picture(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """The small rehearsal of one method's set-up."""
    document = kept_set_up(find_scene(request, pk), key, request.GET.get("v", ""))
    if document is None:
        document = _document(_compared(asked_of(request, pk)), key)
    shown = Answer(document)
    image, content_type = pictures.rehearsal(shown, size="small")
    response = HttpResponse(image, content_type=content_type)
    return kept_while_it_stands(request, response, shown.fingerprint)


@login_required
@require_POST
def choose(request: HttpRequest, pk: int, key: str) -> HttpResponse:
    """Makes one method's set-up the scene, or a snapshot of it."""
    asked = asked_of(request, pk)
    compared = _compared(asked)
    document = _document(compared, key)
    # Pinned or made the scene, it is called by its method.
    name = next(one.title for one in compared.columns if one.key == key)
    return use(request, asked.scene, document, name)


@login_required
@require_POST
def cheap(request: HttpRequest, pk: int) -> HttpResponse:
    """Makes a cheap answer's change, one of those that the scene has now; undo takes it back."""
    scene, says = find_scene(request, pk), request.POST.get("says", "")
    answers = cheap_answers(judged(scene.document), likes_feet())
    # By what it says: the person agreed to those words, not to whatever stands in their place now.
    chosen = next((one for one in answers if one.says == says), None)
    if chosen is None:
        return http.notice(
            request, "The scene has changed meanwhile: look at its answers again."
        )
    change_scene(scene, dict(chosen.values), says)
    messages.info(request, f"Done: {says}. Undo takes it back.")
    return redirect("finding:methods", pk=pk)


@login_required
@require_safe
def export_json(request: HttpRequest, pk: int) -> HttpResponse:
    """The comparison as `manage.py compare_methods` prints it."""
    asked = asked_of(request, pk)
    document = _compared(asked).comparison.to_document()
    return http.json_file(document, f"{asked.scene.name} methods")


def _document(compared: MethodsPage, key: str) -> dict[str, object]:
    document = compared.document(key)
    if document is None:
        raise Http404
    return document
