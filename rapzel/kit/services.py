"""The verbs that write to the kit; each is one transaction, so that nothing is ever half-stored."""

import json
import math
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Any

from django.db import transaction
from pydantic import ValidationError

from rapzel.core.document.gear import Strobe as CoreStrobe
from rapzel.core.document.gear import read_strobe
from rapzel.core.shared.errors import CoreError, DocumentError, Problem
from rapzel.core.shared.refusals import refused
from rapzel.kit import exchange
from rapzel.kit.kinds import KINDS, Kind
from rapzel.kit.models import (
    Camera,
    DurationSetting,
    FigureRevision,
    Item,
    Strobe,
    TableRevision,
    Trigger,
    new_key,
)
from rapzel.kit.parts import KitStrobe
from rapzel.ui.quota import require_room

STARTER = Path(__file__).with_name("starter.json")
MOST_LAGS = 300  # measured ones that go along with an item


class NoName(CoreError):
    """A thing that is to be added has no name; str() is fit to show."""


@transaction.atomic
def add_item(owner: Any, kind: Kind, name: str) -> Item:
    """A new item with usual values, ready to be edited. Raises NoName where it has none: scenes call it by that."""
    # Cut to what the column holds; a pasted page would otherwise be an error of the database.
    called = name.strip()[: kind.model._meta.get_field("name").max_length]
    if not called:
        raise NoName(f"Give the {kind.one} a name first, as you call it on the set.")
    require_room("things in the kit", kit_size(owner))
    item = kind.model(owner=owner, name=called)
    item.save()
    return item


def in_core(strobe: Strobe) -> CoreStrobe | None:
    """The strobe as the core knows it; None while its guide number or every setting is still to be said."""
    try:
        return read_strobe(strobe.to_core())
    except DocumentError:
        return None


# --- duration tables: a list of rows, each a dictionary with its key, mode and figures --------------------------------

Rows = list[dict[str, Any]]
KEPT_REVISIONS = 50
MOST_ROWS = 200  # of one table, as many as a document may hold


def replace_settings(strobe: Strobe, rows: Rows) -> None:
    """The strobe's duration table becomes these rows."""
    # Rows have no history of their own; the revision beside the table keeps all of them.
    strobe.settings.all().delete()
    DurationSetting.objects.bulk_create(
        DurationSetting(strobe=strobe, **row) for row in rows
    )


def rows_of(strobe: Strobe) -> Rows:
    """The table as rows."""
    return [
        {"key": setting.key, "mode": setting.mode, **setting.stored()}
        for setting in strobe.settings.all()
    ]


def _alike(row: dict[str, Any]) -> tuple[str, int, str]:
    """What two rows of a table must not share: mode, power to a hundredth of a stop, provenance."""
    # Claimed and measured may stand side by side for one power; two of a kind would contradict.
    return row["mode"], round(math.log2(row["power"]) * 100), row["provenance"]


@transaction.atomic
def rewrite_table(strobe: Strobe, write: Callable[[Rows], Rows], what: str) -> None:
    """Changes a strobe's table under a lock, keeping what it was for undo. No change leaves no trace.

    Raises DocumentError, and changes nothing, where two rows would be for the same mode, power and provenance.
    """
    locked = Strobe.objects.select_for_update(of=("self",)).get(pk=strobe.pk)
    before = rows_of(locked)
    # On copies: what was is compared with what comes out of it.
    rows = write([dict(row) for row in before])
    if rows == before:
        return
    if len({_alike(row) for row in rows}) < len(rows):
        raise DocumentError(
            [
                Problem(
                    "",
                    "this power is in the table already, with the same mode and provenance",
                )
            ]
        )
    if len(rows) > MOST_ROWS:
        raise DocumentError([Problem("", f"a table holds up to {MOST_ROWS} rows")])
    TableRevision.objects.create(strobe=locked, rows=before, what=what[:200])
    # The newest come first, so that the rest are the oldest.
    old = locked.revisions.values_list("pk", flat=True)[KEPT_REVISIONS:]
    TableRevision.objects.filter(pk__in=list(old)).delete()
    replace_settings(locked, rows)


def set_row(strobe: Strobe, key: str, row: dict[str, Any] | None) -> None:
    """The row of that key becomes this one, or goes with None; a key that is new adds a row. Raises DocumentError."""

    def write(rows: Rows) -> Rows:
        known = [each["key"] for each in rows]
        if row is None:
            return [each for each in rows if each["key"] != key]
        # A row gone in another tab comes back as a new one: what was typed is not lost.
        if key not in known:
            return [*rows, {"key": key, **row}]
        return [{**each, **row} if each["key"] == key else each for each in rows]

    rewrite_table(strobe, write, "editing the table" if row else "dropping a row")


def merge_settings(strobe: Strobe, rows: Rows, what: str) -> None:
    """Adds rows to the table; each takes the place of one with the same mode, power and provenance."""

    def write(before: Rows) -> Rows:
        blank: dict[str, Any] = dict.fromkeys(DurationSetting.STORED)
        new = {_alike(row): row for row in rows}
        # What replaces a row keeps its key and its place in the table.
        kept = [{**row, **new.pop(_alike(row), {})} for row in before]
        return kept + [{"key": new_key(), **blank, **row} for row in new.values()]

    rewrite_table(strobe, write, what)


