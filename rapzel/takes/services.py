"""The verbs of the log, and what a log amounts to."""

import json
from collections import Counter
from functools import lru_cache
from typing import Any

from django.db import transaction
from django.db.models import (
    Count,
    DateTimeField,
    DurationField,
    Exists,
    F,
    Func,
    IntegerField,
    OuterRef,
    QuerySet,
    TextField,
    Value,
)
from django.db.models.expressions import CombinedExpression
from django.db.models.functions import Cast
from django.utils import timezone

from rapzel.core.document.places import Document
from rapzel.core.shared.errors import DocumentError, UnitError
from rapzel.core.trigger.learning import FEW
from rapzel.core.trigger.success import HitRate, hit_rate, tries_for
from rapzel.shoots.models import Scene
from rapzel.takes.models import Outcome, Take, TakePicture
from rapzel.takes.offsets import late_s
from rapzel.takes.sent import Sent
from rapzel.ui import tables
from rapzel.ui.margins import MarginView
from rapzel.ui.parts import written_each
from rapzel.ui.quota import QuotaFull, require_room
from rapzel.workbench.answer import answered
from rapzel.workbench.groups import differences

JUST_NOW = Sent()


@transaction.atomic
def log_take(
    scene: Scene,
    outcome: str,
    changed: str = "",
    note: str = "",
    off: str = "",
    sent: Sent = JUST_NOW,
    document: Document | None = None,
) -> Take:
    """Logs a try with the plan as it stands. What was changed is told by the plan itself when nothing is said.

    A try whose key is in the log already is that try, sent again because its answer was lost: nothing is added.
    document: the plan that was tried, where it has changed since.
    off: how far early or late, as people write it; what cannot be read is kept in the note, for the try counts.
    Raises ValueError for an outcome that is not one, QuotaFull for a log that is full.
    """
    if outcome not in Outcome.values:
        raise ValueError(f"An outcome is one of {', '.join(Outcome.values)}.")
    # Two that log at once would get the same number.
    locked = Scene.objects.select_for_update(of=("self",)).get(pk=scene.pk)
    own = Take.objects.filter(scene=locked)
    if sent.key:
        # The key is the browser's own for that try, made before it was sent.
        known = own.filter(key=sent.key).first()
    else:
        known = None
    if known:
        return known
    last = own.order_by("-number").first()
    _require_room(own, last.number if last else 0)
    if document is None:
        # Of the locked row: the one at hand may be older than what was set in another tab.
        tried = locked.document
    else:
        tried = document
    late, unread = _offset(off, outcome, tried)
    # What was changed since the last try is known from both plans, if nobody says it better.
    said = changed.strip() or (plan_changes(last.document, tried) if last else "")
    return Take.objects.create(
        scene=locked,
        number=last.number + 1 if last else 1,
        outcome=outcome,
        changed=said[:400],
        note=f"{note.strip()} {unread}".strip()[:1000],
        late_s=late,
        document=tried,
        key=sent.key,
        at=sent.at or timezone.now(),
    )


def _require_room(own: QuerySet[Take], highest: int) -> None:
    """Raises QuotaFull for a log that is full. Numbers are not given again: only a high one makes counting needful."""
    try:
        # Counting a long log takes longer than logging; the highest number is at hand anyway.
        require_room("takes of a scene", highest)
    except QuotaFull:
        require_room("takes of a scene", own.filter(deleted_at__isnull=True).count())


def _offset(off: str, outcome: str, document: Document) -> tuple[float | None, str]:
    """By how much the light was late [s], and what is told where that cannot be read."""
    try:
        # Read with the plan that was tried: a way off is a time by its speed.
        return late_s(off[:60], outcome, document), ""
    except UnitError as error:
        return None, f"Off by: {error}"


def plan_changes(before: dict[str, Any], after: dict[str, Any]) -> str:
    """What changed between two plans, in words: 'Key Power 1/32 → 1/64'."""
    if before == after:
        return ""
    return ", ".join(
        f"{label} {old} → {new}" for label, (old, new) in differences([before, after])
    )


def totals(scene: Scene) -> dict[str, Any]:
    """Counts by outcome, the hit rate with its interval, and tries left for one more keeper."""
    living = Take.objects.filter(scene=scene, deleted_at__isnull=True).order_by()
    # Counted by the database: a log may have a thousand takes, each with its plan.
    counts = Counter(dict(living.values_list("outcome").annotate(count=Count("*"))))
    tries = sum(counts.values())
    # Without a try there is no rate, not one of nothing.
    # Of one or two it would be what was assumed before them more than what they say.
    rate: HitRate | None = None
    if tries >= FEW:
        rate = hit_rate(counts[Outcome.KEEP], tries)
    rows = [(outcome.label, counts[outcome]) for outcome in Outcome]
    return {
        "tries": tries,
        "kept": counts[Outcome.KEEP],
        "counts": rows,
        "rate": rate,
        "more": tries_for(rate.mean) if rate else None,
    }


