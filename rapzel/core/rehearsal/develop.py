"""Sensor and development: noise, clipping and the tone curve, from linear light to a picture."""

import numpy as np
import numpy.typing as npt

from rapzel.core.shared import tone
from rapzel.core.subjects.pen import Picture

# warm, and the room steel blue: told apart by eye
FLASH_TINT = np.array([1.0, 0.965, 0.90], dtype=np.float32)
ROOM_TINT = np.array([0.70, 0.86, 1.0], dtype=np.float32)
FULL_WELL_PER_UM2 = 1500.0  # electrons at ISO 100 a µm² of pixel (memory)
READ_NOISE = 3.0  # electrons (memory)

_NOISE = np.random.default_rng(2718).standard_normal((1024, 1600), dtype=np.float32)
_LEVELS = 4096  # of the tone curve's table
_SRGB_BYTES = np.round(tone.encoded(np.arange(_LEVELS + 1) / _LEVELS) * 255).astype(
    np.uint8
)


def electrons_full(pixel_pitch_m: float, iso: float) -> float:
    """Electrons of a pixel at clipping, at an ISO."""
    return FULL_WELL_PER_UM2 * (pixel_pitch_m * 1e6) ** 2 * 100 / iso


def _noise(shape: tuple[int, int]) -> Picture:
    # The same grain for every picture: what changes between two is the scene.
    tiled = np.tile(
        _NOISE, (-(-shape[0] // _NOISE.shape[0]), -(-shape[1] // _NOISE.shape[1]))
    )
    return tiled[: shape[0], : shape[1]]


def develop(
    flash: Picture, room: Picture, full: float, binned: float
) -> tuple[npt.NDArray[np.uint8], float]:
    """sRGB bytes and the share of clipped pixels.

    flash, room: linear light, 1.0 being a white surface at correct exposure; full: electrons at clipping; binned:
    sensor pixels in one of these. Noise: √(electrons + read²), averaged over the binned pixels.
    """
    light = flash + room
    spread = np.sqrt(
        np.maximum(light, 0) / np.float32(full * binned)
        + np.float32((READ_NOISE / full) ** 2 / binned)
    )
    spread *= _noise(light.shape)
    # The table of the tone curve is read by whole levels, which is quicker than the curve itself.
    levels = (light + spread) * np.float32(_LEVELS)
    clipped = float(np.count_nonzero(light >= 1.0)) / light.size
    # Each pixel is tinted by how much of its light the room gave.
    share = room / np.maximum(light, np.float32(1e-9))
    picture = np.empty((*light.shape, 3), dtype=np.uint8)
    # Channel by channel and in place: the picture is made anew at every change of a dial.
    for channel in range(3):
        values = (ROOM_TINT[channel] - FLASH_TINT[channel]) * share
        values += FLASH_TINT[channel]
        values *= levels
        np.clip(values, 0, _LEVELS, out=values)
        picture[..., channel] = _SRGB_BYTES[values.astype(np.uint16)]
    return picture, clipped
