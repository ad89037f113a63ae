"""What a file of samples looks like: its encoding, delimiter, columns and units, recognised from its beginning.

A person confirms or corrects the layout before anything is measured.
"""

import itertools
import re
from collections.abc import Iterable
from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from rapzel.core.shared import numerals
from rapzel.core.shared.refusals import cleaned, storable
from rapzel.core.trace.reading.samples import TraceError

HEAD_BYTES = 262_144
MOST_COLUMNS = 64
# between two samples, of any instrument
SHORTEST_INTERVAL_S, LONGEST_INTERVAL_S = 1e-12, 3600.0
Role = Literal["time", "value", "index", "segment", "skip"]

TIME_UNITS = {
    "s": 1.0,
    "sec": 1.0,
    "second": 1.0,
    "seconds": 1.0,
    "ms": 1e-3,
    "µs": 1e-6,
    "us": 1e-6,
    "ns": 1e-9,
}
VALUE_UNITS = {
    "v": 1.0,
    "volt": 1.0,
    "volts": 1.0,
    "mv": 1e-3,
    "µv": 1e-6,
    "uv": 1e-6,
    "kv": 1e3,
}
_NUMBER = re.compile(
    r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?|[-+]?nan|[-+]?inf(?:inity)?",
    re.IGNORECASE,
)
_CONTROL = re.compile(rb"[\x00-\x08\x0e-\x1f]")
_TIME_NAMES = re.compile(
    r"^(t|time|zeit|temps|tiempo|x|x-axis|seconds?)(\b|_)", re.IGNORECASE
)
_INNER_UNIT = re.compile(r"[(\[]\s*([^)\]]+?)\s*[)\]]")  # Time (ms)
_LAST_UNIT = re.compile(r"[_\s](s|ms|us|µs|ns|v|mv)$", re.IGNORECASE)  # time_us
_INDEX_NAMES = re.compile(
    r"^(#|n|no|index|sample|samples|point|points)$", re.IGNORECASE
)
_SEGMENT_NAMES = re.compile(r"^(segment|frame|pop|sweep|shot|record)\b", re.IGNORECASE)
_INTERVAL = re.compile(
    r"(?:sampl\w*\s*(?:interval|period|time)|x?increment|xinc\w*|time\s*per\s*sample|interval|dt)\b[^0-9+-]*"
    r"(\d[\d.,]*(?:e[-+]?\d+)?|[.,]\d+)[\s,;]*(s|sec|ms|µs|us|ns)?\b",
    re.IGNORECASE,
)
_RATE = re.compile(
    r"(?:sampl\w*\s*(?:rate|frequency)|fs)\b[^0-9]*"
    r"(\d[\d.,\u202f\u2009 ]*(?:e[-+]?\d+)?)[\s,;]*([kMG]?)(?:Hz|Sa/?s|S/s)",
    re.IGNORECASE,
)
_DETECTOR = re.compile(
    r"detector\s*time\s*constant\b[^0-9]*([0-9.,eE+-]+)\s*(s|ms|µs|us|ns)?",
    re.IGNORECASE,
)


