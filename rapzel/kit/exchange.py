"""Kit in and out: one JSON document for all of it, one CSV for each kind. Errors come all at once, by place."""

import csv
import io
from collections.abc import Iterable
from typing import Any

from pydantic import ValidationError

from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.core.shared.part import InputSpec
from rapzel.core.shared.refusals import MOST_PROBLEMS, refused
from rapzel.kit.kinds import KINDS, Kind
from rapzel.kit.models import Item, Strobe
from rapzel.kit.parts import PARTS
from rapzel.ui.tables import to_csv, unguarded

FORMAT, VERSION = "rapzel.kit", 1
SETTING_COLUMNS = (
    "mode",
    "power",
    "t01_s",
    "t05_s",
    "provenance",
    "light_stops",
    "cct_k",
    "duv",
)
MOST_ITEMS = 2000  # of one file
MOST_LINES = 20_000  # of one CSV: settings have a line each


def kit_schema() -> dict[str, Any]:
    """The published JSON Schema of the kit document."""
    definitions: dict[str, Any] = {}
    properties: dict[str, Any] = {
        "format": {"const": FORMAT},
        "version": {"const": VERSION},
    }
    for slug, part in PARTS.items():
        schema = part.model_json_schema(ref_template="#/$defs/{model}")
        definitions |= schema.pop("$defs", {})
        definitions[part.__name__] = schema
        properties[slug] = {
            "type": "array",
            "items": {"$ref": f"#/$defs/{part.__name__}"},
        }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Rapzel kit, version 1",
        "type": "object",
        "required": ["format", "version"],
        "properties": properties,
        "$defs": definitions,
    }


def _as_document(item: Item, kind: Kind) -> dict[str, Any]:
    own = {key: getattr(item, key) for key in kind.columns}
    return {**own, **item.to_core(), "notes": item.notes}


def items_of(kind: Kind, owner: Any) -> list[Item]:
    """A person's items of one kind, strobes with their settings read in one go."""
    if issubclass(kind.model, Strobe):
        return list(Strobe.objects.visible_to(owner).prefetch_related("settings"))
    return list(kind.model.objects.visible_to(owner))


def document_of(owner: Any) -> dict[str, Any]:
    """All of a person's kit as one JSON document; reading it again gives the same items."""
    document: dict[str, Any] = {"format": FORMAT, "version": VERSION}
    for slug, kind in KINDS.items():
        items = items_of(kind, owner)
        document[slug] = [_as_document(item, kind) for item in items]
    return document


def read_document(document: Any) -> dict[str, list[dict[str, Any]]]:
    """The parts of a kit document by kind. Raises DocumentError with every problem and its path, up to a hundred."""
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise DocumentError(
            [
                Problem(
                    "format", f"this is not a kit document: format must be “{FORMAT}”"
                )
            ]
        )
    if document.get("version") != VERSION:
        raise DocumentError(
            [Problem("version", f"this Rapzel reads version {VERSION}")]
        )
    strangers = sorted(
        set(document)
        - {"format", "version", *PARTS}
        - {key for key in document if key.startswith("x-")}
    )
    problems = [
        Problem(key[:60], f"unknown key; known: {', '.join(PARTS)}")
        for key in strangers[:MOST_PROBLEMS]
    ]
    entries = {slug: document.get(slug, []) for slug in PARTS}
    problems += [
        Problem(slug, "must be a list")
        for slug, own in entries.items()
        if not isinstance(own, list)
    ]
    if problems:
        raise DocumentError(problems)
    # Before anything is read: a file of a million things is refused in no time.
    count = sum(len(own) for own in entries.values())
    if count > MOST_ITEMS:
        raise DocumentError(
            [Problem("", f"holds {count} things; up to {MOST_ITEMS} are taken at once")]
        )
    parts: dict[str, list[dict[str, Any]]] = {slug: [] for slug in PARTS}
    for slug, own in entries.items():
        for place, entry in enumerate(own):
            # All of it is read before any of it is stored, so that a file comes in whole or not at
            # all.
            part, found = _read_part(slug, entry, f"{slug}[{place}]")
            problems += found
            parts[slug].append(part)
            if len(problems) >= MOST_PROBLEMS:
                raise DocumentError(problems)
    if problems:
        raise DocumentError(problems)
    return parts


