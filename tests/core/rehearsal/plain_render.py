"""A plain per-pixel loop over rows, columns and instants: the slow way to the same picture.

Independent of the renderer's segments and running sums; used to check it and, in the benchmarks, to time it.
"""

import math
from collections.abc import Callable

import numpy as np


def plain_moved(
    layer: np.ndarray,
    light: Callable[[int, float], float],
    times: list[float],
    px_per_s: float,
    axis: int = 1,
) -> np.ndarray:
    """Each pixel gathers, instant by instant, what the moving layer shows it, by linear interpolation.

    `light(row, time)` is the light of that row in the instant; the layer is displaced by px_per_s · time.
    """
    height, width = layer.shape
    total = np.zeros_like(layer, dtype=float)
    for y in range(height):
        for x in range(width):
            gathered = 0.0
            for time in times:
                by = px_per_s * time
                source = (x if axis == 1 else y) - by
                whole = math.floor(source)
                part = source - whole
                value = 0.0
                for place, weight in ((whole, 1 - part), (whole + 1, part)):
                    if 0 <= place < (width if axis == 1 else height):
                        value += weight * (
                            layer[y, place] if axis == 1 else layer[place, x]
                        )
                gathered += light(y, time) * value
            total[y, x] = gathered
    return total
