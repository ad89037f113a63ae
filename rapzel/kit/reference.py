"""What the files of a kit hold: a table of keys for each kind, made from the classes that describe them.

The document `docs/kit.md` is what this writes; a test refuses it when it has fallen behind.
"""

from collections.abc import Iterator
from typing import Any

from rapzel.core.document.gear import NOT_KNOWN
from rapzel.kit.exchange import csv_header
from rapzel.kit.kinds import KINDS, Kind

Schema = dict[str, Any]

# By the ending of a key, the longest first: SI, as everywhere in the documents.
_UNITS = {
    "_pops_per_min": "1/min",
    "frames_per_s": "1/s",
    "power": "share of full",
    "_stops": "stops",
    "_ws": "W s",
    "_mm": "mm",
    "_k": "K",
    "_m": "m",
    "_s": "s",
}
# What stands in a list of its own within a thing of the kit: its title, and what null means in it.
_LISTS = {
    "Setting": ("A row of a duration table", "not known"),
    "Mode": ("A mode of a strobe", "not known"),
    "ZoomGuide": ("A guide number at a zoom", "not known"),
    "Drive": ("A drive mode", "no terms"),
}
_BEGINNING = """\
# What the files of a kit hold

Made from the classes by `manage.py kit_reference > docs/kit.md`; not written by hand. JSON has all keys, CSV those that
are marked. Figures are in SI with a decimal point; a guide number is that at ISO 100. What is null, or an empty cell,
is not known. Keys that begin with `x-` are allowed in JSON, and passed over.
"""
_HEADER = ("Key", "On the page", "Unit", "Accepted", "If not said", "CSV", "Meaning")


def kit_reference() -> str:
    """The whole document, as Markdown."""
    parts = [_BEGINNING]
    lists: dict[str, Schema] = {}
    for kind in KINDS.values():
        schema = _schema_of(kind)
        lists |= schema.get("$defs", {})
        parts.append(_section(kind.many, schema, set(csv_header(kind))))
    for name, (title, null_means) in _LISTS.items():
        parts.append(_section(title, lists[name], _columns_of(name), null_means))
    return "\n".join(parts)


def _schema_of(kind: Kind) -> Schema:
    """The schema of a kind, without what a scene alone may say of it."""
    schema = kind.part.model_json_schema()
    for key, info in kind.part.model_fields.items():
        # Read for the sake of old files, and not stored.
        if info.exclude:
            del schema["properties"][key]
    # The class takes a thing without a name, which a light of a scene may be; a kit does not.
    return {**schema, "required": ["name", *schema.get("required", [])]}


def _columns_of(name: str) -> set[str]:
    """What of a list stands in CSV: a strobe has a line for each row of its table."""
    if name != "Setting":
        return set()
    strobes: Kind = KINDS["strobes"]
    return set(csv_header(strobes)) - set(strobes.columns)


def _section(
    title: str, schema: Schema, columns: set[str], null_means: str = "not known"
) -> str:
    rows = [_HEADER, ("---",) * len(_HEADER)]
    required = schema.get("required", [])
    for key, field in schema["properties"].items():
        if_not_said = "must be said"
        if key not in required:
            if_not_said = _usual(field, null_means)
        rows.append(_row(key, field, if_not_said, key in columns))
    lines = [f"| {' | '.join(row)} |" for row in rows]
    return "\n".join([f"## {title}", "", *lines, ""])


def _row(key: str, field: Schema, if_not_said: str, in_csv: bool) -> tuple[str, ...]:
    # A hint that only says what empty means repeats the column beside it.
    hint = field.get("x-hint", "")
    if hint == NOT_KNOWN:
        hint = ""
    csv = "yes" if in_csv else ""
    return (
        f"`{key}`",
        str(field.get("x-label", "")),
        _unit(key),
        "; ".join(_accepted(field)),
        if_not_said,
        csv,
        str(field.get("description", hint)),
    )


def _unit(key: str) -> str:
    return next((unit for end, unit in _UNITS.items() if key.endswith(end)), "")


def _accepted(field: Schema) -> Iterator[str]:
    """What a key may be, in words; one that may be unknown also takes null."""
    words = field.get("x-choices", {})
    # A key that may be null is a choice of two in the schema.
    for way in field.get("anyOf", [field]):
        if way.get("type") == "null":
            yield "null"
        elif words:
            yield ", ".join(f"`{choice}`" for choice in words)
        elif "enum" in way:
            yield ", ".join(f"`{choice}`" for choice in way["enum"])
        elif way.get("type") == "array":
            yield f"a list of up to {way['maxItems']}"
        elif way.get("type") == "boolean":
            yield "true, false"
        elif way.get("type") == "string":
            yield f"up to {way['maxLength']} characters"
        else:
            yield _between(way)


def _between(way: Schema) -> str:
    """The bounds of a number; a whole one is said to be."""
    bounds = f"{_figure(way['minimum'])} to {_figure(way['maximum'])}"
    if way.get("type") == "integer":
        return f"a whole number, {bounds}"
    return bounds


def _figure(value: float) -> str:
    """A plain figure, large and small ones with an exponent: 1e9, 1e-5."""
    return f"{value:g}".replace("e+0", "e").replace("e-0", "e-")


def _usual(field: Schema, null_means: str) -> str:
    """What is taken where a file says nothing."""
    usual = field.get("default")
    if usual is None:
        return null_means
    if usual in ("", []):
        return "empty"
    if isinstance(usual, bool):
        return f"`{str(usual).lower()}`"
    if isinstance(usual, float):
        return f"`{_figure(usual)}`"
    return f"`{usual}`"
