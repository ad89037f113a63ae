"""How fast the lights and the shutter keep up, and for how long (science §10)."""

import math
from dataclasses import dataclass

from rapzel.core.document.gear import Light
from rapzel.core.document.scene import Scene

LONGEST_BURST = 500


def recycle_s(light: Light) -> float | None:
    """Time until the light is ready again at its power [s]: floor + power × full recycle; None where unknown."""
    full = light.strobe.full_recycle_s
    return None if full is None else light.strobe.recycle_floor_s + light.power * full


def burst_offsets_stops(
    power: float, full_recycle_s: float, frames_per_s: float, frames: int, floor_s: float = 0.0
) -> list[float]:
    """Light of each frame of a burst against its full amount [stops, 0 or negative; −∞ for a frame without light].

    A reservoir of energy 1: each pop takes `power`, or what is left. After a pop the strobe is dead for `floor_s`, in
    which it neither fires nor charges; in the rest of the time between frames 1 / full recycle a second flows in.
    """
    between = 1 / frames_per_s
    stored, since_pop, offsets = 1.0, math.inf, []
    for _ in range(frames):
        if since_pop < floor_s * (1 - 1e-9):
            offsets.append(-math.inf)  # dead: this frame is missed, and charging goes on afterwards
        else:
            given = min(power, stored)
            offsets.append(math.log2(given / power) if given > 0 else -math.inf)
            stored, since_pop = stored - given, 0.0
        charging = max(since_pop + between, floor_s) - max(since_pop, floor_s)
        stored = min(stored + (charging / full_recycle_s if full_recycle_s > 0 else 1.0), 1.0)
        since_pop += between
    return offsets


def frames_before_short(
    power: float,
    full_recycle_s: float,
    frames_per_s: float,
    tolerance: float = 0.1,
    floor_s: float = 0.0,
) -> int | None:
    """How many frames come before the first that is short by more than `tolerance` stops; None: all of them."""
    offsets = burst_offsets_stops(power, full_recycle_s, frames_per_s, LONGEST_BURST, floor_s)
    return next((count for count, offset in enumerate(offsets) if offset < -tolerance), None)


@dataclass(frozen=True, slots=True)
class Pace:
    """Frames a second that the slowest light and the shutter sustain; None where a recycle time is not known."""

    sustained_fps: float | None
    asked_fps: float | None
    frames_before_short: int | None
    slowest: str  # what caps the rate, in words
    unknown: tuple[str, ...]  # lights whose recycle is not known


def pace_of(scene: Scene, flashes: bool, travel_s: float) -> Pace:
    """The pace of a scene. A frame takes its exposure and the way of the curtains, whatever the lights do."""
    asked = scene.exposure.frames_per_s
    frame_s = scene.exposure.shutter_s + travel_s
    times: list[tuple[float, str]] = [(frame_s, "the exposure")]
    unknown, runs = [], []
    for place, light in enumerate(scene.lights if flashes else (), start=1):
        name, recycle = light.name or f"light {place}", recycle_s(light)
        if recycle is None:
            unknown.append(name)
            continue
        times.append((recycle, name))
        if asked:
            full, floor = light.strobe.full_recycle_s or 0.0, light.strobe.recycle_floor_s
            runs.append(frames_before_short(light.power, full, asked, floor_s=floor))
    slowest_s, slowest = max(times)
    short = [run for run in runs if run is not None]
    sustained = None if unknown else 1 / slowest_s
    return Pace(sustained, asked, min(short, default=None), slowest, tuple(unknown))
