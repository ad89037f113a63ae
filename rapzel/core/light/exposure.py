"""Exposures put together, and what of the subject they clip (science §5). Stops against correct; 0 is correct."""

from collections.abc import Iterable

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]


def summed_stops(offsets: Iterable[float | None]) -> float | None:
    """Exposure by several lights together [stops]: log2 Σ 2^offset. None where none of them is known."""
    lights = [2.0**offset for offset in offsets if offset is not None]
    if lights:
        return float(np.log2(sum(lights)))
    return None


def clipped_share(reflectances: Array, offset_stops: float) -> float:
    """Share of the subject [0 … 1] that is recorded as plain white: reflectance × 2^offset at or above 1.

    reflectances: of equal areas of the subject, sorted from dark to light. A white surface (1.0) clips at 0 stops and
    above; a grey card (0.18) from 2.5 stops on.
    """
    if reflectances.size == 0:
        return 0.0
    # Sorted once, a share of the subject is a place in the list, asked for at every change of the
    # exposure.
    first = np.searchsorted(reflectances, 2.0**-offset_stops, side="left")
    return float(1 - first / reflectances.size)


def ratio_stops(whole: float, part: float) -> float:
    """By how many stops a part is less than the whole: log2(whole / part)."""
    return float(np.log2(whole / part))