@transaction.atomic
def take_figures(strobe: Strobe, values: dict[str, Any]) -> None:
    """Sets figures of a strobe by the core's names. Raises DocumentError for what no strobe has, and sets nothing."""
    locked = Strobe.objects.select_for_update(of=("self",)).get(pk=strobe.pk)
    try:
        # Judged together with what is stored: a figure may be refused for its neighbour.
        KitStrobe.model_validate({**locked.to_core(), **values})
    except ValidationError as error:
        raise refused(error) from None
    for name, value in values.items():
        setattr(locked, name, value)
    locked.save(update_fields=[*values, "changed_at"])


@transaction.atomic
def store_figures(
    kind: Kind, item: Trigger | Camera, values: Mapping[str, Any], what: str
) -> FigureRevision:
    """Figures that were measured, into a trigger or camera; what they were is kept for undo."""
    locked = type(item).objects.select_for_update().get(pk=item.pk)
    kept = FigureRevision.objects.create(
        owner=locked.owner,
        slug=kind.slug,
        item=locked.pk,
        what=what,
        # Only what is overwritten, so that undoing leaves later edits of other figures alone.
        figures={name: getattr(locked, name) for name in values},
    )
    for name, value in values.items():
        setattr(locked, name, value)
    locked.save(update_fields=[*values, "changed_at"])
    return kept


def store_travel(
    camera: Camera, travel_s: float, sd_s: float, first_edge: str
) -> FigureRevision:
    """Curtain travel with its standard deviation [s], and which edge is uncovered first."""
    values = {
        "curtain_travel_s": travel_s,
        "curtain_travel_sd_s": sd_s,
        "first_edge": first_edge,
    }
    return store_figures(KINDS["cameras"], camera, values, "a calibration")


def store_lag(
    kind: Kind,
    item: Trigger | Camera,
    lag_s: float,
    jitter_s: float,
    each_s: Sequence[float] = (),
) -> FigureRevision:
    """A measured lag and jitter (sd) of a trigger or of a camera's release [s].

    each_s: the lags themselves, of which the last three hundred are kept for their histogram.
    """
    if isinstance(item, Camera):
        jitter = "lag_jitter_s"
    else:
        jitter = "jitter_s"
    # To the nanosecond; noise beyond it would fill the row with digits.
    each = [round(float(lag), 9) for lag in each_s][-MOST_LAGS:]
    values = {
        "lag_s": lag_s,
        jitter: jitter_s,
        "lag_provenance": "measured",
        "lags_s": each,
    }
    return store_figures(kind, item, values, "a measured lag")


@transaction.atomic
def undo_figures(kept: FigureRevision) -> Item:
    """Puts the figures back as they were. Raises the model's DoesNotExist where the item is gone."""
    item = (
        KINDS[kept.slug]
        .model.objects.select_for_update()
        .get(pk=kept.item, owner_id=kept.owner_id)
    )
    for name, value in kept.figures.items():
        setattr(item, name, value)
    item.save(update_fields=[*kept.figures, "changed_at"])
    kept.delete()
    return item


@transaction.atomic
def undo_table(strobe: Strobe) -> TableRevision | None:
    """Takes the last change of the table back; returns what was undone, None where nothing is left."""
    locked = Strobe.objects.select_for_update(of=("self",)).get(pk=strobe.pk)
    last = locked.revisions.first()
    if last is None:
        return None
    replace_settings(locked, last.rows)
    last.delete()
    return last


@transaction.atomic
def store_document(owner: Any, document: Any) -> int:
    """Adds everything a kit document holds; returns how many items.

    Raises DocumentError or QuotaFull, and then adds nothing.
    """
    parts = exchange.read_document(document)
    # Counted before anything is stored: a file that fits by half is refused as a whole.
    count = sum(len(entries) for entries in parts.values())
    require_room("things in the kit", kit_size(owner), count)
    for slug, entries in parts.items():
        _store(owner, KINDS[slug], entries)
    return count


def kit_size(owner: Any) -> int:
    """How many things a person's kit holds."""
    return sum(kind.model.objects.visible_to(owner).count() for kind in KINDS.values())


def _store(owner: Any, kind: Kind, parts: list[dict[str, Any]]) -> None:
    # Tables are rows of their own; a part is stored without them, and they with its key.
    tables = [
        [
            ("", part.pop("durations", [])),
            *((mode["name"], mode["durations"]) for mode in part.pop("modes", [])),
        ]
        for part in parts
    ]
    items = kind.model.objects.bulk_create(
        kind.model(owner=owner, **part) for part in parts
    )
    if kind.model is Strobe:
        DurationSetting.objects.bulk_create(
            DurationSetting(strobe_id=strobe.pk, mode=mode, **row)
            for strobe, own in zip(items, tables, strict=True)
            for mode, rows in own
            for row in rows
        )


def starter_document() -> dict[str, Any]:
    """The kit that ships with Rapzel, as a kit document."""
    return dict(json.loads(STARTER.read_text("utf-8")))


def copy_starter_kit(owner: Any) -> int:
    """Gives the owner copies of the kit that ships with Rapzel; returns how many items."""
    return store_document(owner, starter_document())
