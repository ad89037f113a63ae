"""A light that jumps about against the opening: what each of many frames records (science §7). Times in seconds."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.special import ndtri

from rapzel.core.pulse.shape import Array
from rapzel.core.shared import constants
from rapzel.core.shared.once import once
from rapzel.core.shutter.curve import Flash
from rapzel.core.shutter.rows import Opening

# Frames whose lights are spread as evenly as can be: a share of them is good to a fifth of a percent.
FRAMES = 255
# Rows that are looked at: the ends lose first, those between when several lights come at several times.
_ROWS = np.linspace(0.0, 1.0, 5)
_DARKER = 2.0**-constants.DARK_FRAME_STOPS
_LATE_ENOUGH = 1 - constants.DARK_FRAMES


@lru_cache(maxsize=32)
def late_s(jitter_s: float, even: bool = False) -> Array:
    """By how much the light comes late in each of `FRAMES` frames [s], in order; one frame of 0 without jitter.

    jitter_s: standard deviation; even: spread evenly instead of normally.
    """
    if not jitter_s:
        return np.zeros(1)
    middles = (np.arange(FRAMES) + 0.5) / FRAMES
    if even:
        return np.asarray(jitter_s * np.sqrt(12) * (middles - 0.5))
    return np.asarray(jitter_s * ndtri(middles))


@dataclass(frozen=True)
class Frames:
    """Frames of one opening and its lights, each with the lights so much later [s]."""

    opening: Opening
    flashes: tuple[Flash, ...]
    late_s: Array

    @once
    def by_row(self) -> Array:
        """Share of all light that each row of each frame records [0 … 1]: frames × rows."""
        # Where all rows open at once, they all get the same.
        rows = _ROWS if self.opening.travel_s else _ROWS[:1]
        opens = self.opening.opens(rows)[None, :] - self.late_s[:, None]
        return shares_between(self.flashes, opens, opens + self.opening.shutter_s)

    @once
    def worst(self) -> Array:
        """The darkest row of each frame, as a share of all light [0 … 1]."""
        return np.asarray(self.by_row.min(axis=1))

    @property
    def mean_share(self) -> float:
        """Of all light, that the darkest row records on average [0 … 1]."""
        return float(self.worst.mean())

    def darker_than(self, share: float) -> float:
        """Share of frames that are half a stop darker than one which records that share of the light [0 … 1]."""
        return float(np.mean(self.worst < share * _DARKER * (1 - 1e-9)))

    @once
    def fall_stops(self) -> Array:
        """From the brightest to the darkest row of each frame [stops, positive]."""
        floor = 2.0**-constants.DARKEST_STOPS
        return np.asarray(np.ptp(np.log2(np.maximum(self.by_row, floor)), axis=1))


def shares_between(flashes: Sequence[Flash], begin_s: Array, end_s: Array) -> Array:
    """Share of all lights together that comes between two instants [0 … 1]; arrays of any shape."""
    total = sum(flash.weight for flash in flashes)
    if not total:
        return np.zeros(np.shape(begin_s))
    given = (flash.weight * flash.between(begin_s, end_s) for flash in flashes)
    return np.asarray(sum(given) / total)


def latest_of(jitter_late_s: Array) -> float:
    """By how much all but a few frames come late at most [s]."""
    # Without jitter, as most scenes are, there is nothing to sort.
    if len(jitter_late_s) == 1:
        return float(jitter_late_s[0])
    return float(np.quantile(jitter_late_s, _LATE_ENOUGH))


def tolerated_s(latest_s: float, jitter_late_s: Array) -> float:
    """How much later than the usual frame a shutter must still be open for all but a few frames [s].

    latest_s: by when the usual frame's light is out but for half a stop; nineteen frames in twenty are no later than
    that and the jitter of their kind.
    """
    return latest_s + latest_of(jitter_late_s)
