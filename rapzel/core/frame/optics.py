"""Thin-lens optics of one picture: scale, working aperture, diffraction, and the speed of the image (science §3).

Plain functions of numbers or arrays; metres and seconds.
"""

import numpy as np
import numpy.typing as npt

from rapzel.core.shared import constants
from rapzel.core.shared.errors import OutOfRange, require_positive

Number = float | npt.NDArray[np.float64]


def magnification(focal_length_m: float, subject_distance_m: float) -> float:
    """Image size over object size of a thin lens [-]: m = f / (u − f). Raises OutOfRange unless u > f > 0."""
    require_positive(focal_length_m=focal_length_m)
    # Nearer than its focal length a lens makes no real image.
    if subject_distance_m <= focal_length_m:
        raise OutOfRange(
            "subject_distance_m",
            subject_distance_m,
            f"above the focal length of {focal_length_m:g} m",
        )
    return focal_length_m / (subject_distance_m - focal_length_m)


def bellows_stops(magnification: Number) -> Number:
    """Light lost to the lens's extension [stops, positive]: 2 log2(1 + m), symmetrical lens. 2.0 at 1:1."""
    if isinstance(magnification, np.ndarray):
        return np.asarray(2 * np.log2(1 + magnification))
    return float(2 * np.log2(1 + magnification))


def airy_diameter_m(f_number: Number, magnification: Number) -> Number:
    """Diameter of the diffraction disc on the sensor [m]: 2.44 λ N (1 + m), λ = 550 nm. Source: Airy 1835."""
    return 2.44 * constants.WAVELENGTH_M * f_number * (1 + magnification)


def enlargement(distance_m: Number, reach_m: Number) -> Number:
    """How much larger a part that reaches `reach_m` towards the camera is drawn than the body [-]: u / (u − Δ)."""
    return distance_m / (distance_m - reach_m)


def image_speed_m_s(
    across_m_s: Number,
    towards_m_s: Number,
    magnification: Number,
    image_height_m: Number,
    distance_m: Number,
) -> Number:
    """Speed of the image on the sensor [m/s]: v⊥ · m and h · v∥ / u, square to each other, added as vectors.

    image_height_m: how far from the axis the part is drawn; distance_m: of the subject. Source: thin lens,
    differentiated with the focus left where it is.
    """
    grows_m_s = image_height_m * towards_m_s / distance_m
    passes_m_s = across_m_s * magnification
    # By squares and a root: `hypot` guards against overflow that no speed comes near, and takes five times as long.
    return np.sqrt(passes_m_s * passes_m_s + grows_m_s * grows_m_s)