def _read_part(
    slug: str, entry: Any, path: str
) -> tuple[dict[str, Any], list[Problem]]:
    try:
        part = PARTS[slug].model_validate(entry)
    except ValidationError as error:
        return {}, refused(error, within=path).problems
    if not str(getattr(part, "name", "")).strip():
        return {}, [Problem(f"{path}.name", "must not be empty")]
    stored = part.model_dump(mode="json")
    return {key: value for key, value in stored.items() if not key.startswith("x-")}, []


# --- CSV ----------------------------------------------------------------------------------------------------------


def csv_header(kind: Kind) -> list[str]:
    """The columns of a kind's CSV. A strobe has one line for each setting, its own columns repeated."""
    if kind.slug == "strobes":
        settings = list(SETTING_COLUMNS)
    else:
        settings = []
    return ["name", *kind.columns, *settings, "notes"]


def kit_csv(kind: Kind, items: Iterable[Item]) -> str:
    """The items as CSV, numbers in SI with a decimal point; without items it is the template."""
    header = csv_header(kind)
    rows = (
        [line[key] for key in header] for item in items for line in _lines(kind, item)
    )
    return to_csv(header, rows)


def _lines(kind: Kind, item: Item) -> Iterable[dict[str, Any]]:
    """One line for an item; a strobe has one for each setting, and one as long as it waits for its table."""
    own = {key: getattr(item, key) for key in ("name", *kind.columns, "notes")}
    if not isinstance(item, Strobe):
        return [own]
    settings = [
        {**own, "mode": setting.mode, **setting.stored()}
        for setting in item.settings.all()
    ]
    return settings or [{**own, **dict.fromkeys(SETTING_COLUMNS)}]


# Columns that are texts: of an item, and of a setting of its table.
_WORDS = ("name", "notes", "mode", "provenance")


def _value(kind: Kind, column: str, text: str) -> Any:
    """A cell in the type that its column has in the kit document; raises ValueError in words."""
    text = text.strip()
    if text == "":
        return None
    spec = kind.inputs.get(column)
    if column in _WORDS or (spec is not None and spec.quantity == "choice"):
        return unguarded(text)
    if spec is not None and spec.quantity == "check":
        return _truth(text)
    return _number(text, spec)


def _truth(text: str) -> bool:
    if text.lower() not in ("true", "false", "1", "0", "yes", "no"):
        raise ValueError("must be true or false")
    return text.lower() in ("true", "1", "yes")


def _number(text: str, spec: InputSpec | None) -> float:
    try:
        if spec is not None and spec.whole:
            return int(text)
        return float(text)
    except ValueError:
        raise ValueError(
            f"“{text[:60]}” is not a number in SI units with a decimal point"
        ) from None


def from_csv(text: str) -> dict[str, Any]:
    """A kit document from the CSV of one kind, told by its header. Raises DocumentError by row and column."""
    try:
        lines = [
            line
            for line in csv.reader(io.StringIO(text.lstrip("\ufeff")), strict=True)
            if any(map(str.strip, line))
        ]
    except csv.Error as error:
        raise DocumentError([Problem("", f"this is not CSV: {error}")]) from None
    if lines:
        header = [cell.strip() for cell in lines[0]]
    else:
        header = []
    # The header alone tells the kind: file names are whatever people call them.
    kind = _kind_of(header)
    if len(lines) > MOST_LINES:
        raise DocumentError(
            [
                Problem(
                    "",
                    f"holds {len(lines)} lines; up to {MOST_LINES} are taken at once",
                )
            ]
        )
    problems: list[Problem] = []
    entries = []
    for number, line in enumerate(lines[1:], start=2):
        entry, found = _entry(kind, header, line, f"row {number}")
        problems += found
        entries.append(entry)
        if len(problems) >= MOST_PROBLEMS:
            break
    if not entries:
        problems.append(Problem("", "holds a header and no rows"))
    if problems:
        raise DocumentError(problems)
    if kind.slug == "strobes":
        merged = _merged(entries)
    else:
        merged = entries
    return {"format": FORMAT, "version": VERSION, kind.slug: merged}


