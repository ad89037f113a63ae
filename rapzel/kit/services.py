"""The verbs that write to the kit; each is one transaction, so that nothing is ever half-stored."""

import json
import math
from pathlib import Path
from typing import Any

from django.db import transaction
from pydantic import ValidationError

from rapzel.core.errors import DocumentError, Problem
from rapzel.core.scene import Strobe as CoreStrobe
from rapzel.kit import exchange
from rapzel.kit.kinds import KINDS, Kind
from rapzel.kit.models import Camera, DurationSetting, Item, Strobe, TableRevision, Trigger

STARTER = Path(__file__).with_name("starter.json")


@transaction.atomic
def add_item(owner: Any, kind: Kind) -> Item:
    """A new item with usual values, ready to be edited."""
    item = kind.model(owner=owner, name=f"New {kind.one}")
    item.save()
    if isinstance(item, Strobe):
        DurationSetting.objects.create(strobe=item, power=1.0, t05_s=1 / 1000, provenance="claimed")
    return item


@transaction.atomic
def replace_settings(strobe: Strobe, rows: list[dict[str, Any]]) -> None:
    """The strobe's duration table becomes these rows."""
    strobe.settings.all().delete()
    DurationSetting.objects.bulk_create(DurationSetting(strobe=strobe, **row) for row in rows)


Rows = list[dict[str, Any]]


def _rows_of(strobe: Strobe) -> Rows:
    return [{"mode": setting.mode, **setting.stored()} for setting in strobe.settings.all()]


@transaction.atomic
def change_settings(strobe: Strobe, rows: Rows, what: str) -> None:
    """Replaces the table and keeps what it was, so that the change can be undone. No change leaves no trace."""
    before = _rows_of(strobe)
    if before == rows:
        return
    TableRevision.objects.create(strobe=strobe, rows=before, what=what[:200])
    replace_settings(strobe, rows)


def merge_settings(strobe: Strobe, rows: Rows, what: str) -> None:
    """Adds rows to the table; each takes the place of one with the same mode, power and provenance."""

    def key(row: dict[str, Any]) -> tuple[str, int, str]:
        return row["mode"], round(math.log2(row["power"]) * 100), row["provenance"]

    blank: dict[str, Any] = dict.fromkeys(DurationSetting.STORED)
    new = {key(row): row for row in rows}
    kept = [{**row, **new.pop(key(row), {})} for row in _rows_of(strobe)]
    change_settings(strobe, kept + [{**blank, **row} for row in new.values()], what)


def take_figures(strobe: Strobe, values: dict[str, float]) -> None:
    """Sets figures of a strobe by the core's names. Raises DocumentError for what no strobe has, and sets nothing."""
    core = {**strobe.to_core(), **values}
    if not core["durations"] and not core["modes"]:
        core["durations"] = [{"power": 1.0, "t01_s": 0.001}]  # the table is not in question here
    try:
        CoreStrobe.model_validate(core)
    except ValidationError as error:
        raise DocumentError(
            [Problem(str(each["loc"][0]), each["msg"]) for each in error.errors(include_url=False)]
        ) from None
    for name, value in values.items():
        setattr(strobe, name, value)
    strobe.save(update_fields=[*values, "changed_at"])


def store_lag(item: Trigger | Camera, lag_s: float, jitter_s: float) -> None:
    """A measured lag and jitter (sd) of a trigger or of a camera's release [s]."""
    item.lag_s, item.lag_provenance = lag_s, "measured"
    jitter = "lag_jitter_s" if isinstance(item, Camera) else "jitter_s"
    setattr(item, jitter, jitter_s)
    item.save(update_fields=["lag_s", jitter, "lag_provenance", "changed_at"])


@transaction.atomic
def undo_table(strobe: Strobe) -> TableRevision | None:
    """Takes the last change of the table back; returns what was undone, None where nothing is left."""
    last = TableRevision.objects.select_for_update().filter(strobe=strobe).first()
    if last is None:
        return None
    replace_settings(strobe, last.rows)
    last.delete()
    return last


@transaction.atomic
def store_document(owner: Any, document: Any) -> int:
    """Adds everything a kit document holds; returns how many items. Raises DocumentError, and then adds nothing."""
    count = 0
    for slug, parts in exchange.read_document(document).items():
        for part in parts:
            _store(owner, KINDS[slug], part)
            count += 1
    return count


def _store(owner: Any, kind: Kind, part: dict[str, Any]) -> Item:
    tables = [("", part.pop("durations", []))] + [(mode["name"], mode["durations"]) for mode in part.pop("modes", [])]
    item = kind.model(owner=owner, **part)
    item.save()
    if isinstance(item, Strobe):
        replace_settings(item, [{"mode": mode, **row} for mode, rows in tables for row in rows])
    return item


def copy_starter_kit(owner: Any) -> int:
    """Gives the owner copies of the kit that ships with Rapzel; returns how many items."""
    return store_document(owner, json.loads(STARTER.read_text("utf-8")))
