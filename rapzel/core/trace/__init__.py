"""Measured light: samples in; a pulse or a lag out, with its spread and its doubts (science §4).

`layout.recognise` looks at a file, `reading.read` loads it, `analysis.analyse` says what its light did.
"""

from rapzel.core.trace.analysis import analyse, analyse_recording
from rapzel.core.trace.layout import Layout, recognise
from rapzel.core.trace.reading import read
from rapzel.core.trace.samples import Recording, Segment

__all__ = ["Layout", "Recording", "Segment", "analyse", "analyse_recording", "read", "recognise"]
