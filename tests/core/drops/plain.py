"""Drops and jets stepped plainly, sharing no code with the core: what a high-speed camera would have counted."""

import math
from collections.abc import Callable
from functools import cache

G = 9.80665
STEP_S = 2e-5


def falls(
    height_m: float, diameter_m: float | None, density: float = 998.2
) -> list[float]:
    """Heights of a falling sphere each STEP_S from its release to the surface; drag of Schiller and Naumann 1933."""
    height, speed, way = height_m, 0.0, [height_m]
    while height > 0:
        slowed = 0.0
        if diameter_m is not None and speed > 0:
            reynolds = 1.2041 * speed * diameter_m / 1.813e-5
            coefficient = (
                24 / reynolds * (1 + 0.15 * reynolds**0.687)
                if reynolds < 1000
                else 0.44
            )
            slowed = 0.75 * coefficient * 1.2041 / density / diameter_m * speed**2
        buoyant = 1 - 1.2041 / density if diameter_m is not None else 1.0
        faster = speed + (G * buoyant - slowed) * STEP_S
        height -= (speed + faster) / 2 * STEP_S
        speed = faster
        way.append(height)
    return way


@cache
def tip_m(launch_s: float, speed_m_s: float) -> Callable[[float], float]:
    """Height of a tip at a time, stepped from its launch and kept."""
    way, height, speed = [0.0], 0.0, speed_m_s
    while height >= 0:
        height += speed * STEP_S - G * STEP_S**2 / 2
        speed -= G * STEP_S
        way.append(height)

    def at(time_s: float) -> float:
        place = (time_s - launch_s) / STEP_S
        low = math.floor(place)
        if low < 0 or low + 1 >= len(way):
            return -1.0
        return way[low] + (way[low + 1] - way[low]) * (place - low)

    return at


def meets(
    release_s: float, drop: list[float], tip: Callable[[float], float]
) -> float | None:
    """The height at which a drop that is let go at a time first touches the tip; None where it never does."""
    for place, height in enumerate(drop):
        there = tip(release_s + place * STEP_S)
        if there > 0 and height <= there:
            return height
    return None
