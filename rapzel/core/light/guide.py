"""Guide numbers: how much a strobe gives at a distance, and what the size of its source changes (science §5).

Plain functions of numbers or arrays: guide numbers in metres at ISO 100 (ISO 1230), distances in
metres, light in stops.
"""

import math
from collections.abc import Sequence
from typing import Protocol

import numpy as np
import numpy.typing as npt

Number = float | npt.NDArray[np.float64]


def correct_f_number(
    guide_number_m: Number,
    iso: Number,
    power: Number,
    distance_m: Number,
    loss_stops: Number,
) -> Number:
    """f-number for correct exposure [-]: N = GN √(ISO/100) √power / d · 2^(−loss/2). Source: ISO 1230."""
    # An f-number goes with the root of the light: half a stop of it for each stop that is lost.
    given = guide_number_m / distance_m * np.sqrt(iso / 100 * power)
    return given * np.exp2(loss_stops / -2)


def offset_stops(
    n_squared: Number, f_number: Number, filter_stops: Number, bellows_stops: Number
) -> Number:
    """Exposure by that much light against the set aperture [stops]: log2(ΣN² / N²) − filters − bellows."""
    return np.log2(n_squared / f_number**2) - filter_stops - bellows_stops


class ZoomPosition(Protocol):
    """A guide number [m] at a zoom position [mm]."""

    @property
    def zoom_mm(self) -> float: ...
    @property
    def guide_number_m(self) -> float: ...


def guide_number_at_zoom(
    positions: Sequence[ZoomPosition], zoom_mm: float
) -> tuple[float, bool]:
    """Guide number [m] at a zoom position, interpolated in log focal length, and whether it stands in the table."""
    table = sorted(positions, key=lambda row: row.zoom_mm)
    # Reflectors are made in steps of equal ratios, so that a guide number is smooth over the
    # logarithm.
    zooms = [math.log(row.zoom_mm) for row in table]
    numbers = [row.guide_number_m for row in table]
    exact = any(math.isclose(row.zoom_mm, zoom_mm) for row in table)
    return float(np.interp(math.log(zoom_mm), zooms, numbers)), exact


class MeasuredLight(Protocol):
    """A power and its light against full power [stops], where it was measured."""

    @property
    def power(self) -> float: ...
    @property
    def light_stops(self) -> float | None: ...


def relative_light_stops(table: Sequence[MeasuredLight], power: float) -> float:
    """Light at a power against full [stops]: log2(power), corrected by what was measured at the nearest settings.

    Between measured settings the error of the dial is interpolated over log2(power); beyond them it stays as at the
    nearest one.
    """
    known = sorted(
        (math.log2(s.power), s.light_stops) for s in table if s.light_stops is not None
    )
    dial = math.log2(power)
    if not known:
        return dial
    # The error is interpolated, not the light: the dial itself is right about most of it.
    errors = [light - at for at, light in known]
    return dial + float(np.interp(dial, [at for at, _ in known], errors))


def nearness_stops(size_m: float, distance_m: float) -> float:
    """By how much the inverse square overstates a uniform square source of side `size_m` [stops, 0 or more].

    The square's illuminance on its axis is integrated in closed form (configuration factor of a rectangle, e.g.
    Siegel and Howell, from memory): 1.3 % at five sizes, 5 % at 2.6 sizes.
    """
    if size_m <= 0:
        return 0.0
    half = size_m / 2 / distance_m
    slant = math.sqrt(1 + half**2)
    # of π times the source's luminance
    exact = 4 / math.pi * half / slant * math.atan(half / slant)
    # In the same units as the exact one, so that only their ratio is left.
    inverse_square = 4 * half**2 / math.pi
    return math.log2(inverse_square / exact)
