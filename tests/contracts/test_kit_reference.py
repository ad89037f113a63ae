"""docs/kit.md says what the files of a kit hold, as the classes do."""

import json
import re
from io import StringIO
from pathlib import Path

from django.core.management import call_command

from rapzel.kit.exchange import csv_header, read_document
from rapzel.kit.kinds import KINDS
from rapzel.kit.reference import kit_reference
from rapzel.kit.services import starter_document

KIT = Path(__file__).resolve().parents[2] / "docs" / "kit.md"


def _sections() -> dict[str, dict[str, list[str]]]:
    """The cells of each row by its key, by the title of its table; read as a person would, from the file."""
    found: dict[str, dict[str, list[str]]] = {}
    for part in KIT.read_text("utf-8").split("\n## ")[1:]:
        title, *lines = part.splitlines()
        rows = [line.strip("|").split(" | ") for line in lines if line.startswith("|")]
        found[title] = {row[0].strip(" `"): row for row in rows[2:]}
    return found


def test_the_document_is_what_the_classes_say() -> None:
    out = StringIO()
    call_command("kit_reference", stdout=out)
    assert out.getvalue() == kit_reference()
    assert KIT.read_text("utf-8") == kit_reference(), (
        "write it anew: manage.py kit_reference > docs/kit.md"
    )


def test_every_column_and_every_key_of_the_kit_that_ships_is_explained() -> None:
    sections = _sections()
    lists = sections["A row of a duration table"]
    for kind in KINDS.values():
        known = sections[kind.many]
        marked = {key for key, row in (known | lists).items() if row[5] == "yes"}
        assert set(csv_header(kind)) - {"mode"} <= marked, kind.slug
    for slug, things in read_document(starter_document()).items():
        for thing in things:
            assert set(thing) <= set(sections[KINDS[slug].many]), slug


def test_a_row_says_bounds_unit_and_what_empty_means() -> None:
    cameras, drives = _sections()["Cameras"], _sections()["A drive mode"]
    travel = [cell.strip() for cell in cameras["curtain_travel_s"]]
    assert travel[1:6] == [
        "Curtain travel or readout",
        "s",
        "0 to 10; null",
        "not known",
        "yes",
    ]
    assert cameras["name"][4] == "must be said"
    assert drives["slowest_s"][4] == "no terms"
    assert "mirror_up" not in cameras, "a setting of a scene"
    assert json.loads(re.findall(r"`(.*)`", cameras["sync_speed_s"][4])[0]) == 0.005
