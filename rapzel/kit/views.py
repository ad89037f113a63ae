"""The kit's pages. Whose kit it is, is decided in the query."""

import re
from typing import Any
from urllib.parse import urlsplit

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.exceptions import ObjectDoesNotExist
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import (
    require_http_methods,
    require_POST,
    require_safe,
)

from rapzel.core.shared.errors import CoreError, DocumentError
from rapzel.core.shared.refusals import spoken
from rapzel.kit import exchange, services
from rapzel.kit.compare_views import CONVERTERS
from rapzel.kit.comparison import step_rows
from rapzel.kit.drawings import draw_durations, draw_light, draw_spark
from rapzel.kit.forms import SettingRow
from rapzel.kit.kinds import KINDS, Kind
from rapzel.kit.models import FigureRevision, Item, Provenance, Strobe, new_key
from rapzel.ui import http
from rapzel.ui.inputs import QUANTITIES
from rapzel.ui.one_field import save_one_field, with_one_field


def _kind(slug: str) -> Kind:
    if slug not in KINDS:
        raise Http404
    return KINDS[slug]


def _item(request: HttpRequest, kind: Kind, pk: int) -> Item:
    return get_object_or_404(kind.model.objects.visible_to(request.user), pk=pk)


@login_required
@require_safe
def kit_list(request: HttpRequest) -> HttpResponse:
    """All kinds of kit with what they hold."""
    # Kinds without an item are shown too: their heading holds the form that adds the first one.
    sections = [
        (kind, [(item, _spark(item)) for item in exchange.items_of(kind, request.user)])
        for kind in KINDS.values()
    ]
    # A kit without anything is offered the starter kit in place of five empty tables.
    empty = not any(items for _, items in sections)
    return render(request, "kit/list.html", {"sections": sections, "empty": empty})


def _spark(item: Item) -> str:
    """The small curve of a strobe whose table is known; nothing for anything else."""
    if not isinstance(item, Strobe):
        return ""
    core = services.in_core(item)
    # A strobe that was added by name alone has no table yet, so it has no curve either.
    if core is None:
        return ""
    return draw_spark(core).markup()


@login_required
@require_POST
def add(request: HttpRequest, slug: str) -> HttpResponse:
    """A new item with usual values under the name that was given, opened for editing."""
    try:
        item = services.add_item(
            request.user, _kind(slug), request.POST.get("name", "")
        )
    except services.NoName as error:
        messages.error(request, str(error))
        return redirect("kit:list")
    # What was added by name has usual values: its page is where they become the person's own.
    return redirect("kit:edit", slug=slug, pk=item.pk)


@login_required
@require_http_methods(["GET", "HEAD", "POST"])
def edit(request: HttpRequest, slug: str, pk: int) -> HttpResponse:
    """One item. Every field is posted by itself and answered with what it means; what is wrong stores nothing."""
    kind = _kind(slug)
    item = _item(request, kind, pk)
    if request.method != "POST":
        context: dict[str, Any] = {
            "kind": kind,
            "item": item,
            "form": kind.form(instance=item),
        }
        if isinstance(item, Strobe):
            context |= _strobe_page(request, _with_table(item))
        return render(request, "kit/edit.html", context)
    # One field alone is checked against what is stored, so that a half-filled form loses nothing.
    form, name = with_one_field(kind.form, item, request)
    saved = save_one_field(form, name)
    errors = [str(error) for error in form.non_field_errors()]
    # Errors of other fields are not told: the person has not touched those.
    errors += [f"{form[name].label}: {error}" for error in form.errors.get(name, [])]
    return _answer(request, item, [] if saved else errors)


def _answer(
    request: HttpRequest, item: Item, errors: list[str], says: str = "Saved."
) -> HttpResponse:
    """What the last change means, or why it was not stored."""
    context: dict[str, Any] = {"item": item, "errors": errors, "says": says}
    if isinstance(item, Strobe):
        stored = _with_table(item)
        context |= (
            _strobe_context(stored) | _from_table(request, stored) | {"swapped": True}
        )
    return render(request, "kit/_answer.html", context, status=422 if errors else 200)


