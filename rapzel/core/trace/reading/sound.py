"""Light that was recorded with a sound card: a WAV file as a recording of one sweep."""

from pathlib import Path

import numpy as np

from rapzel.core.trace.reading.samples import MOST_SAMPLES, Recording, Segment
from rapzel.core.trace.reading.wav import read_wav


def read_sound(source: Path | bytes) -> Recording:
    """Each channel as a part of one segment, its samples as shares of full scale. Raises TraceError as `read_wav`."""
    wav = read_wav(source, MOST_SAMPLES)
    grid = (wav.samples.astype(np.float32) - np.float32(wav.silence)) / np.float32(
        wav.full
    )
    if wav.channels == 2:
        names: tuple[str, ...] = ("Left", "Right")
    else:
        names = tuple(f"Channel {number}" for number in range(1, wav.channels + 1))
    parts = tuple(grid[:, place].copy() for place in range(wav.channels))
    return Recording(
        channels=names,
        units=("",) * wav.channels,
        segments=(Segment(0.0, 1.0 / wav.rate_hz, parts),),
    )
