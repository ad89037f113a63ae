"""Shapes of light against time, with the areas under them in closed form (science §4).

A pulse begins at t = 0. `cumulative` runs from 0 to 1: all shares of light are differences of it, so that the row
model, the light span and the rehearsal integrate nothing numerically.
"""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Protocol

import numpy as np
import numpy.typing as npt
from scipy.optimize import brentq

from rapzel.core.shared.once import once

Array = npt.NDArray[np.float64]


class Pulse(Protocol):
    """What every shape of light can answer. Times in seconds, arrays of any shape."""

    def intensity(self, time_s: npt.ArrayLike) -> Array:
        """Light relative to its peak at each time [-]."""

    def cumulative(self, time_s: npt.ArrayLike) -> Array:
        """Share of all light that has come by each time [0 … 1]."""

    def width_s(self, level: float) -> float:
        """Time between the first and last instants above `level` of the peak [s]; ISO 2827."""

    def width_between_s(self, level: float, begin_s: float, end_s: float) -> float:
        """Time above `level` of the peak of what comes between two instants [s]; 0 where nothing comes."""

    def time_at_s(self, share: float) -> float:
        """The time by which `share` of the light has come [s]."""


def span_s(pulse: Pulse, inner: float = 0.9) -> float:
    """How long light arrives [s]: from 5 % to 95 % of the running integral by default."""
    outer = (1 - inner) / 2
    return pulse.time_at_s(1 - outer) - pulse.time_at_s(outer)


def _raw(t: float, decay_s: float, rise_s: float) -> float:
    """The unquenched light at an instant [-]; t, decay_s and rise_s in seconds."""
    return math.exp(-t / decay_s) - math.exp(-t / rise_s)


# asked anew at every change of a scene, most of which leave its pulses alone
@lru_cache(maxsize=4096)
def _crossing_s(
    target: float,
    decay_s: float,
    rise_s: float,
    begin_s: float,
    end_s: float,
    within_s: float,
) -> float:
    """When the unquenched light crosses a level between two instants [s], found to within `within_s`."""

    def above(t: float) -> float:
        return _raw(t, decay_s, rise_s) - target

    return float(brentq(above, begin_s, end_s, xtol=within_s))


def _raw_area(t: float, decay_s: float, rise_s: float) -> float:
    """The area under the unquenched light up to an instant [s]."""
    return -decay_s * math.expm1(-t / decay_s) + rise_s * math.expm1(-t / rise_s)


