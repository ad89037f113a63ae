"""From a file and its layout to evenly sampled segments: the door of the reading."""

from collections.abc import Callable
from pathlib import Path

from rapzel.core.trace.reading.layout import Layout
from rapzel.core.trace.reading.samples import (
    LARGEST_FILE,
    MOST_SAMPLES,
    Recording,
    TraceError,
)
from rapzel.core.trace.reading.sound import read_sound
from rapzel.core.trace.reading.sweeps import recording_of
from rapzel.core.trace.reading.tables import refuse_endless_lines, table_of

Progress = Callable[[float], None]


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
    refuse_endless_lines(source)
    table, breaks = table_of(source, layout)
    if table.height > MOST_SAMPLES:
        raise TraceError(
            f"The file has {table.height} samples; up to {MOST_SAMPLES} are read."
        )
    progress(0.5)
    recording = recording_of(table, breaks, layout)
    progress(0.7)
    return recording
