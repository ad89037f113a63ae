"""From a file and its layout to evenly sampled segments.

Clean tables go through polars' reader in one pass. Files with lines of words between their sweeps take a slower way
that tells the lines apart; what is neither is refused with the line at fault.
"""

import io
import itertools
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
import polars as pl

from rapzel.core.trace.reading.layout import HEAD_BYTES, Layout, split
from rapzel.core.trace.reading.samples import (
    LARGEST_FILE,
    MOST_SAMPLES,
    MOST_SWEEPS,
    Recording,
    Segment,
    TraceError,
)
from rapzel.core.trace.reading.sound import read_sound

Progress = Callable[[float], None]
_FEWEST = 8  # samples of a segment that is worth the name
_UNEVEN = 0.02  # of an interval: beyond it the samples are put on an even grid
_LONGEST_LINE = 64_000  # characters
# of a file whose sweeps are parted by words: it is read line by line
_LARGEST_WITH_WORDS = 20 * 2**20
_BLOCK = 1 << 16  # samples at a time, so that the arithmetic stays in the cache


def read(
    source: Path | bytes, layout: Layout, progress: Progress = lambda share: None
) -> Recording:
    """The recording in a file.

    `progress` is told the share done [0 … 1] and may raise to stop. Raises TraceError for a file over 100 MB or ten
    million samples, for cells that are not numbers (with their line), and for times that make no sense.
    """
    if isinstance(source, Path):
        size = source.stat().st_size
    else:
        size = len(source)
    if size > LARGEST_FILE:
        raise TraceError(
            f"The file has {size / 2**20:.0f} MB; up to 100 MB are read. Export fewer samples."
        )
    progress(0.05)
    if layout.kind == "wav":
        return read_sound(source)
    _refuse_endless_lines(source)
    table, breaks = _table(source, layout)
    if table.height > MOST_SAMPLES:
        raise TraceError(
            f"The file has {table.height} samples; up to {MOST_SAMPLES} are read."
        )
    progress(0.5)
    recording = _recording(table, breaks, layout)
    progress(0.7)
    return recording


def _refuse_endless_lines(source: Path | bytes) -> None:
    """Raises TraceError for a line that no table has: a reader would take its time and memory over it."""
    number = 1
    with source.open("rb") if isinstance(source, Path) else io.BytesIO(source) as file:
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


# --- text -----------------------------------------------------------------------------------------------------------


def _source(source: Path | bytes, layout: Layout) -> Path | bytes:
    """The file as polars can take it: UTF-8, with one delimiter between two cells."""
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


