"""The kit's pages. Whose kit it is, is decided in the query."""

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST
from pydantic import ValidationError

from rapzel.core.errors import DocumentError
from rapzel.core.scene import Strobe as CoreStrobe
from rapzel.kit import exchange, services
from rapzel.kit.compare_views import CONVERTERS
from rapzel.kit.comparison import step_rows
from rapzel.kit.drawings import draw_durations, draw_light
from rapzel.kit.forms import ItemForm, SettingRows
from rapzel.kit.kinds import KINDS, Kind
from rapzel.kit.models import Item, Provenance, Strobe
from rapzel.ui import http
from rapzel.ui.quantities import QUANTITIES


def _kind(slug: str) -> Kind:
    if slug not in KINDS:
        raise Http404
    return KINDS[slug]


def _item(request: HttpRequest, kind: Kind, pk: int) -> Item:
    return get_object_or_404(kind.model.objects.visible_to(request.user), pk=pk)


@login_required
@require_GET
def kit_list(request: HttpRequest) -> HttpResponse:
    """All kinds of kit with what they hold."""
    sections = [(kind, list(kind.model.objects.visible_to(request.user))) for kind in KINDS.values()]
    empty = not any(items for _, items in sections)
    return render(request, "kit/list.html", {"sections": sections, "empty": empty})


@login_required
@require_POST
def add(request: HttpRequest, slug: str) -> HttpResponse:
    """A new item with usual values, opened for editing."""
    item = services.add_item(request.user, _kind(slug))
    return redirect("kit:edit", slug=slug, pk=item.pk)


@login_required
@require_http_methods(["GET", "POST"])
def edit(request: HttpRequest, slug: str, pk: int) -> HttpResponse:
    """One item. Every change is posted at once and answered with what it means; what is wrong stores nothing."""
    kind = _kind(slug)
    item = _item(request, kind, pk)
    form: ItemForm = kind.form(request.POST or None, instance=item)
    rows = _setting_rows(request, item)
    saved = False
    if request.method == "POST" and form.is_valid() and (rows is None or not rows.errors):
        form.save()
        if rows is not None and isinstance(item, Strobe):
            services.change_settings(item, rows.rows, "editing the table")
        saved = True
    context: dict[str, Any] = {"kind": kind, "item": item, "form": form, "rows": rows, "saved": saved}
    if isinstance(item, Strobe):
        stored = Strobe.objects.prefetch_related("settings").get(pk=item.pk)
        context |= _strobe_context(stored) if request.method == "POST" else _strobe_page(request, stored)
    if request.method == "POST":
        return render(request, "kit/_answer.html", context, status=200 if saved else 422)
    return render(request, "kit/edit.html", context)


def _setting_rows(request: HttpRequest, item: Item) -> SettingRows | None:
    if not isinstance(item, Strobe) or request.method != "POST":
        return None
    return SettingRows(request.POST, list(item.settings.all()))


def _in_core(strobe: Strobe) -> CoreStrobe | None:
    """The strobe as the core knows it; None without any setting, of which nothing can be said."""
    try:
        return CoreStrobe.model_validate(strobe.to_core())
    except ValidationError:
        return None


def _strobe_context(stored: Strobe) -> dict[str, Any]:
    """What the stored table means: its drawings."""
    core = _in_core(stored)
    return {"drawings": [draw_durations(core), draw_light(core)] if core else []}


def _strobe_page(request: HttpRequest, stored: Strobe) -> dict[str, Any]:
    """The table to edit, its drawings, every setting in steps as asked, its last changes, and the converters."""
    cells = [
        {
            "mode": row.mode,
            "power": QUANTITIES["power"].show(row.power),
            "t01": QUANTITIES["duration"].show(row.t01_s),
            "t05": QUANTITIES["duration"].show(row.t05_s),
            "provenance": row.provenance,
        }
        for row in stored.settings.all()
    ]
    blank = [{"mode": "", "power": "", "t01": "", "t05": "", "provenance": "claimed"}] * 2
    per_stop = {"3": 3, "10": 10}.get(request.GET.get("step", ""), 1)
    core = _in_core(stored)
    return {
        **_strobe_context(stored),
        "cells": cells + blank,
        "provenances": Provenance.choices,
        "steps": step_rows(core, per_stop) if core else [],
        "per_stop": per_stop,
        "revisions": stored.revisions.all()[:6],
        "converters": [(key, label) for key, (label, _) in CONVERTERS.items()],
    }


@login_required
@require_POST
def remove(request: HttpRequest, slug: str, pk: int) -> HttpResponse:
    """Puts an item away; the next page offers to take it back."""
    item = _item(request, _kind(slug), pk)
    item.put_away()
    http.say_undo(request, f"“{item.name}” was removed from the kit.", reverse("kit:take_back", args=[slug, pk]))
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
    messages.info(request, f"Undone: {undone.what}." if undone else "Nothing is left to undo in this table.")
    return redirect("kit:edit", slug="strobes", pk=pk)


@login_required
@require_POST
def starter(request: HttpRequest) -> HttpResponse:
    """Copies the kit that ships with Rapzel into the person's own."""
    count = services.copy_starter_kit(request.user)
    messages.info(request, f"{count} things were copied into your kit. They are yours to change.")
    return redirect("kit:list")


@login_required
@require_GET
def export_json(request: HttpRequest) -> HttpResponse:
    """The whole kit as one JSON document."""
    return http.json_file(exchange.document_of(request.user), "kit")


@login_required
@require_GET
def export_csv(request: HttpRequest, slug: str) -> HttpResponse:
    """One kind as CSV; `?template` gives the header alone."""
    kind = _kind(slug)
    items = [] if "template" in request.GET else exchange.items_of(kind, request.user)
    return http.download(exchange.to_csv(kind, items), slug, "csv", "text/csv; charset=utf-8")


@login_required
@require_POST
def bring_in(request: HttpRequest) -> HttpResponse:
    """Adds what a kit file (JSON or CSV) holds, or says everything that is wrong with it and adds nothing."""
    upload = request.FILES.get("file")
    try:
        text = http.read_text(upload)
        is_json = text.lstrip().startswith(("{", "["))
        document = http.parse_json(text) if is_json else exchange.from_csv(text)
        count = services.store_document(request.user, document)
    except DocumentError as error:
        http.say_problems(request, "Nothing was imported.", error)
    else:
        messages.info(request, f"{count} {'thing was' if count == 1 else 'things were'} added to your kit.")
    return redirect("kit:list")


@require_GET
def schema(request: HttpRequest) -> HttpResponse:
    """The JSON Schema of the kit document."""
    return http.schema(exchange.kit_schema())