CSV_HEADER = (
    "number",
    "at",
    "outcome",
    "late_s",
    "changed",
    "note",
    "f_number",
    "iso",
    "shutter_s",
    "method",
    "powers",
)


_COLUMNS = (
    "clock", "ahead_s", "number", "outcome", "late_s", "changed", "note", "f_number", "iso", "shutter_s", "method",
)  # fmt: skip
_READ_AT_ONCE = 2000


def _there(zone: str) -> Func:
    """What the clock of a zone shows at the moment of a take."""
    return Func(Value(zone), F("at"), function="timezone", output_field=DateTimeField())


def _clock(zone: str) -> Func:
    """The same in ISO 8601. By the database: to read a moment and write it again took a third of the table's time."""
    form = Value('YYYY-MM-DD"T"HH24:MI:SS.US')
    return Func(_there(zone), form, function="to_char", output_field=TextField())


def _ahead_s(zone: str) -> Func:
    """How far that clock is ahead of UTC at the moment of a take [s]."""
    ahead = CombinedExpression(
        _there(zone), "-", _there("UTC"), output_field=DurationField()
    )
    return Func(
        ahead,
        template="extract(epoch from %(expressions)s)::int",
        output_field=IntegerField(),
    )


def to_csv(scene: Scene) -> str:
    """The log of a scene as CSV, oldest first, numbers in SI, times on the shoot's clock with its offset from UTC."""
    living = Take.objects.filter(scene=scene, deleted_at__isnull=True).order_by(
        "number"
    )
    zone = str(scene.shoot.clock)
    living = living.annotate(clock=_clock(zone), ahead_s=_ahead_s(zone))
    # As texts, which Python need not read into lists and write again.
    lights = [Cast(column, TextField()) for column in ("light_names", "light_powers")]
    # Without the plans, which are most of a take's size.
    rows = living.values_list(*_COLUMNS, *lights).iterator(chunk_size=_READ_AT_ONCE)
    return tables.to_csv(CSV_HEADER, map(_cells, rows))


def _cells(row: tuple[Any, ...]) -> list[Any]:
    clock, ahead_s, number, *cells, names, powers = row
    return [number, f"{clock}{_offset_says(ahead_s)}", *cells, _powers(names, powers)]


@lru_cache(maxsize=64)
def _offset_says(ahead_s: int) -> str:
    """An offset from UTC as ISO 8601 has it: 3600 -> `+01:00`."""
    # Some zones are half or a quarter of an hour apart.
    hours, minutes = divmod(abs(ahead_s) // 60, 60)
    if ahead_s < 0:
        sign = "-"
    else:
        sign = "+"
    return f"{sign}{hours:02d}:{minutes:02d}"


@lru_cache(maxsize=256)
def _powers(names: str, powers: str) -> str:
    """The lights with their powers in one cell, of two lists in JSON; remembered, as takes share a few plans."""
    lights = zip(json.loads(names), json.loads(powers), strict=True)
    return "; ".join(f"{name} {power:.6g}" for name, power in lights)


def listed(scene: Scene, most: int, before: int | None = None) -> list[Take]:
    """The newest takes of a scene, of those before a number where one is given; without their plans."""
    takes = Take.objects.filter(scene=scene, deleted_at__isnull=True).defer("document")
    if before is not None:
        takes = takes.filter(number__lt=before)
    # Only whether there is one: pictures are large, and fetched by their own address.
    pictured = TakePicture.objects.filter(take=OuterRef("pk"))
    return list(takes.annotate(has_picture=Exists(pictured))[:most])


def with_margins(takes: list[Take]) -> list[dict[str, Any]]:
    """Each take with the margins of its plan as they are written; a plan is read only where they are not kept."""
    # A hundred takes share a few plans.
    one_of_each = {take.plan: take.pk for take in takes}

    def read(plans: list[str]) -> dict[str, dict[str, Any]]:
        rows = Take.objects.filter(pk__in=[one_of_each[plan] for plan in plans])
        documents = rows.values_list("plan", "document")
        # (what is asked for here is kept as it was written, for the next page)
        return {plan: {"margins": _margins(document)} for plan, document in documents}

    written = written_each(
        "takes/_margins.html", {plan: (plan,) for plan in one_of_each}, read
    )
    return [{"take": take, "margins": written[take.plan]} for take in takes]


def _margins(document: Document) -> list[MarginView]:
    try:
        # A plan that a newer rule refuses shows no margins; its take still counts.
        return answered(document).margins
    except DocumentError:
        return []
