"""Light that pulsates with the mains or with its dimmer, as an exposure sees it (handbook §17).

Kernels: seconds and hertz; light relative to its mean, which is 1. A sine of depth m is 1 + m cos 2πft; a light that is
switched has two levels, and the same depth (most − least) / (most + least).
"""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Pulsation:
    """How a light pulsates: frequency of the light itself, depth [0 … 1], and share of the period that it is on.

    lit_share: of a light that is switched on and off; None for a sine.
    """

    frequency_hz: float
    depth: float
    lit_share: float | None = None

    @property
    def _two_levels(self) -> tuple[float, float]:
        """The light while it is on and while it is off, of a switched one."""
        on = self.lit_share or 0.0
        mean = on * (1 + self.depth) + (1 - on) * (1 - self.depth)
        return (1 + self.depth) / mean, (1 - self.depth) / mean

    def _come_by(self, periods: Array) -> Array:
        """The light that has come after so many periods, a period's light being 1."""
        if self.lit_share is None:
            swings = self.depth * np.sin(2 * np.pi * periods) / (2 * np.pi)
            return np.asarray(periods + swings)
        bright, dim = self._two_levels
        whole = np.floor(periods)
        on = np.minimum(periods - whole, self.lit_share) + whole * self.lit_share
        return np.asarray(bright * on + dim * (periods - on))

    def levels(self, begins_s: npt.ArrayLike, exposure_s: float) -> Array:
        """Mean light over openings that begin at each time and last `exposure_s`; the light is at its crest at 0."""
        begin = np.asarray(begins_s, dtype=float) * self.frequency_hz
        length = exposure_s * self.frequency_hz
        return (self._come_by(begin + length) - self._come_by(begin)) / length

    def extremes(self, exposure_s: float) -> tuple[float, float]:
        """The least and the most mean light that an opening of that length may get, whenever it begins."""
        length = exposure_s * self.frequency_hz
        if self.lit_share is None:
            # Source: handbook §17, m · |sinc(f t)|.
            swing = self.depth * abs(float(np.sinc(length)))
            return 1 - swing, 1 + swing
        bright, dim = self._two_levels
        whole = math.floor(length)
        rest = length - whole
        # An opening that begins with the light has the most of it, one that begins as it goes out the least.
        most = whole * self.lit_share + min(rest, self.lit_share)
        least = whole * self.lit_share + max(rest - (1 - self.lit_share), 0.0)

        def mean(on: float) -> float:
            return (bright * on + dim * (length - on)) / length

        return mean(least), mean(most)

    def bands(self, travel_s: float) -> float:
        """How many bands lie over a frame whose rows open one after another in `travel_s` [s]."""
        return travel_s * self.frequency_hz