@login_required
@require_POST
def set_row(request: HttpRequest, pk: int) -> HttpResponse:
    """One row of a strobe's table, as typed. A row that is still incomplete is kept on the page, and not scolded."""
    strobe = get_object_or_404(Strobe.objects.visible_to(request.user), pk=pk)
    key = request.POST.get("key", "")
    # The page makes the key of a row, so that a row sent twice is still one row.
    if not re.fullmatch(r"[0-9a-z]{1,20}", key):
        raise Http404
    # The stored row is given along: a cell that was not touched keeps digits that it does not show.
    row = SettingRow(request.POST, strobe.settings.filter(key=key).first())
    # Somebody is still typing: saying what is missing is help, an error would be a scolding.
    if not row.empty and not row.complete and not row.errors:
        return _answer(
            request, strobe, [], "The row counts once it has a power and a t.1 or t.5."
        )
    if not row.empty and not row.is_valid():
        return _answer(request, strobe, [row.says()])
    try:
        # A row that was emptied is taken out of the table.
        services.set_row(strobe, key, None if row.empty else row.row())
    except DocumentError as error:
        return _answer(request, strobe, [spoken(str(error))])
    return _answer(request, strobe, [])


@login_required
@require_safe
def new_row(request: HttpRequest, pk: int) -> HttpResponse:
    """One more empty row for a strobe's table."""
    strobe = get_object_or_404(Strobe.objects.visible_to(request.user), pk=pk)
    return render(
        request,
        "kit/_row.html",
        {"item": strobe, "row": _blank_row(), "provenances": Provenance.choices},
    )


def _with_table(strobe: Strobe) -> Strobe:
    return Strobe.objects.prefetch_related("settings").get(pk=strobe.pk)


def _strobe_context(stored: Strobe) -> dict[str, Any]:
    """What the stored table means: its drawings, or what is missing before scenes can take the strobe."""
    core = services.in_core(stored)
    if stored.guide_number_m is None:
        missing = ["a guide number"]
    else:
        missing = []
    missing += [] if stored.settings.all() else ["a setting in its table"]
    return {
        "drawings": [draw_durations(core), draw_light(core)] if core else [],
        "missing": " and ".join(missing),
    }


def _blank_row() -> dict[str, str]:
    return {
        "key": new_key(),
        "mode": "",
        "power": "",
        "t01": "",
        "t05": "",
        "provenance": "claimed",
    }


def _strobe_page(request: HttpRequest, stored: Strobe) -> dict[str, Any]:
    """The table to edit, its drawings, every setting in steps as asked, its last changes, and the converters."""
    cells = [
        {
            "key": row.key,
            "mode": row.mode,
            "power": QUANTITIES["power"].show(row.power),
            "t01": QUANTITIES["duration"].show(row.t01_s),
            "t05": QUANTITIES["duration"].show(row.t05_s),
            "provenance": row.provenance,
        }
        for row in stored.settings.all()
    ]
    return {
        **_strobe_context(stored),
        **_from_table(request, stored),
        # Two empty rows, so that a table can be typed on without reaching for a button.
        "rows": [*cells, _blank_row(), _blank_row()],
        "provenances": Provenance.choices,
        "converters": [(key, label) for key, (label, _) in CONVERTERS.items()],
    }


def _from_table(request: HttpRequest, stored: Strobe) -> dict[str, Any]:
    """What stands beside the table and follows each change of it: every setting, and the last changes."""
    core = services.in_core(stored)
    per_stop = _per_stop(request)
    return {
        "steps": step_rows(core, per_stop) if core else [],
        "per_stop": per_stop,
        # Older changes can still be undone one by one; six are what a person remembers.
        "revisions": stored.revisions.all()[:6],
    }


