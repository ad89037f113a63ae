"""A recording as the analysis takes it: evenly sampled segments of one or more channels."""

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from rapzel.core.shared.errors import CoreError

Samples = npt.NDArray[np.floating]
LARGEST_FILE = 100 * 2**20
MOST_SAMPLES = 10_000_000
MOST_SWEEPS = 1000


class TraceError(CoreError, ValueError):
    """A file or a trace that cannot be read; str() says why and what would be accepted."""


@dataclass(frozen=True)
class Segment:
    """One sweep: `values[c]` are the samples of channel c, taken every `dt_s` from `t0_s` on [s]."""

    t0_s: float
    dt_s: float
    values: tuple[Samples, ...]

    @property
    def count(self) -> int:
        """Samples of each channel."""
        return len(self.values[0])

    @property
    def length_s(self) -> float:
        """Time from the first sample to the last [s]."""
        return (self.count - 1) * self.dt_s

    def times_s(self) -> npt.NDArray[np.floating]:
        """When each sample was taken [s]."""
        return self.t0_s + self.dt_s * np.arange(self.count)


@dataclass(frozen=True)
class Recording:
    """A file's segments, the names and units of its channels, and what was noticed while reading."""

    channels: tuple[str, ...]
    units: tuple[str, ...]
    segments: tuple[Segment, ...]
    detector_s: float | None = None
    notes: tuple[str, ...] = field(default=())

    def channel(self, wanted: int | None = None) -> int:
        """The wanted channel, else the first that looks like light. Raises TraceError for one that is not there."""
        if wanted is not None:
            if not 0 <= wanted < len(self.channels):
                count = len(self.channels)
                raise TraceError(
                    f"There is no channel {wanted + 1}: this recording has channels 1 to {count}."
                )
            return wanted
        first = self.segments[0]
        return next(
            (
                place
                for place, values in enumerate(first.values)
                if _is_a_signal(values)
            ),
            0,
        )


def _is_a_signal(values: Samples) -> bool:
    """Whether a channel looks like light: it stands out of its own scatter and has more than two levels."""
    thinned = values[:: max(len(values) // 20_000, 1)].astype(float)
    low, high = float(thinned.min()), float(thinned.max())
    # A trigger channel has two levels and hardly anything between them; noise has no height.
    scatter = float(np.median(np.abs(np.diff(thinned))))
    if high - low <= 8 * scatter:
        return False
    between = (thinned > low + 0.1 * (high - low)) & (
        thinned < high - 0.1 * (high - low)
    )
    return int(np.count_nonzero(between)) > 4
