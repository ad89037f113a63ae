"""How fast the lights and the shutter keep up, and for how long (science §10)."""

import math
from dataclasses import dataclass

from rapzel.core.document.gear import Drive, Light, recycle_floor_s
from rapzel.core.document.scene import Scene
from rapzel.core.methods import Method
from rapzel.core.shared import constants
from rapzel.core.shared.units import format_shutter

LONGEST_BURST = 500


def recycle_s(light: Light) -> float | None:
    """Time until a light is ready for the next frame at its power [s], at most; None where unknown.

    Floor + power × full recycle; of several that fire in turn each has as many frames' time. A floor that is not known
    is taken as long as floors are.
    """
    full = light.strobe.full_recycle_s
    if full is None:
        return None
    _, floor = recycle_floor_s(light.strobe)
    return (floor + light.power * full) / _turns(light)


def soonest_s(light: Light) -> float | None:
    """The same at least: with no floor where none is known [s]."""
    full = light.strobe.full_recycle_s
    if full is None:
        return None
    floor, _ = recycle_floor_s(light.strobe)
    return (floor + light.power * full) / _turns(light)


def _turns(light: Light) -> int:
    if light.in_turn:
        return light.count
    return 1


def thermal_s(light: Light) -> float | None:
    """Time between frames that a light bears for long [s], by its heat at that power; None where unknown."""
    per_minute = light.strobe.thermal_pops_per_min
    if per_minute is None:
        return None
    # Makers state full pops; heat goes with the energy of a pop, so that a quarter power may be
    # fired four times as often.
    return 60 * light.power / per_minute / _turns(light)


def pops_of_a_charge(light: Light) -> int | None:
    """Frames that a charge gives at the light's power; None where unknown."""
    pops = light.strobe.battery_pops
    if pops is None:
        return None
    # Losses that each pop costs whatever its power are left out: at low powers a charge gives fewer
    # than this says.
    return int(pops / light.power) * _turns(light)


