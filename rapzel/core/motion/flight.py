"""Falling and thrown spheres in air: drag, terminal speed, and the way by integration (science §3)."""

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.integrate import solve_ivp
from scipy.optimize import brentq

from rapzel.core.shared.constants import GRAVITY_M_S2
from rapzel.core.shared.errors import OutOfRange

AIR_KG_M3 = 1.2041  # dry air at 20 °C and 101 325 Pa: p M / (R T), ideal gas
AIR_PA_S = 1.813e-5  # viscosity of air at 20 °C; checked against CoolProp
# drag coefficient of a sphere at Reynolds numbers above 1000 (Schiller and Naumann 1933)
NEWTON_DRAG = 0.44
_LAMINAR = 1000.0
_STEPS = 241
_LONGEST_S = 600.0

Array = npt.NDArray[np.float64]


def drag_coefficient(reynolds: float) -> float:
    """Drag coefficient of a smooth sphere [-]: 24/Re (1 + 0.15 Re^0.687) up to Re 1000, 0.44 beyond.

    Within 5 % of measured spheres up to Re 2·10⁵, where the drag of a smooth one collapses (Schiller and Naumann 1933).
    """
    if reynolds <= 0:
        return 0.0
    if reynolds > _LAMINAR:
        return NEWTON_DRAG
    return 24 / reynolds * (1 + 0.15 * math.pow(reynolds, 0.687))


@dataclass(frozen=True, slots=True)
class Sphere:
    """A ball or a drop: diameter [m] and mass [kg]."""

    diameter_m: float
    mass_kg: float
    air_kg_m3: float = AIR_KG_M3

    def __post_init__(self) -> None:
        for name in ("diameter_m", "mass_kg"):
            if not getattr(self, name) > 0:
                raise OutOfRange(name, getattr(self, name), "above 0")
        if self.mass_kg <= self.air_kg_m3 * self.volume_m3:
            raise OutOfRange(
                "mass_kg",
                self.mass_kg,
                "more than that of the air it takes the place of",
            )

    @property
    def volume_m3(self) -> float:
        return math.pi / 6 * self.diameter_m**3

    def slowing_m_s2(self, speed_m_s: float) -> float:
        """Deceleration by drag [m/s²]: Cd ρ A v² / 2 m."""
        # At room conditions; at −10 °C the air is a tenth denser, which no drop's size is known to.
        reynolds = self.air_kg_m3 * speed_m_s * self.diameter_m / AIR_PA_S
        area = math.pi / 4 * self.diameter_m**2
        return (
            drag_coefficient(reynolds)
            * self.air_kg_m3
            * area
            * speed_m_s**2
            / 2
            / self.mass_kg
        )

    @property
    def weight_m_s2(self) -> float:
        """Acceleration by gravity less the air's lift [m/s²]."""
        return GRAVITY_M_S2 * (1 - self.air_kg_m3 * self.volume_m3 / self.mass_kg)

    @property
    def terminal_m_s(self) -> float:
        """The speed at which drag holds the weight [m/s]."""
        return float(
            brentq(lambda v: self.slowing_m_s2(v) - self.weight_m_s2, 1e-9, 1e4)
        )


@dataclass(frozen=True)
class Flight:
    """The way of one thrown or falling thing from its release: times, places and velocities (arrays, SI)."""

    time_s: Array
    along_m: Array
    height_m: Array
    along_m_s: Array
    up_m_s: Array

    @property
    def speed_m_s(self) -> Array:
        return np.hypot(self.along_m_s, self.up_m_s)

    @property
    def lands_s(self) -> float:
        """From the release to the ground."""
        return float(self.time_s[-1])

    @property
    def apex_s(self) -> float:
        """From the release to the highest point; 0 for what is not thrown up."""
        if self.up_m_s[0] > 0:
            return float(np.interp(0.0, -self.up_m_s, self.time_s))
        return 0.0

    def at(self, time_s: float) -> tuple[float, float, float]:
        """(along [m], height [m], speed [m/s]) at a time after the release [s]."""
        parts = (self.along_m, self.height_m, self.speed_m_s)
        along, height, speed = (
            float(np.interp(time_s, self.time_s, part)) for part in parts
        )
        return along, height, speed

    def reaches_s(self, height_m: float, rising: bool = False) -> float | None:
        """When it is at a height on its way down, or up [s]; None where it never is."""
        # A thrown thing passes most heights twice.
        going_up = self.up_m_s > 0
        if rising:
            part = going_up
        else:
            part = ~going_up
        heights, times = self.height_m[part], self.time_s[part]
        if not len(heights):
            return None
        # Interpolation wants rising heights; on the way down they fall.
        order = np.argsort(heights)
        if not heights[order][0] - 1e-9 <= height_m <= heights[order][-1] + 1e-9:
            return None
        return float(np.interp(height_m, heights[order], times[order]))


class _Ground:
    """Ends an integration where the height falls through zero, not where it begins."""

    terminal, direction = True, -1.0

    def __call__(self, time: float, state: Array) -> float:
        if time > 0:
            return float(state[1])
        return 1.0


def fly(
    release_m: float, up_m_s: float, along_m_s: float, sphere: Sphere | None
) -> Flight:
    """The way from a release at a height [m], up and along [m/s], to the ground.

    `sphere` None has no drag. Raises OutOfRange below ground.
    """
    if release_m < 0:
        raise OutOfRange("release_m", release_m, "0 or more")
    if sphere is None:
        weight = GRAVITY_M_S2
    else:
        weight = sphere.weight_m_s2

    def change(time: float, state: Array) -> list[float]:
        _, _, forward, up = state
        speed = math.hypot(forward, up)
        if sphere is None or speed == 0:
            drag = 0.0
        else:
            # Drag acts against the velocity: its share along each axis.
            drag = sphere.slowing_m_s2(speed) / speed
        return [forward, up, -drag * forward, -weight - drag * up]

    found = solve_ivp(
        change,
        (0.0, _LONGEST_S),
        [0.0, release_m, along_m_s, up_m_s],
        events=_Ground(),
        dense_output=True,
        rtol=1e-8,
        atol=1e-10,
        max_step=_LONGEST_S / 100,
    )
    # Even times for the drawing, and the solver's own, which are close where the way bends.
    times = np.unique(np.append(np.linspace(0.0, float(found.t[-1]), _STEPS), found.t))
    along, height, forward, up = found.sol(times)
    return Flight(times, along, height, forward, up)
