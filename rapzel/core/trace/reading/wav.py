"""WAV files as they come: the samples in their own kind of number, and what full scale and silence are in it."""

import io
import warnings
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.io import wavfile

from rapzel.core.trace.reading.samples import TraceError

_FULL = {
    np.dtype(np.uint8): 128.0,
    np.dtype(np.int16): 2.0**15,
    np.dtype(np.int32): 2.0**31,
}


@dataclass(frozen=True)
class Wav:
    """Samples × channels, as stored; a sample s stands for (s − silence) / full."""

    rate_hz: float
    samples: npt.NDArray[Any]
    full: float
    silence: float

    @property
    def step(self) -> float:
        """The smallest difference that is stored, as a share of full scale."""
        if self.full > 1:
            return 1 / self.full
        return 1e-6

    @property
    def channels(self) -> int:
        return int(self.samples.shape[1])


def read_wav(source: Path | bytes, most_samples: int) -> Wav:
    """The recording in a WAV file. Raises TraceError for what is none, is empty, too long or not finite."""
    try:
        with warnings.catch_warnings():
            # chunks of words, of no use here
            warnings.simplefilter("ignore", wavfile.WavFileWarning)
            rate, samples = wavfile.read(
                source if isinstance(source, Path) else io.BytesIO(source)
            )
    except Exception as error:  # the reader raises whatever the file's bytes lead it to
        raise TraceError(
            f"This WAV file cannot be read: {error}. Accepted: PCM or float, uncompressed."
        ) from None
    if samples.size == 0 or rate <= 0:
        raise TraceError("This WAV file holds no samples.")
    if samples.shape[0] > most_samples:
        raise TraceError(
            f"The recording has {samples.shape[0]} samples; up to {most_samples} are read."
        )
    # One channel comes without its axis.
    grid = samples.reshape(samples.shape[0], -1)
    if grid.dtype.kind == "f" and not np.isfinite(grid).all():
        raise TraceError("This WAV file holds samples that are not finite numbers.")
    # Eight bits are stored without a sign, their silence in the middle.
    if grid.dtype == np.uint8:
        silence = 128.0
    else:
        silence = 0.0
    return Wav(float(rate), grid, _FULL.get(grid.dtype, 1.0), silence)
