"""Drop sizes: what a valve lets go in its open time, from drops that were counted and weighed."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from rapzel.core.shared.errors import CoreError


class NoSizes(CoreError, ValueError):
    """Weighings that say nothing of sizes, with what would."""


@dataclass(frozen=True, slots=True)
class Opening:
    """Mass of a drop against open time: m = rate · (open − dead). sd_kg: of weighings about it, if known."""

    rate_kg_s: float
    dead_s: float
    sd_kg: float | None

    def mass_kg(self, open_s: float) -> float:
        """Mass of a drop [kg]; 0 while the valve has not opened."""
        return max(self.rate_kg_s * (open_s - self.dead_s), 0.0)

    def open_s(self, mass_kg: float) -> float:
        """The open time for a drop of this mass [s]."""
        return self.dead_s + mass_kg / self.rate_kg_s


def calibrated(weighings: Sequence[tuple[float, float, float]]) -> Opening:
    """The line through weighings of (open time [s], number of drops, mass of all [kg]). Raises NoSizes.

    A weighing of more drops counts for more: its mass for one is that much better known.
    """
    if len({round(open_s, 7) for open_s, _, _ in weighings}) < 2:
        raise NoSizes("drops have to be weighed at two or more open times")
    times, drops, masses = (
        np.array(part, dtype=float) for part in zip(*weighings, strict=True)
    )
    each, weight = masses / drops, drops
    # The scatter of a mean goes down with the root of its number of drops.
    rate, start = np.polyfit(times, each, 1, w=np.sqrt(weight))
    # It would be a valve that closes as it opens.
    if rate <= 0:
        raise NoSizes(
            "a valve that is open for longer lets more go; these weighings say less"
        )
    left = each - (rate * times + start)
    free = len(times) - 2
    if free:
        sd = math.sqrt(float(np.sum(weight * left**2) / weight.mean() / free))
    else:
        sd = None
    return Opening(float(rate), float(-start / rate), sd)


def diameter_m(mass_kg: float, density_kg_m3: float) -> float:
    """Diameter of a drop as a sphere [m]."""
    return math.pow(6 * mass_kg / (math.pi * density_kg_m3), 1 / 3)


def mass_of(diameter: float, density_kg_m3: float) -> float:
    """Mass of a drop of a diameter [m] as a sphere [kg]."""
    return math.pi / 6 * diameter**3 * density_kg_m3