def _table(source: Path | bytes, layout: Layout) -> tuple[pl.DataFrame, list[int]]:
    """The columns as numbers, and the rows before which a new sweep begins."""
    given = _source(source, layout)
    if layout.delimiter == " ":
        delimiter = "\t"
    else:
        delimiter = layout.delimiter
    types: dict[str, Any] = {
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
        if table.select(
            pl.all_horizontal(pl.all().is_null()).any()
        ).item():  # blank lines, between sweeps or at the end
            return _table_with_words(_small_enough(given), layout, delimiter)
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
        cells = split(line, delimiter)
        numbers = [_number(cell, layout.decimal) for cell in cells]
        known = [value is not None for value in numbers]
        if len(cells) == width and all(known[place] for place in used):
            rows.append([numbers[place] or 0.0 for place in used])
        elif not any(known) or _is_preamble(cells, known):
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
        value = float(cell.replace(",", ".") if decimal == "," else cell)
    except ValueError:
        return None
    return value


# --- from a table to segments -----------------------------------------------------------------------------------------


def _recording(table: pl.DataFrame, breaks: list[int], layout: Layout) -> Recording:
    values = layout.of("value")
    if not values:
        raise TraceError(
            "No column is marked as a signal. Accepted: at least one column of values."
        )
    columns = {
        place: table[str(place)]
        for place in range(len(layout.columns))
        if str(place) in table.columns
    }
    channels = [_channel(columns[place].to_numpy(), layout, place) for place in values]
    times = _times(columns, layout)
    count = len(channels[0])
    # Sweeps are parted by blank lines, by a clock that jumps back, or by their numbers.
    edges = [0, *sorted({*breaks, *_resets(columns, layout, times)}), count]
    if len(edges) - 1 > MOST_SWEEPS:
        raise TraceError(
            f"The file holds {len(edges) - 1} sweeps; up to {MOST_SWEEPS} are measured at once."
        )
    notes: list[str] = []
    segments = []
    for begin, end in itertools.pairwise(edges):
        # A scrap between two headers is no sweep.
        if end - begin < _FEWEST:
            continue
        parts = [channel[begin:end] for channel in channels]
        segments.append(
            _segment(None if times is None else times[begin:end], parts, layout, notes)
        )
    if not segments:
        raise TraceError(
            f"The file holds {count} samples. Accepted: at least {_FEWEST} in a row."
        )
    return Recording(
        channels=tuple(layout.columns[place].name for place in values),
        units=tuple(_unit(layout, place) for place in values),
        segments=tuple(segments),
        detector_s=layout.detector_s,
        notes=tuple(dict.fromkeys(notes)),
    )


def _unit(layout: Layout, place: int) -> str:
    if layout.columns[place].unit.lower() in (
        "v",
        "mv",
        "µv",
        "uv",
        "kv",
        "volt",
        "volts",
    ):
        return "V"
    return ""


def _channel(
    values: npt.NDArray[np.floating], layout: Layout, place: int
) -> npt.NDArray[np.floating]:
    """A column of values in its unit; refuses what is not finite or beyond any instrument."""
    low, high = float(values.min(initial=0.0)), float(values.max(initial=0.0))
    if not (np.isfinite(low) and np.isfinite(high)):
        row = int(np.flatnonzero(~np.isfinite(values))[0])
        raise TraceError(
            f"Sample {row + 1} of “{layout.columns[place].name}” is not a finite number. Accepted: numbers only."
        )
    if max(-low, high) > 1e12:
        raise TraceError(
            f"“{layout.columns[place].name}” reaches {max(-low, high):.3g}: no instrument reads that far."
        )
    scale = layout.columns[place].scale
    if scale == 1.0:
        return values
    return values * np.float32(scale)


def _times(
    columns: dict[int, pl.Series], layout: Layout
) -> npt.NDArray[np.float64] | None:
    """When each sample was taken, in the column's unit; None where only the interval is known."""
    timed = layout.of("time")
    if timed:
        place = timed[0]
        times = columns[place].to_numpy()
        if not np.isfinite(times[[0, -1]]).all():
            raise TraceError(
                f"“{layout.columns[place].name}” is not a finite number throughout."
            )
        return times
    if layout.interval_s is None:
        raise TraceError(
            "Neither a time column nor the interval between two samples is known. Name one: the column that holds the "
            "time, or the interval, for example 1 µs."
        )
    return None


def _resets(
    columns: dict[int, pl.Series], layout: Layout, times: npt.NDArray[np.float64] | None
) -> list[int]:
    """Rows at which a new sweep begins: the time jumps back, or the segment's number changes."""
    numbered = layout.of("segment")
    if numbered:
        marks = columns[numbered[0]].to_numpy()
        return [int(place) + 1 for place in np.flatnonzero(np.diff(marks) != 0)]
    if times is None:
        return []
    found: list[int] = []
    for begin in range(0, len(times) - 1, _BLOCK):  # in blocks, for the sake of memory
        back = np.diff(times[begin : begin + _BLOCK + 1])
        if back.min() >= 0:
            continue
        found += [begin + int(place) + 1 for place in np.flatnonzero(back < 0)]
        if len(found) > 10_000:
            raise TraceError(
                "The time column runs back and forth: it is not a time. Choose another column."
            )
    return found


def _segment(
    times: npt.NDArray[np.float64] | None,
    parts: list[npt.NDArray[np.floating]],
    layout: Layout,
    notes: list[str],
) -> Segment:
    if times is None:
        assert layout.interval_s is not None, "held by _times"
        return Segment(0.0, layout.interval_s, tuple(parts))
    count = len(times)
    first, last = float(times[0]), float(times[-1])
    # From end to end: single steps carry the rounding of what is printed.
    dt = (last - first) / (count - 1)
    if not (np.isfinite(dt) and dt > 0):
        raise TraceError(
            "The time column does not run on: every sample has the same time. Choose another column."
        )
    scale = layout.columns[layout.of("time")[0]].scale
    worst = _unevenness(times, first, dt)
    if not np.isfinite(worst):
        raise TraceError("The time column holds something that is not a finite number.")
    if worst > max(_UNEVEN, 1e-9 * max(abs(first), abs(last)) / dt):
        if worst > 0.5 * count:
            raise TraceError(
                "The time column jumps: it is not evenly sampled. Choose another column."
            )
        notes.append(
            "The samples were not evenly spaced in time; they were put on an even grid by interpolation."
        )
        even = first + dt * np.arange(count)
        # All that follows counts on even steps.
        parts = [np.interp(even, times, part) for part in parts]
    return Segment(first * scale, dt * scale, tuple(parts))


def _unevenness(times: npt.NDArray[np.float64], first: float, dt: float) -> float:
    """Furthest that a sample lies from the even grid [intervals].

    Where every step is nearly alike, a look at one sample in a hundred tells as much as a look at all.
    """
    worst = 0.0
    if _steps_alike(times, dt):
        away = times[::100] - first - dt * np.arange(0, len(times), 100)
        return float(np.abs(away).max()) / dt
    for begin in range(0, len(times), _BLOCK):
        part = times[begin : begin + _BLOCK]
        away = np.arange(begin, begin + len(part), dtype=np.float64)
        away *= -dt
        away += part
        away -= first
        worst = max(worst, float(away.max()), -float(away.min()))
    return worst / dt


def _steps_alike(times: npt.NDArray[np.float64], dt: float) -> bool:
    for begin in range(0, len(times) - 1, _BLOCK):
        steps = np.diff(times[begin : begin + _BLOCK + 1])
        if steps.min() < dt * (1 - _UNEVEN) or steps.max() > dt * (1 + _UNEVEN):
            return False
    return True