class Column(BaseModel):
    """One column: what it is called, what it holds, and the factor that makes SI of it."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(max_length=80)
    role: Role
    unit: str = Field("", max_length=20)
    scale: float = Field(1.0, gt=0, le=1e12)


class Layout(BaseModel):
    """How to read a file of samples; plain data, so that it can be stored, shown and corrected."""

    model_config = ConfigDict(extra="forbid")

    kind: Literal["text", "wav"] = "text"
    encoding: Literal["utf-8", "utf-16", "latin-1"] = "utf-8"
    delimiter: Literal[",", ";", "\t", " "] = ","
    decimal: Literal[".", ","] = "."
    first_row: int = Field(0, ge=0, le=100_000)
    columns: list[Column] = Field(min_length=1, max_length=MOST_COLUMNS)
    interval_s: float | None = Field(
        None, ge=SHORTEST_INTERVAL_S, le=LONGEST_INTERVAL_S
    )
    detector_s: float | None = Field(None, ge=SHORTEST_INTERVAL_S, le=10)
    preview: list[list[str]] = Field(default_factory=list)

    def of(self, role: Role) -> list[int]:
        """The places of the columns with a role."""
        return [
            place for place, column in enumerate(self.columns) if column.role == role
        ]


_NO_TEXT = "This is not text. Accepted: CSV, TSV or TXT with one sample a line, or a WAV recording."


def decode(head: bytes) -> tuple[str, Literal["utf-8", "utf-16", "latin-1"]]:
    """The text of a file's beginning and its encoding. Raises TraceError for what is not text."""
    # Spreadsheets on some systems write UTF-16, with a mark at the front.
    if head[:2] in (b"\xff\xfe", b"\xfe\xff"):
        text = head[: len(head) // 2 * 2].decode("utf-16", errors="replace")
        if not storable(text[: len(text) // 2]):
            raise TraceError(_NO_TEXT)
        return text, "utf-16"
    # Text holds no zero bytes, and hardly any control characters.
    if b"\x00" in head or len(_CONTROL.findall(head)) > len(head) * 0.01:
        raise TraceError(_NO_TEXT)
    try:
        return head.decode("utf-8-sig", errors="strict"), "utf-8"
    except UnicodeDecodeError as error:
        if error.start >= len(head) - 4:  # a character cut at the end of the head
            return head[: error.start].decode("utf-8-sig"), "utf-8"
        return head.decode("latin-1"), "latin-1"


def split(line: str, delimiter: str) -> list[str]:
    """A line's cells, quotes and spaces taken off; a delimiter at the very end ends the last cell."""
    if delimiter == " ":
        cells = line.split()
    else:
        cells = line.rstrip("\r\n").split(delimiter)
    return [cell.strip().strip('"').strip() for cell in cells]


def is_number(cell: str, decimal: str) -> bool:
    """Whether a cell is a number as this file writes them."""
    if decimal == ",":
        # With a decimal comma a point would part thousands, which no instrument writes in samples.
        if "." in cell:
            return False
        cell = cell.replace(",", ".")
    return _NUMBER.fullmatch(cell) is not None


def _numeric(cells: list[str], decimal: str) -> bool:
    if len(cells) > 1 and cells[-1] == "":
        filled = cells[:-1]
    else:
        filled = cells
    return bool(filled) and all(is_number(cell, decimal) for cell in filled)


def _shape(lines: list[str], delimiter: str, decimal: str) -> tuple[int, int, int]:
    """(rows of numbers, their number of cells, first such row) under one way of reading."""
    counts: dict[int, list[int]] = {}
    for row, line in enumerate(lines):
        cells = split(line, delimiter)
        if _numeric(cells, decimal):
            counts.setdefault(len(cells), []).append(row)
    if not counts:
        return 0, 0, 0
    # The width that most rows have is the table's; others are preamble or torn lines.
    width, rows = max(counts.items(), key=lambda item: (len(item[1]), item[0]))
    return len(rows), width, _first_of_a_run(rows)


def _first_of_a_run(rows: list[int]) -> int:
    """Where three rows in a row begin; a lone number in the preamble is not the data yet."""
    for place in range(len(rows) - 2):
        if rows[place + 2] == rows[place] + 2:
            return rows[place]
    return rows[0]


WAYS = {  # delimiter and decimal sign, the likelier first where two read alike
    ";,": "semicolons, decimal comma", ";.": "semicolons, decimal point", "\t.": "tabs, decimal point",
    "\t,": "tabs, decimal comma", ",.": "commas, decimal point", " .": "spaces, decimal point",
    " ,": "spaces, decimal comma",
}  # fmt: skip


def _best_way(lines: list[str], ways: list[str]) -> tuple[str, str, int, int, int]:
    found = []
    for rank, way in enumerate(ways):
        delimiter, decimal = way[0], way[1]
        rows, width, first = _shape(lines, delimiter, decimal)
        # A comma at the end of each line makes a second, empty column that is none.
        several = width > 1 and not (
            width == 2
            and all(split(line, delimiter)[-1] == "" for line in lines[first:][:5])
        )
        found.append(
            (
                rows * (2 if several else 1),
                -rank,
                delimiter,
                decimal,
                rows,
                width,
                first,
            )
        )
    _, _, delimiter, decimal, rows, width, first = max(found)
    return delimiter, decimal, rows, width, first


def recognise(head: bytes, way: str = "") -> Layout:
    """The layout of a file from its first bytes (up to HEAD_BYTES of them).

    way: a key of WAYS, delimiter and decimal sign, where a person knows better.
    Raises TraceError, in words that say what would be accepted, for anything that is not a table of numbers or WAV.
    """
    if not head.strip():
        raise TraceError(
            "The file is empty. Accepted: CSV, TSV or TXT with one sample a line, or a WAV recording."
        )
    if head[:4] == b"RIFF" and head[8:12] == b"WAVE":
        return Layout(kind="wav", columns=[Column(name="Sound card", role="value")])
    text, encoding = decode(head)
    lines = text.splitlines()
    if len(head) >= HEAD_BYTES:
        lines = lines[:-1]  # the last one may be cut
    # A preamble is short as a rule; only a file that hides its numbers is searched further.
    if way in WAYS:
        ways = [way]
    else:
        ways = list(WAYS)
    delimiter, decimal, rows, width, first = _best_way(lines[:300], ways)
    if rows < 20:
        delimiter, decimal, rows, width, first = _best_way(lines[:4000], ways)
    if width > MOST_COLUMNS:
        raise TraceError(
            f"The lines hold {width} numbers each; up to {MOST_COLUMNS} columns are read. Export fewer."
        )
    if rows < 3:
        raise TraceError(
            f"Only {rows} {'line holds' if rows == 1 else 'lines hold'} numbers. Accepted: a table with one sample a "
            "line, in columns separated by comma, semicolon, tab or spaces."
        )
    header, units = _header(lines, first, delimiter, width)
    before = "\n".join(lines[:first])
    body = [split(line, delimiter) for line in lines[first : first + 400]]
    body = [cells for cells in body if len(cells) == width and _numeric(cells, decimal)]
    interval = _interval(before, decimal)
    columns = _columns(header, units, body, decimal, interval is not None)
    preview = [[cell[:40] for cell in row] for row in body[:6]]
    return Layout(
        encoding=encoding,
        delimiter=delimiter,
        decimal=decimal,
        first_row=first,
        columns=columns,
        interval_s=interval,
        detector_s=_detector(before, decimal),
        preview=preview,
    )


def _header(
    lines: list[str], first: int, delimiter: str, width: int
) -> tuple[list[str], list[str]]:
    """Names and units from the lines just above the data: one line of names, or names and then units."""
    above: list[list[str]] = []
    # a blank line may part them
    before = [line for line in lines[max(first - 4, 0) : first] if line.strip()]
    for line in reversed(before[-2:]):
        cells = split(line, delimiter)
        if len(cells) != width or all(cell == "" for cell in cells):
            break
        above.insert(0, cells)
    if not above:
        return [""] * width, [""] * width
    # Names and then units is how many oscilloscopes head their tables.
    if len(above) == 2 and all(_unit_word(cell) or cell == "" for cell in above[1]):
        return above[0], [_unit_word(cell) for cell in above[1]]
    names = above[-1]
    inner = [_INNER_UNIT.search(name) or _LAST_UNIT.search(name) for name in names]
    units = [
        _unit_word(found[1]) if found else _unit_word(name)
        for found, name in zip(inner, names, strict=True)
    ]
    return [
        re.sub(r"\s*[(\[].*?[)\]]", "", name).strip() or name for name in names
    ], units


def _unit_word(text: str) -> str:
    plain = text.strip().strip("()[]").replace("\u03bc", "µ")
    if plain.lower() in TIME_UNITS or plain.lower() in VALUE_UNITS:
        return plain
    return ""


def _columns(
    names: list[str],
    units: list[str],
    body: list[list[str]],
    decimal: str,
    interval_known: bool,
) -> list[Column]:
    columns: list[Column] = []
    for place, (name, unit) in enumerate(zip(names, units, strict=True)):
        cells = [row[place] for row in body]
        role = _role(name, unit, cells, decimal, columns, interval_known)
        scale = (TIME_UNITS if role == "time" else VALUE_UNITS).get(unit.lower(), 1.0)
        fallback = {"time": "Time", "index": "Sample", "segment": "Segment"}.get(
            role, f"Channel {place + 1}"
        )
        columns.append(
            Column(
                name=(cleaned(name).strip() or fallback)[:80],
                role=role,
                unit=unit,
                scale=scale,
            )
        )
    if not any(
        column.role == "value" for column in columns
    ):  # a lone column that looks like time is a signal
        columns[-1] = columns[-1].model_copy(update={"role": "value", "scale": 1.0})
    return columns


def _role(
    name: str,
    unit: str,
    cells: list[str],
    decimal: str,
    before: list[Column],
    interval_known: bool,
) -> Role:
    if all(cell == "" for cell in cells):
        return "skip"
    if _SEGMENT_NAMES.match(name):
        return "segment"
    timed = any(column.role in ("time", "index") for column in before)
    if _INDEX_NAMES.match(name) or (
        interval_known and not timed and not name and _counts_up(cells, decimal)
    ):
        return "index"
    if timed:
        return "value"
    if unit.lower() in TIME_UNITS or _TIME_NAMES.match(name):
        return "time"
    # Nameless and rising evenly is time, unless the preamble has told the interval.
    if not before and not interval_known and _rises_evenly(cells, decimal):
        return "time"
    return "value"


def _floats(cells: Iterable[str], decimal: str) -> list[float]:
    return [
        float(cell.replace(",", ".") if decimal == "," else cell)
        for cell in cells
        if cell
    ]


def _rises_evenly(cells: list[str], decimal: str) -> bool:
    values = _floats(cells, decimal)
    steps = [b - a for a, b in itertools.pairwise(values)]
    if steps:
        usual = sorted(steps)[len(steps) // 2]
    else:
        usual = 0.0
    # Rounded times rise by uneven last digits; one row in twenty may be torn.
    return usual > 0 and sum(
        abs(step - usual) <= 0.5 * usual for step in steps
    ) >= 0.95 * len(steps)


def _counts_up(cells: list[str], decimal: str) -> bool:
    values = _floats(cells, decimal)
    return all(b - a == 1 for a, b in itertools.pairwise(values))


def _plain_float(text: str, decimal: str) -> float | None:
    """A figure of the preamble; a comma before three digits is what the file's own numbers say it is."""
    try:
        return float(
            numerals.plain(
                text.strip(" ,;"), "decimal" if decimal == "," else "thousands"
            )
        )
    except ValueError:
        return None


def _quantity(found: Any, decimal: str) -> float | None:
    if not found:
        return None
    value = _plain_float(found[1], decimal)
    if value and value > 0:
        return value * TIME_UNITS.get((found[2] or "s").lower(), 1.0)
    return None


def _between(value: float | None, low: float, high: float) -> float | None:
    """The value, None where no instrument has one like it: then a person is asked."""
    if value is not None and low <= value <= high:
        return value
    return None


def _detector(before: str, decimal: str) -> float | None:
    return _between(
        _quantity(_DETECTOR.search(before), decimal), SHORTEST_INTERVAL_S, 10.0
    )


def _interval(before: str, decimal: str) -> float | None:
    """The time between two samples [s] from what stands above the data."""
    interval = _quantity(_INTERVAL.search(before), decimal)
    if interval is None:
        found = _RATE.search(before)
        if found:
            rate = _plain_float(found[1], decimal)
        else:
            rate = None
        if found and rate and rate > 0:
            interval = 1 / (
                rate * {"": 1.0, "k": 1e3, "m": 1e6, "g": 1e9}[found[2].lower()]
            )
    return _between(interval, SHORTEST_INTERVAL_S, LONGEST_INTERVAL_S)
