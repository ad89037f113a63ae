"""How fast the moving part is, from what the photographer knows about it (science §3).

One function per kind of motion, in `SPEEDS`; each returns the speed [m/s] with its working.
"""

import math
from collections.abc import Callable
from typing import Any

from rapzel.core.document.scene import Fall, Leap, Measured, Rotation, Steady, Swing
from rapzel.core.shared.constants import GRAVITY_M_S2, SOURCE_DEFINITION
from rapzel.core.shared.errors import OutOfRange
from rapzel.core.shared.working import Step, step

MECHANICS = "mechanics, g = 9.80665 m/s² (ISO 80000-3)"


def fall_speed_m_s(height_m: float, terminal_m_s: float | None = None) -> float:
    """Speed after falling from rest through `height_m` [m/s].

    With a terminal speed the drag is quadratic: v = v_t √(1 − e^(−2 g h / v_t²)). Source: mechanics.
    """
    if height_m < 0:
        raise OutOfRange("height_m", height_m, "0 or more")
    if terminal_m_s is None:
        return math.sqrt(2 * GRAVITY_M_S2 * height_m)
    return terminal_m_s * math.sqrt(-math.expm1(-2 * GRAVITY_M_S2 * height_m / terminal_m_s**2))


def apex_window_s(speed_m_s: float) -> float:
    """How long a leap stays at or below a speed around its apex [s]: 2 v / g."""
    return 2 * speed_m_s / GRAVITY_M_S2


def time_in_the_air_s(rise_m: float) -> float:
    """How long a leap is in the air after its apex [s]: √(2 h / g)."""
    return math.sqrt(2 * rise_m / GRAVITY_M_S2)


def pendulum_speed_m_s(length_m: float, angle_from_rest_deg: float) -> float:
    """Speed at the lowest point of a swing released at an angle [m/s]: √(2 g L (1 − cos α))."""
    return math.sqrt(2 * GRAVITY_M_S2 * length_m * (1 - math.cos(math.radians(angle_from_rest_deg))))


def _steady(motion: Steady) -> tuple[float, str, str]:
    return motion.speed_m_s, "v as given", SOURCE_DEFINITION


def _fall(motion: Fall) -> tuple[float, str, str]:
    formula = "√(2 g h)" if motion.terminal_m_s is None else "v_t √(1 − e^(−2 g h / v_t²))"
    return fall_speed_m_s(motion.height_m, motion.terminal_m_s), f"{formula}, h = {motion.height_m:g} m", MECHANICS


def _leap(motion: Leap) -> tuple[float, str, str]:
    return GRAVITY_M_S2 * motion.from_apex_s, f"g · Δt, Δt = {motion.from_apex_s:g} s from the apex", MECHANICS


def _rotation(motion: Rotation) -> tuple[float, str, str]:
    speed = 2 * math.pi * motion.radius_m * motion.rpm / 60
    return speed, f"2π r · rpm / 60, r = {motion.radius_m:g} m, {motion.rpm:g} rpm", MECHANICS


def _swing(motion: Swing) -> tuple[float, str, str]:
    formula = f"√(2 g L (1 − cos α)), L = {motion.length_m:g} m, α = {motion.angle_from_rest_deg:g}°"
    return pendulum_speed_m_s(motion.length_m, motion.angle_from_rest_deg), formula, MECHANICS


def _measured(motion: Measured) -> tuple[float, str, str]:
    if motion.speed_m_s is not None:
        return motion.speed_m_s, "v as measured", SOURCE_DEFINITION
    assert motion.distance_m is not None, "held by the document"
    assert motion.interval_s is not None, "held by the document"
    formula = f"s / Δt, s = {motion.distance_m:g} m, Δt = {motion.interval_s:g} s"
    return motion.distance_m / motion.interval_s, formula, SOURCE_DEFINITION


SPEEDS: dict[str, Callable[[Any], tuple[float, str, str]]] = {
    "steady": _steady,
    "fall": _fall,
    "leap": _leap,
    "rotation": _rotation,
    "swing": _swing,
    "measured": _measured,
}

VERTICAL = {"fall", "leap"}  # these move along the height of the frame


def speed_of(motion: Any) -> tuple[float, Step]:
    """Speed of the moving part [m/s] and the line of working that gives it."""
    speed, formula, source = SPEEDS[motion.kind](motion)
    return speed, step("v", speed, "m/s", formula, source, "measured" if motion.kind == "measured" else None)