def frames_of(light: Light, frames_per_s: float, frames: int) -> list[float] | None:
    """Light of each frame of a burst against its full amount [stops]; None where its recycle is not known."""
    full = light.strobe.full_recycle_s
    if full is None:
        return None
    turns = _turns(light)
    own = burst_offsets_stops(
        light.power,
        full,
        frames_per_s / turns,
        math.ceil(frames / turns),
        recycle_floor_s(light.strobe)[1],
    )
    # Each of several in turn sees only its own frames, and has all the time of the others to
    # charge.
    return [own[frame // turns] for frame in range(frames)]


def blocked_by(drive: Drive, scene: Scene, method: Method) -> str:
    """What keeps a scene from a drive mode; empty where nothing does."""
    shutter, kind = scene.exposure.shutter_s, scene.camera.shutter
    if drive.shutters and kind not in drive.shutters:
        return f"needs {' or '.join(one.replace('_', ' ') for one in drive.shutters)}"
    if method.flashes and not drive.flash:
        return "no flash"
    if method.train and not drive.hss:
        return "no high-speed sync"
    # The thousandth is for marks: 1/8000 is written as 0.000125 and as 0.00013.
    if drive.fastest_s is not None and shutter < drive.fastest_s * 0.999:
        return f"{format_shutter(drive.fastest_s)} at most"
    if drive.slowest_s is not None and shutter > drive.slowest_s * 1.001:
        return f"{format_shutter(drive.slowest_s)} or faster"
    return ""


@dataclass(frozen=True)
class Drives:
    """The drive modes of a body for a scene: the fastest that may be used, and faster ones with what blocks them."""

    best: Drive | None
    blocked: tuple[tuple[Drive, str], ...]

    @property
    def says(self) -> str:
        """Which line blocks the top rate; empty where none does."""
        if not self.blocked:
            return ""
        drive, why = self.blocked[0]
        return f"{drive.name} with {drive.frames_per_s:g}/s: {why}"


def drives_of(scene: Scene, method: Method) -> Drives:
    """The drive modes, the fastest first."""
    # The first that is blocked is the one a person would reach for, so its reason is told.
    ordered = sorted(scene.camera.drives, key=lambda drive: -drive.frames_per_s)
    judged = [(drive, blocked_by(drive, scene, method)) for drive in ordered]
    best = next((drive for drive, why in judged if not why), None)
    if best:
        rate = best.frames_per_s
    else:
        rate = 0.0
    faster = tuple(
        (drive, why) for drive, why in judged if why and drive.frames_per_s > rate
    )
    return Drives(best, faster)


def burst_offsets_stops(
    power: float,
    full_recycle_s: float,
    frames_per_s: float,
    frames: int,
    floor_s: float = 0.0,
) -> list[float]:
    """Light of each frame of a burst against its full amount [stops, 0 or negative; −∞ for a frame without light].

    A reservoir of energy 1: each pop takes `power`, or what is left. After a pop the strobe is dead for `floor_s`, in
    which it neither fires nor charges; in the rest of the time between frames 1 / full recycle a second flows in.
    """
    between = 1 / frames_per_s
    # The first frame finds a full reservoir that has long been ready.
    stored, since_pop, offsets = 1.0, math.inf, []
    for _ in range(frames):
        if since_pop < floor_s * (1 - 1e-9):
            # dead: this frame is missed, and charging goes on afterwards
            offsets.append(-math.inf)
        else:
            # A strobe that is not ready gives what it has, which is how bursts fade.
            given = min(power, stored)
            offsets.append(math.log2(given / power) if given > 0 else -math.inf)
            stored, since_pop = stored - given, 0.0
        # Of the time between two frames only what lies beyond the dead time charges.
        charging = max(since_pop + between, floor_s) - max(since_pop, floor_s)
        stored = min(
            stored + (charging / full_recycle_s if full_recycle_s > 0 else 1.0), 1.0
        )
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
    offsets = burst_offsets_stops(
        power, full_recycle_s, frames_per_s, LONGEST_BURST, floor_s
    )
    return next(
        (count for count, offset in enumerate(offsets) if offset < -tolerance), None
    )


def frame_of(scene: Scene, drives: Drives, travel_s: float) -> tuple[float, str]:
    """How long the body takes for a frame [s], and by what: its exposure or its drive."""
    # No body begins the next frame before the last row of this one has closed.
    own = (scene.exposure.shutter_s + travel_s, "the exposure")
    if drives.best is None:
        return own
    return max(own, (1 / drives.best.frames_per_s, f"drive {drives.best.name}"))


@dataclass(frozen=True, slots=True)
class Pace:
    """Frames a second that the slowest of lights, shutter and drive sustains; None where a recycle is not known.

    `bears_fps` is what the lights' heat allows for long; `drives` what the body's drive modes allow. Where a light's
    dead time is not known, `sustained_fps` is what it surely does, and `at_best_fps` what it may. `surely_before_short`
    is how many frames come with recycles as long as they may be, `perhaps_before_short` with the shortest.
    """

    sustained_fps: float | None
    asked_fps: float | None
    frames_before_short: int | None
    slowest: str  # what caps the rate, in words
    unknown: tuple[str, ...]  # lights whose recycle is not known
    bears_fps: float | None
    frame_s: float  # that the body takes for one
    drives: Drives
    at_best_fps: float | None = None
    by_light: bool = False  # whether a light is the slowest
    floor_unknown: tuple[str, ...] = ()
    surely_before_short: int | None = None
    perhaps_before_short: int | None = None


def pace_of(scene: Scene, method: Method, travel_s: float) -> Pace:
    """The pace of a scene. A frame takes its exposure and the way of the curtains, whatever the lights do."""
    asked, flashes = scene.exposure.frames_per_s, method.flashes
    drives = drives_of(scene, method)
    times = [frame_of(scene, drives, travel_s)]
    soonest = [times[0][0]]
    unknown, heat, no_floor = [], [], []
    runs: list[int] = []
    sure: list[int] = []
    perhaps: list[int] = []
    for place, light in enumerate(scene.lights if flashes else (), start=1):
        name, recycle, warm = (
            light.name or f"light {place}",
            recycle_s(light),
            thermal_s(light),
        )
        heat += [] if warm is None else [warm]
        if recycle is None:
            unknown.append(name)
            continue
        times.append((recycle, name))
        least = soonest_s(light)
        soonest.append(recycle if least is None else least)
        if light.strobe.recycle_floor_s is None:
            no_floor.append(name)
        if asked:
            least_floor, floor = recycle_floor_s(light.strobe)
            off = constants.RECYCLE_DOUBT
            runs += _run(light, asked, floor)
            sure += _run(light, asked, floor, 1 + off)
            perhaps += _run(light, asked, least_floor, 1 - off)
    slowest_s, slowest = max(times)
    if unknown:
        sustained = None
    else:
        sustained = 1 / slowest_s
    if heat and max(heat) > 0:
        bears = 1 / max(heat)
    else:
        bears = None
    return Pace(
        sustained,
        asked,
        min(runs, default=None),
        slowest,
        tuple(unknown),
        bears,
        times[0][0],
        drives,
        None if unknown else 1 / max(soonest),
        slowest_s > times[0][0],
        tuple(no_floor),
        min(sure, default=None),
        min(perhaps, default=None),
    )


def _run(
    light: Light, asked_fps: float, floor_s: float, longer: float = 1.0
) -> list[int]:
    """Frames before one is short at that rate, with recycles so many times as long; none where all of them hold."""
    turns, full = _turns(light), light.strobe.full_recycle_s or 0.0
    run = frames_before_short(
        light.power, full * longer, asked_fps / turns, floor_s=floor_s
    )
    if run is None:
        return []
    return [run * turns]