@dataclass(frozen=True)
class Discharge:
    """I(t) = e^(−t/τ_d) − e^(−t/τ_r) up to the quench at t_q, then an afterglow I(t_q) e^(−(t−t_q)/τ_a).

    `quench_s` may be infinite (no quench). Needs 0 < rise_s < decay_s and 0 < afterglow_s ≤ decay_s.
    """

    decay_s: float
    rise_s: float
    afterglow_s: float = 0.0
    quench_s: float = math.inf

    def _raw(self, t: float) -> float:
        return _raw(t, self.decay_s, self.rise_s)

    def _raw_area(self, t: float) -> float:
        return _raw_area(t, self.decay_s, self.rise_s)

    @once
    def natural_peak_s(self) -> float:
        """When the unquenched light is strongest [s]."""
        ratio = self.decay_s / self.rise_s
        # Where rise and decay just cancel: dI/dt = 0.
        return math.log(ratio) * self.decay_s / (ratio - 1)

    @once
    def peak_s(self) -> float:
        """When the light is strongest [s]: at the quench, if that comes first."""
        return min(self.natural_peak_s, self.quench_s)

    @once
    def _peak(self) -> float:
        return self._raw(self.peak_s)

    @once
    def _at_quench(self) -> float:
        if math.isfinite(self.quench_s):
            return self._raw(self.quench_s)
        return 0.0

    @once
    def energy_s(self) -> float:
        """Area under the raw curve [s], afterglow included; a share of it is a share of the power."""
        if not math.isfinite(self.quench_s):
            return self.decay_s - self.rise_s
        return self._raw_area(self.quench_s) + self._at_quench * self.afterglow_s

    def intensity(self, time_s: npt.ArrayLike) -> Array:
        """Light relative to its peak at each time [-]; 0 before the start."""
        t = np.maximum(np.asarray(time_s, dtype=float), 0.0)
        lit = np.minimum(t, self.quench_s)
        raw = np.exp(-lit / self.decay_s) - np.exp(-lit / self.rise_s)
        if math.isfinite(self.quench_s):
            # From the quench on only the glow of the gas is left, which fades by itself.
            raw = raw * np.exp(-(t - lit) / max(self.afterglow_s, 1e-12))
        return np.asarray(raw / self._peak)

    def cumulative(self, time_s: npt.ArrayLike) -> Array:
        """Share of all light that has come by each time [0 … 1]."""
        t = np.maximum(np.asarray(time_s, dtype=float), 0.0)
        lit = np.minimum(t, self.quench_s)
        area = -self.decay_s * np.expm1(-lit / self.decay_s) + self.rise_s * np.expm1(
            -lit / self.rise_s
        )
        if math.isfinite(self.quench_s):
            afterglow = max(self.afterglow_s, 1e-12)
            area = area - self._at_quench * afterglow * np.expm1(-(t - lit) / afterglow)
        return np.asarray(np.minimum(np.maximum(area / self.energy_s, 0.0), 1.0))

    def width_s(self, level: float) -> float:
        """Time between the first and last instants above `level` of the peak [s]; ISO 2827."""
        target = level * self._peak
        return self._last_above(target) - self._first_above(target, 0.0, self.peak_s)

    def width_between_s(self, level: float, begin_s: float, end_s: float) -> float:
        """Time above `level` of the peak of what comes between two instants [s]: t.x as an opening records it.

        begin_s, end_s: of the opening, counted from the start of the pulse. 0 where nothing comes in between.
        """
        begin = max(begin_s, 0.0)
        if end_s <= begin:
            return 0.0
        # A light has one hill: the strongest instant of a stretch is the peak, or the end nearer to
        # it.
        strongest = min(max(self.peak_s, begin), end_s)
        target = level * float(self.intensity(strongest)) * self._peak
        if target <= 0:
            return 0.0
        first = begin
        # Opened when the light is already above the level, the stretch counts from the opening.
        if self._before_peak(begin) < target:
            first = self._first_above(target, begin, strongest)
        return min(self._last_above(target), end_s) - first

    def _before_peak(self, t: float) -> float:
        if t < self.peak_s:
            return self._raw(t)
        return math.inf

    def _first_above(self, target: float, begin_s: float, end_s: float) -> float:
        within = self.peak_s * 1e-9
        return _crossing_s(target, self.decay_s, self.rise_s, begin_s, end_s, within)

    def _last_above(self, target: float) -> float:
        if self._at_quench >= target:
            return self.quench_s + self.afterglow_s * math.log(self._at_quench / target)
        # The raw curve is below e^(−t/τ_d), which bounds the search.
        end = min(
            self.quench_s, self.natural_peak_s + self.decay_s * math.log(1 / target)
        )
        begin, within = self.natural_peak_s, self.decay_s * 1e-9
        return _crossing_s(target, self.decay_s, self.rise_s, begin, end, within)

    def time_at_s(self, share: float) -> float:
        """The time by which `share` of the light has come [s]."""
        area = share * self.energy_s
        if math.isfinite(self.quench_s) and area >= (
            by_quench := self._raw_area(self.quench_s)
        ):
            # The rest comes as afterglow, whose integral turns round in closed form.
            left = 1 - (area - by_quench) / (self._at_quench * self.afterglow_s)
            return self.quench_s - self.afterglow_s * math.log(max(left, 1e-12))
        if math.isfinite(self.quench_s):
            end = self.quench_s
        else:
            # After forty decay times e⁻⁴⁰ of the light is left: none that a double could tell.
            end = 40 * self.decay_s
        return float(
            brentq(
                lambda t: self._raw_area(t) - area, 0.0, end, xtol=self.decay_s * 1e-9
            )
        )

    def stretched(self, factor: float) -> "Discharge":
        """The same shape with every time multiplied by `factor`."""
        return Discharge(
            self.decay_s * factor,
            self.rise_s * factor,
            self.afterglow_s * factor,
            self.quench_s * factor,
        )


def quenched_at(
    power: float, decay_s: float, rise_s: float, afterglow_s: float
) -> Discharge:
    """The discharge cut where `power` [share of full] has come, the afterglow counted in; times in [s].

    The energy grows steadily with the quench time while the afterglow is not slower than the decay.
    """
    if power >= 1 - 1e-9:
        return Discharge(decay_s, rise_s)
    # The dial is a share of energy, and energy is the area under the curve.
    wanted = power * (decay_s - rise_s)

    def missing(log_quench: float) -> float:
        quench = math.exp(log_quench)
        afterglow = _raw(quench, decay_s, rise_s) * afterglow_s
        return _raw_area(quench, decay_s, rise_s) + afterglow - wanted

    # Searched in log time: the quench lies anywhere from nanoseconds to many decay times.
    low, high = math.log(decay_s * 1e-9), math.log(decay_s * 40)
    return Discharge(
        decay_s, rise_s, afterglow_s, math.exp(brentq(missing, low, high, xtol=1e-10))
    )


@dataclass(frozen=True, slots=True)
class Plateau:
    """A constant light of a given length [s]: what a pulse train of high-speed sync is to the picture."""

    length_s: float

    def intensity(self, time_s: npt.ArrayLike) -> Array:
        """1 while it lasts, 0 before and after."""
        t = np.asarray(time_s, dtype=float)
        return np.where((t >= 0) & (t <= self.length_s), 1.0, 0.0)

    def cumulative(self, time_s: npt.ArrayLike) -> Array:
        """Share of all light that has come by each time [0 … 1]."""
        return np.clip(np.asarray(time_s, dtype=float) / self.length_s, 0.0, 1.0)

    def width_s(self, level: float) -> float:
        """A rectangle is equally wide at every level [s]."""
        return self.length_s

    def width_between_s(self, level: float, begin_s: float, end_s: float) -> float:
        """What of it lies between two instants [s]."""
        return max(min(end_s, self.length_s) - max(begin_s, 0.0), 0.0)

    def time_at_s(self, share: float) -> float:
        """The time by which `share` of the light has come [s]."""
        return share * self.length_s
