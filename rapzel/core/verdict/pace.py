"""How fast the lights keep up, and for how long (science §10)."""

import math
from dataclasses import dataclass

from rapzel.core.document.scene import Light, Scene

_LONGEST_BURST = 500


def recycle_s(light: Light) -> float | None:
    """Time until the light is ready again at its power [s]: floor + power × full recycle; None where unknown."""
    full = light.strobe.full_recycle_s
    return None if full is None else light.strobe.recycle_floor_s + light.power * full


def burst_offsets_stops(power: float, full_recycle_s: float, frames_per_s: float, frames: int) -> list[float]:
    """Light of each frame of a burst against its full amount [stops, 0 or negative].

    A reservoir of energy 1: each pop takes `power`, or what is left; between frames 1/(fps × full recycle) flows in.
    """
    stored, offsets = 1.0, []
    refill = 1 / (frames_per_s * full_recycle_s) if full_recycle_s > 0 else math.inf
    for _ in range(frames):
        given = min(power, stored)
        offsets.append(math.log2(given / power) if given > 0 else -math.inf)
        stored = min(stored - given + refill, 1.0)
    return offsets


def frames_before_short(power: float, full_recycle_s: float, frames_per_s: float, tolerance: float = 0.1) -> int | None:
    """How many frames come before the first that is short by more than `tolerance` stops; None: all of them."""
    offsets = burst_offsets_stops(power, full_recycle_s, frames_per_s, _LONGEST_BURST)
    return next((count for count, offset in enumerate(offsets) if offset < -tolerance), None)


@dataclass(frozen=True, slots=True)
class Pace:
    """Frames a second that the slowest light sustains, and the frames of the asked burst before one is short."""

    sustained_fps: float | None
    asked_fps: float | None
    frames_before_short: int | None
    slowest: str


def pace_of(scene: Scene) -> Pace:
    """The pace of a scene; unknown without a recycle time of every light."""
    asked = scene.exposure.frames_per_s
    times = [(recycle_s(light), light) for light in scene.lights]
    known = [(time, light) for time, light in times if time is not None]
    if not known or len(known) < len(times):
        return Pace(None, asked, None, "")
    slowest_s, slowest = max(known, key=lambda pair: pair[0])
    runs = (
        [frames_before_short(light.power, light.strobe.full_recycle_s or 0.0, asked) for _, light in known]
        if asked
        else []
    )
    short = [run for run in runs if run is not None]
    sustained = 1 / slowest_s if slowest_s > 0 else None
    return Pace(sustained, asked, min(short) if short else None, slowest.name)
