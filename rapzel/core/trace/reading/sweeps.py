"""From a table of numbers to evenly sampled sweeps: parted, on an even grid, in their units."""

import itertools

import numpy as np
import numpy.typing as npt
import polars as pl

from rapzel.core.trace.reading.layout import Layout
from rapzel.core.trace.reading.samples import (
    MOST_SWEEPS,
    Recording,
    Segment,
    TraceError,
)

_FEWEST = 8  # samples of a segment that is worth the name
_UNEVEN = 0.02  # of an interval: beyond it the samples are put on an even grid
_BLOCK = 1 << 16  # samples at a time, so that the arithmetic stays in the cache


def recording_of(table: pl.DataFrame, breaks: list[int], layout: Layout) -> Recording:
    """The channels of a table as sweeps; times in [s], values in the unit of their column.

    `breaks`: the rows before which a new sweep begins. Raises TraceError for what is no recording.
    """
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
        # The first sample at fault is named, so that it can be looked at in the file.
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
    # Stays a single float: a double would take twice the memory for no digit more.
    return values * np.float32(scale)


def _times(
    columns: dict[int, pl.Series], layout: Layout
) -> npt.NDArray[np.float64] | None:
    """When each sample was taken, in the column's unit; None where only the interval is known."""
    timed = layout.of("time")
    if timed:
        place = timed[0]
        times = columns[place].to_numpy()
        # Only the ends: what lies between is looked at when the spacing is.
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
        # A column that numbers the sweeps says it outright, and wins over the clock.
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
        # Off by half of the recording: no clock jitters so, it is another column.
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
        # In place and in blocks: four plain lines that make no copies.
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