def _per_stop(request: HttpRequest) -> int:
    """In how many steps a stop is listed: as the page's address says, also for a change that the page sends."""
    asked = request.GET
    if http.is_htmx(request):
        # A change is posted to another address, but htmx says which page it was sent from.
        asked = QueryDict(urlsplit(request.headers.get("HX-Current-URL", "")).query)
    return {"3": 3, "10": 10}.get(asked.get("step", ""), 1)


@login_required
@require_POST
def remove(request: HttpRequest, slug: str, pk: int) -> HttpResponse:
    """Puts an item away; the next page offers to take it back."""
    item = _item(request, _kind(slug), pk)
    item.put_away()
    http.say_undo(
        request,
        f"“{item.name}” was removed from the kit.",
        reverse("kit:take_back", args=[slug, pk]),
    )
    return redirect("kit:list")


@login_required
@require_POST
def take_back(request: HttpRequest, slug: str, pk: int) -> HttpResponse:
    """Undoes a removal."""
    item = get_object_or_404(_kind(slug).model.objects.put_away_by(request.user), pk=pk)
    item.take_back()
    messages.info(request, f"“{item.name}” is back.")
    return redirect("kit:list")


@login_required
@require_POST
def undo_table(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes the last change of a strobe's table back."""
    strobe = get_object_or_404(Strobe.objects.visible_to(request.user), pk=pk)
    undone = services.undo_table(strobe)
    messages.info(
        request,
        f"Undone: {undone.what}."
        if undone
        else "Nothing is left to undo in this table.",
    )
    return redirect("kit:edit", slug="strobes", pk=pk)


@login_required
@require_POST
def undo_figures(request: HttpRequest, pk: int) -> HttpResponse:
    """Takes a stored measurement of a lag back."""
    kept = get_object_or_404(FigureRevision, owner_id=request.user.pk, pk=pk)
    try:
        # The item may have been removed since; its measurement then has nothing to go back to.
        item = services.undo_figures(kept)
    except ObjectDoesNotExist:
        raise Http404 from None
    messages.info(request, f"{item.name} has the figures it had before.")
    return redirect("kit:edit", slug=kept.slug, pk=item.pk)


@login_required
@require_POST
def starter(request: HttpRequest) -> HttpResponse:
    """Copies the kit that ships with Rapzel into the person's own."""
    count = services.copy_starter_kit(request.user)
    messages.info(
        request, f"{count} things were copied into your kit. They are yours to change."
    )
    return redirect("kit:list")


@login_required
@require_safe
def export_json(request: HttpRequest) -> HttpResponse:
    """The whole kit as one JSON document."""
    return http.json_file(exchange.document_of(request.user), "kit")


@login_required
@require_safe
def export_csv(request: HttpRequest, slug: str) -> HttpResponse:
    """One kind as CSV; `?template` gives the header alone."""
    kind = _kind(slug)
    if "template" in request.GET:
        items = []
    else:
        items = exchange.items_of(kind, request.user)
    return http.table(exchange.kit_csv(kind, items), slug)


@login_required
@require_POST
def bring_in(request: HttpRequest) -> HttpResponse:
    """Adds what a kit file (JSON or CSV) holds, or says everything that is wrong with it and adds nothing."""
    upload = request.FILES.get("file")
    try:
        text = http.read_text(upload)
        # The name of a file says little; a kit in JSON begins with a bracket, and no CSV does.
        is_json = text.lstrip().startswith(("{", "["))
        if is_json:
            document = http.parse_json(text)
        else:
            document = exchange.from_csv(text)
        count = services.store_document(request.user, document)
    except CoreError as error:
        http.say_problems(request, "Nothing was imported.", error)
    else:
        messages.info(
            request,
            f"{count} {'thing was' if count == 1 else 'things were'} added to your kit.",
        )
    return redirect("kit:list")


@require_safe
def schema(request: HttpRequest) -> HttpResponse:
    """The JSON Schema of the kit document."""
    return http.schema(exchange.kit_schema())
