"""Measured light: samples in; a pulse or a lag out, with its spread and its doubts (science §4).

`layout.recognise` looks at a file, `reading.read` loads it, `analysis.analyse` says what its light did. The last two
load signal processing when they are first asked for: what only looks at a file does without its memory.
"""

from importlib import import_module
from typing import TYPE_CHECKING, Any

from rapzel.core.trace.reading.layout import Layout, recognise
from rapzel.core.trace.reading.samples import Recording, Segment

if TYPE_CHECKING:
    from rapzel.core.trace.measuring.analysis import analyse, analyse_recording
    from rapzel.core.trace.reading.reading import read

__all__ = [
    "Layout",
    "Recording",
    "Segment",
    "analyse",
    "analyse_recording",
    "read",
    "recognise",
]

_HEAVY = {
    "analyse": "measuring.analysis",
    "analyse_recording": "measuring.analysis",
    "read": "reading.reading",
}


def __getattr__(name: str) -> Any:
    if name not in _HEAVY:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    return getattr(import_module(f"{__name__}.{_HEAVY[name]}"), name)
