"""The schools of what counts as sharp: the circle on the sensor that a smear may fill (science §3). Metres."""

import math

import numpy as np
import numpy.typing as npt

from rapzel.core.shared import constants

Number = float | npt.NDArray[np.float64]


def pixels_circle_m(pixels: float, pixel_pitch_m: float) -> float:
    """Smear allowed by the pixel school [m]: k · p, judged at 100 % on a screen (common practice)."""
    return pixels * pixel_pitch_m


def print_circle_m(
    sensor_diagonal_m: float, divisor: float = constants.CIRCLE_DIVISOR
) -> float:
    """Smear allowed by the print school [m]: sensor diagonal / 1500, the usual circle of confusion."""
    return sensor_diagonal_m / divisor


def viewing_circle_m(
    sensor_height_m: float, print_height_m: float, viewing_distance_m: float
) -> float:
    """Smear allowed by the viewing school [m]: an arc-minute at the viewing distance, scaled back to the sensor."""
    return (
        math.tan(constants.ARC_MINUTE_RAD)
        * viewing_distance_m
        * sensor_height_m
        / print_height_m
    )


def freeze_limit_s(image_speed_m_s: Number, circle_m: Number) -> Number:
    """Longest exposure to light that keeps the smear within the criterion [s]: t = c / (v · m).

    `image_speed_m_s` is the speed of the image on the sensor; still subjects have no limit (infinity).
    """
    if isinstance(image_speed_m_s, np.ndarray) or isinstance(circle_m, np.ndarray):
        # Divided by one where nothing moves, so that no warning of numpy's is hidden.
        still = np.asarray(image_speed_m_s) <= constants.STILL_M_S
        return np.where(still, np.inf, circle_m / np.where(still, 1.0, image_speed_m_s))
    if image_speed_m_s > constants.STILL_M_S:
        return circle_m / image_speed_m_s
    return math.inf


def freeze_stops(limit_s: Number, lit_s: Number) -> Number:
    """By how many stops light of `lit_s` is shorter than the freeze limit; negative where it smears."""
    return np.log2(limit_s / lit_s)