def _entry(
    kind: Kind, header: list[str], line: list[str], where: str
) -> tuple[dict[str, Any], list[Problem]]:
    """What one line holds, as the kit document writes it, or what is wrong with it."""
    # A comma within a text that was not quoted moves every cell after it.
    if len(line) != len(header):
        return {}, [
            Problem(where, f"has {len(line)} cells, the header has {len(header)}")
        ]
    entry: dict[str, Any] = {}
    problems = []
    for column, cell in zip(header, line, strict=True):
        try:
            value = _value(kind, column, cell)
        except ValueError as error:
            problems.append(Problem(f"{where}, {column}", str(error)))
            continue
        if value is not None:
            entry[column] = value
    if kind.slug != "strobes":
        part = entry
    else:
        part = _as_strobe(entry)
    return part, problems or _read_part(kind.slug, part, where)[1]


def _kind_of(header: list[str]) -> Kind:
    """The one kind that a header can be of: it has what that kind needs, and nothing that it has not.

    Columns may stand in any order, and files of earlier versions lack those that came later.
    """
    fitting = [kind for kind in KINDS.values() if _fits(header, kind)]
    if len(fitting) == 1:
        return fitting[0]
    known = "; ".join(
        f"{kind.slug}: {','.join(csv_header(kind))}" for kind in KINDS.values()
    )
    raise DocumentError(
        [
            Problem(
                "row 1",
                f"the header is not that of any kind of kit. Known headers are {known}",
            )
        ]
    )


def _fits(header: list[str], kind: Kind) -> bool:
    given = set(header)
    needed = {"name"} | {name for name, spec in kind.inputs.items() if spec.required}
    return len(given) == len(header) and needed <= given <= set(csv_header(kind))


def _as_strobe(entry: dict[str, Any]) -> dict[str, Any]:
    setting = {key: entry.pop(key) for key in SETTING_COLUMNS if key in entry}
    mode = setting.pop("mode", "")
    if not setting:
        return entry  # a strobe that waits for its table
    if mode:
        return {**entry, "modes": [{"name": mode, "durations": [setting]}]}
    return {**entry, "durations": [setting]}


def _merged(entries: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Lines of the same strobe become one entry with all their settings."""
    strobes: dict[tuple[Any, ...], dict[str, Any]] = {}
    tables: dict[
        tuple[Any, ...], dict[str, list[Any]]
    ] = {}  # by strobe, then by mode; "" is the table without a name
    for entry in entries:
        own = {
            name: value
            for name, value in entry.items()
            if name not in ("durations", "modes")
        }
        # Alike in everything but the setting: two strobes of one name with other figures stay two.
        key = tuple(sorted((name, repr(value)) for name, value in own.items()))
        strobes.setdefault(key, own)
        by_mode = tables.setdefault(key, {"": []})
        by_mode[""] += entry.get("durations", [])
        for mode in entry.get("modes", []):
            by_mode.setdefault(mode["name"], []).extend(mode["durations"])
    return [{**own, **_as_tables(tables[key])} for key, own in strobes.items()]


def _as_tables(by_mode: dict[str, list[Any]]) -> dict[str, Any]:
    modes = [
        {"name": mode, "durations": rows} for mode, rows in by_mode.items() if mode
    ]
    return {"durations": by_mode[""], "modes": modes}
