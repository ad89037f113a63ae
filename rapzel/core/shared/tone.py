"""The tone curve of sRGB files, there and back. Source: IEC 61966-2-1."""

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.floating]


def encoded(linear: Array) -> Array:
    """Linear light [0 … 1] -> sRGB levels [0 … 1]."""
    light = np.clip(linear, 0.0, 1.0)
    return np.where(
        light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055
    )


def decoded(levels: Array) -> Array:
    """sRGB levels [0 … 1] -> linear light [0 … 1]."""
    return np.where(
        levels <= 0.04045, levels / 12.92, ((levels + 0.055) / 1.055) ** 2.4
    )
