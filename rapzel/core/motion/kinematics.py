"""How far and how fast things move in a given time: plain functions of numbers or arrays (science §3).

Source of all: mechanics, g = 9.80665 m/s² (ISO 80000-3).
"""

import math

import numpy as np
import numpy.typing as npt
from scipy.special import ellipj, ellipk

from rapzel.core.shared.constants import GRAVITY_M_S2
from rapzel.core.shared.errors import OutOfRange

Array = npt.NDArray[np.float64]
Number = float | Array


def fall_speed_m_s(height_m: float, terminal_m_s: float | None = None) -> float:
    """Speed after falling from rest through `height_m` [m/s]; with a terminal speed the drag is quadratic.

    √(2 g h), or v_t √(1 − e^(−2 g h / v_t²)). Raises OutOfRange below a height of 0.
    """
    if height_m < 0:
        raise OutOfRange("height_m", height_m, "0 or more")
    if terminal_m_s is None:
        return math.sqrt(2 * GRAVITY_M_S2 * height_m)
    return terminal_m_s * math.sqrt(
        -math.expm1(-2 * GRAVITY_M_S2 * height_m / terminal_m_s**2)
    )


def fall_time_s(height_m: float, terminal_m_s: float | None = None) -> float:
    """Time that a fall from rest through `height_m` takes [s]: √(2 h / g), or (v_t / g) arcosh e^(g h / v_t²)."""
    if height_m < 0:
        raise OutOfRange("height_m", height_m, "0 or more")
    if terminal_m_s is None:
        return math.sqrt(2 * height_m / GRAVITY_M_S2)
    exponent = GRAVITY_M_S2 * height_m / terminal_m_s**2
    # arcosh e^x = x + ln(1 + √(1 − e^(−2x))), which neither overflows nor cancels.
    inverse = exponent + math.log1p(math.sqrt(-math.expm1(-2 * exponent)))
    return terminal_m_s / GRAVITY_M_S2 * inverse


def fallen_m(time_s: Number, terminal_m_s: float | None = None) -> Array:
    """Way fallen from rest after each time [m], 0 before the release: ½ g t², or (v_t² / g) ln cosh(g t / v_t)."""
    time = np.maximum(time_s, 0.0)
    if terminal_m_s is None:
        return np.asarray(GRAVITY_M_S2 / 2 * time**2)
    x = GRAVITY_M_S2 * time / terminal_m_s
    # ln cosh x without e^x, which overflows after a long fall.
    log_cosh = x + np.log1p(np.exp(-2 * x)) - math.log(2)
    return np.asarray(terminal_m_s**2 / GRAVITY_M_S2 * log_cosh)


def falling_m_s(time_s: Number, terminal_m_s: float | None = None) -> Array:
    """Speed after each time of falling from rest [m/s], 0 before the release: g t, or v_t tanh(g t / v_t)."""
    time = np.maximum(time_s, 0.0)
    if terminal_m_s is None:
        return np.asarray(GRAVITY_M_S2 * time)
    return np.asarray(terminal_m_s * np.tanh(GRAVITY_M_S2 * time / terminal_m_s))


def time_in_the_air_s(rise_m: float) -> float:
    """How long a leap is in the air after its apex [s]: √(2 h / g)."""
    return math.sqrt(2 * rise_m / GRAVITY_M_S2)


def rotation_speed_m_s(radius_m: float, rpm: float) -> float:
    """Speed of a point on a circle [m/s]: 2π r · rpm / 60."""
    return math.tau * radius_m * rpm / 60


def pendulum_speed_m_s(length_m: float, angle_from_rest_deg: float) -> float:
    """Speed at the lowest point of a swing released at an angle [m/s]: √(2 g L (1 − cos α))."""
    return math.sqrt(
        2 * GRAVITY_M_S2 * length_m * (1 - math.cos(math.radians(angle_from_rest_deg)))
    )


def pendulum(
    time_s: Number, length_m: float, half_sine: Number, phase_deg: float
) -> tuple[Array, Array]:
    """Angle from the lowest point [rad] and its rate [rad/s] of a pendulum of any amplitude at each time.

    half_sine: sin(α/2) of the release angle; phase_deg: 0 at the lowest point, 90 at the turning point, at time 0.
    sin(θ/2) = k sn(ω t + φ | k²), with k = sin(α/2) and ω = √(g / L). Checked by integrating L θ″ = −g sin θ.
    """
    # released upright, a pendulum would never leave
    k = np.minimum(np.abs(half_sine), 1 - 1e-9)
    omega = math.sqrt(GRAVITY_M_S2 / length_m)
    # A quarter of the swing is K(k²) in the argument of sn, whatever the amplitude.
    at = omega * np.asarray(time_s, dtype=float) + phase_deg / 90 * ellipk(k**2)
    sn, cn, _, _ = ellipj(at, k**2)
    return np.asarray(2 * np.arcsin(k * sn)), np.asarray(2 * k * omega * cn)
