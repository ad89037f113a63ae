"""From the bytes of a text file to a table of numbers, and the rows before which a new sweep begins.

Clean tables go through polars' reader in one pass. Files with lines of words between their sweeps take a slower way
that tells the lines apart; what is neither is refused with the line at fault.
"""

import io
import re
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl

from rapzel.core.trace.reading.layout import HEAD_BYTES, Layout, split
from rapzel.core.trace.reading.samples import MOST_SAMPLES, TraceError

_LONGEST_LINE = 64_000  # characters
# of a file whose sweeps are parted by words: it is read line by line
_LARGEST_WITH_WORDS = 20 * 2**20


def refuse_endless_lines(source: Path | bytes) -> None:
    """Raises TraceError for a line that no table has: a reader would take its time and memory over it."""
    number = 1
    with source.open("rb") if isinstance(source, Path) else io.BytesIO(source) as file:
        # A block without an end of line is part of a line that is longer than any table's.
        while block := file.read(_LONGEST_LINE):
            if (
                len(block) == _LONGEST_LINE
                and b"\n" not in block
                and b"\r" not in block
            ):
                raise TraceError(
                    f"About line {number} is longer than {_LONGEST_LINE // 1000} thousand characters: that is no table "
                    "with one sample a line. Accepted: up to 64 numbers in a line."
                )
            number += block.count(b"\n")


def _source(source: Path | bytes, layout: Layout) -> Path | bytes:
    """The file as polars can take it: UTF-8, with one delimiter between two cells."""
    # Both cost a copy of the whole text, so that only files that need it pay for it.
    if layout.encoding == "utf-16" or layout.delimiter == " ":
        if isinstance(source, Path):
            raw = source.read_bytes()
        else:
            raw = source
        text = raw.decode(layout.encoding, errors="replace")
        if layout.delimiter == " ":
            text = "\n".join("\t".join(line.split()) for line in text.splitlines())
        return text.encode("utf-8")
    return source


def _names(layout: Layout) -> list[str]:
    return [str(place) for place in range(len(layout.columns))]


def table_of(source: Path | bytes, layout: Layout) -> tuple[pl.DataFrame, list[int]]:
    """The columns as numbers, and the rows before which a new sweep begins."""
    given = _source(source, layout)
    if layout.delimiter == " ":
        delimiter = "\t"
    else:
        delimiter = layout.delimiter
    types: dict[str, Any] = {
        # Times need all their digits; a detector has no more than a single float holds.
        name: pl.Float64 if column.role in ("time", "index") else pl.Float32
        for name, column in zip(_names(layout), layout.columns, strict=True)
    }
    # An empty last cell is what a delimiter at the end of each line leaves.
    types |= {
        name: pl.String
        for name, c in zip(_names(layout), layout.columns, strict=True)
        if c.role == "skip"
    }
    try:
        table = pl.read_csv(
            given,
            has_header=False,
            skip_lines=layout.first_row,
            separator=delimiter,
            schema=types,
            decimal_comma=layout.decimal == ",",
            quote_char='"' if _quoted(given, layout) else None,
            raise_if_empty=False,
            encoding="utf8-lossy" if layout.encoding == "latin-1" else "utf8",
        )
    except pl.exceptions.PolarsError:
        return _table_with_words(_small_enough(given), layout, delimiter)
    kept = [
        name
        for name, column in zip(_names(layout), layout.columns, strict=True)
        if column.role != "skip"
    ]
    table = table.select(kept)
    if any(table.null_count().row(0)):
        # Blank lines, between sweeps or at the end.
        blank = pl.all_horizontal(pl.all().is_null()).any()
        if table.select(blank).item():
            return _table_with_words(_small_enough(given), layout, delimiter)
        # Filling a hole in would invent a sample.
        raise TraceError(_hole(table, layout))
    return table, []


def _quoted(given: Path | bytes, layout: Layout) -> bool:
    """Whether the data begin with quoted cells; a lone quote further down would swallow the rest of the file."""
    if isinstance(given, bytes):
        head = given[:HEAD_BYTES]
    else:
        head = _head(given)
    rows = head.split(b"\n")[layout.first_row : layout.first_row + 20]
    return any(row.count(b'"') >= 2 for row in rows)


def _head(path: Path) -> bytes:
    with path.open("rb") as file:
        return file.read(HEAD_BYTES)


def _small_enough(given: Path | bytes) -> Path | bytes:
    """The file, if it may be read line by line. Raises TraceError for a large one that is not a clean table."""
    if isinstance(given, bytes):
        size = len(given)
    else:
        size = given.stat().st_size
    if size <= _LARGEST_WITH_WORDS:
        return given
    raise TraceError(
        "Not every line of the data is a row of as many numbers. Files of more than 20 MB must be one table of numbers "
        "after the header; export each sweep by itself, or the sweeps with a column that numbers them."
    )


def _hole(table: pl.DataFrame, layout: Layout) -> str:
    name = next(name for name in table.columns if table[name].null_count())
    row = int(table[name].is_null().arg_max() or 0)
    return (
        f"Line {layout.first_row + row + 1} has no number in column {int(name) + 1} "
        f"({layout.columns[int(name)].name}). Accepted: a number in every cell."
    )


def _table_with_words(
    given: Path | bytes, layout: Layout, delimiter: str
) -> tuple[pl.DataFrame, list[int]]:
    """The slower way: line by line; blank lines and lines of words part the sweeps, anything else is refused."""
    if isinstance(given, Path):
        raw = given.read_bytes()
    else:
        raw = given
    lines = raw.decode("utf-8-sig", errors="replace").splitlines()
    width = len(layout.columns)
    used = [
        place for place, column in enumerate(layout.columns) if column.role != "skip"
    ]
    rows: list[list[float]] = []
    breaks: list[int] = []
    for number, line in enumerate(
        lines[layout.first_row :], start=layout.first_row + 1
    ):
        # A line is a row, a header between sweeps, or nothing that belongs in a recording.
        cells = split(line, delimiter)
        numbers = [_number(cell, layout.decimal) for cell in cells]
        known = [value is not None for value in numbers]
        if len(cells) == width and all(known[place] for place in used):
            # (a number in every used column is held by the line above)
            rows.append([numbers[place] or 0.0 for place in used])
        elif not any(known) or _is_preamble(cells, known):
            # Several lines of words in a row part two sweeps once.
            if rows and (not breaks or breaks[-1] != len(rows)):
                breaks.append(len(rows))
        else:
            raise TraceError(
                f"Line {number} reads “{line[:60]}”, where {width} {'number was' if width == 1 else 'numbers were'} "
                "expected. Accepted: the same columns in every line; sweeps parted by a blank line or a header."
            )
        if len(rows) > MOST_SAMPLES:
            raise TraceError(f"The file has more than {MOST_SAMPLES} samples.")
    names = [name for place, name in enumerate(_names(layout)) if place in used]
    block = np.array(rows, dtype=np.float64).reshape(-1, len(used))
    table = pl.DataFrame({name: block[:, place] for place, name in enumerate(names)})
    return table, [each for each in breaks if each < len(rows)]


def _is_preamble(cells: list[str], known: list[bool]) -> bool:
    """A line of a repeated preamble ('Segment,2'): words in its first cell."""
    return not known[0] and re.search(r"[A-Za-z]", cells[0]) is not None


def _number(cell: str, decimal: str) -> float | None:
    try:
        # A comma is a decimal sign only in files that were recognised to use it.
        value = float(cell.replace(",", ".") if decimal == "," else cell)
    except ValueError:
        return None
    return value
