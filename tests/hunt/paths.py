"""Ways of subjects, by the school's formulas: where a try is and how fast, for `tests.hunt.plays`."""

import math
from typing import Any

import numpy as np

G = 9.80665
Array = np.ndarray


def usual_m_s(motion: dict[str, Any]) -> float:
    """Speed at the wanted instant [m/s]."""
    kind = motion["kind"]
    if kind == "fall":
        return math.sqrt(2 * G * motion["height_m"])
    if kind == "leap":
        falling = G * motion.get("from_apex_s", 0.0)
        return math.hypot(motion.get("horizontal_m_s", 0.0), falling)
    if kind == "rotation":
        return float(motion["radius_m"] * motion["rpm"] * math.tau / 60)
    if motion.get("speed_m_s") is not None:
        return float(motion["speed_m_s"])
    return float(motion["distance_m"] / motion["interval_s"])


def path(motion: dict[str, Any], wanted: float, time: Array, extra: Array) -> Array:
    """(across, up, their speeds) [m, m/s], 4 × tries: of tries `extra` [m/s] faster, at `time` after the event [s].

    Places are counted from where the usual try is at the event. wanted: the instant of the plan, after the event [s].
    """
    kind = motion["kind"]
    if kind == "fall":
        return _falls(motion, wanted, time, extra)
    if kind == "leap":
        return _leaps(motion, wanted, time, extra)
    if kind == "rotation":
        return _turns(motion, time, extra)
    none = 0 * time * extra
    fast = usual_m_s(motion) + extra
    return np.array([fast * time, none, fast + none, none])


def _falls(motion: dict[str, Any], wanted: float, time: Array, extra: Array) -> Array:
    """A try that is so many times faster falls so many times as far in the same time."""
    whole = math.sqrt(2 * motion["height_m"] / G)
    begun = whole - wanted
    since = np.maximum(time + begun, 0.0)
    rate = 1 + extra / usual_m_s(motion)
    sunk = rate * G / 2 * (since**2 - max(begun, 0.0) ** 2)
    none = 0 * time * extra
    return np.array([none, -sunk, none, rate * G * since])


def _leaps(motion: dict[str, Any], wanted: float, time: Array, extra: Array) -> Array:
    """All tries rise alike; one that is faster goes further forward."""
    at = motion.get("from_apex_s", 0.0) - wanted
    since = time + at
    sunk = G / 2 * (since**2 - at**2)
    forward = motion.get("horizontal_m_s", 0.0) + extra
    none = 0 * time * extra
    return np.array([forward * time, none - sunk, forward + none, none - G * since])


def _turns(motion: dict[str, Any], time: Array, extra: Array) -> Array:
    radius, begin = motion["radius_m"], math.radians(motion.get("phase_deg", 0.0))
    rate = motion["rpm"] * math.tau / 60 * (1 + extra / usual_m_s(motion))
    turned = begin + rate * time
    across = radius * (np.sin(turned) - math.sin(begin))
    up = radius * (math.cos(begin) - np.cos(turned))
    fast = radius * rate
    return np.array([across, up, fast * np.cos(turned), fast * np.sin(turned)])
