"""One change that closes it: each proposal is tried on the scene and offered only if it does what it says."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import islice
from typing import Any

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.places import changed
from rapzel.core.document.possible import lowest_power
from rapzel.core.document.scene import Scene
from rapzel.core.evaluate import evaluate
from rapzel.core.light.amount import duration_table
from rapzel.core.pulse import pulse_at
from rapzel.core.shared.errors import CoreError
from rapzel.core.shared.units import (
    F_NUMBERS,
    ISO_SPEEDS,
    SHUTTERS_S,
    format_f_number,
    format_length,
    format_number,
    format_power,
    format_shutter,
    format_time,
    next_mark,
)

_MOST = 3  # proposals for one margin
_HIGHEST_ISO = 25600.0
_WIDEST, _NARROWEST = 1.4, 16.0
_LOWEST_ISO = 100.0
_SPARE = 1.0  # stops of light from which using them up is proposed


@dataclass(frozen=True, slots=True)
class Change:
    """A proposal: the margin it closes, what it says on the link, and the values to set by path."""

    margin: str
    says: str
    values: tuple[tuple[str, Any], ...]


def _dial_until(
    value: float, direction: int, marks: tuple[float, ...], enough: Callable[[float], bool]
) -> float | None:
    """The first marking in a direction that is enough; None where the dial ends before."""
    for _ in marks:
        following = next_mark(value, direction, marks)
        if following == value:
            return None
        value = following
        if enough(value):
            return value
    return None


def _rounded_down(value: float, step: float) -> float:
    return int(value / step + 1e-9) * step


def for_light(scene: Scene, now: Evaluation, imperial: bool = False) -> Iterator[Change]:
    """ISO, distance, aperture, power or a bare reflector against missing light."""
    short = -(now.margin("light").value or 0.0)
    exposure = scene.exposure
    iso = _dial_until(exposure.iso, 1, ISO_SPEEDS, lambda mark: mark >= exposure.iso * 2**short)
    if iso is not None and iso <= _HIGHEST_ISO:
        yield Change("light", f"ISO {iso:g}", (("exposure.iso", iso),))
    aperture = _dial_until(exposure.f_number, -1, F_NUMBERS, lambda mark: mark <= exposure.f_number * 2 ** (-short / 2))
    if aperture is not None and aperture >= _WIDEST:
        yield Change("light", format_f_number(aperture), (("exposure.f_number", aperture),))
    by_share = sorted(enumerate(scene.lights), key=lambda each: -now.lights[each[0]].share)
    for place, light in by_share:
        if not light.on_moving_part:
            continue
        share = now.lights[place].share
        if share <= 0:
            continue
        # This light alone has to make up for what is missing of the sum.
        factor = ((2.0**short - (1 - share)) / share) ** 0.5
        nearer = _rounded_down(light.distance_m / factor, 0.01)
        name = light.name or "light"
        if nearer >= 0.3:
            says = f"{name} {format_length(light.distance_m - nearer, imperial)} closer"
            yield Change("light", says, ((f"lights[{place}].distance_m", round(nearer, 2)),))
    for place, light in enumerate(scene.lights):
        wanted = 2.0 ** (_ceil_third(short)) * light.power
        if light.on_moving_part and wanted <= 1.0:
            says = f"{light.name or 'light'} at {format_power(wanted)}"
            yield Change("light", says, ((f"lights[{place}].power", wanted),))
        if light.loss_stops > 0:
            yield Change("light", f"{light.name or 'light'} bare", ((f"lights[{place}].loss_stops", 0.0),))


def _ceil_third(stops: float) -> float:
    return -(-stops * 3 // 1) / 3


def for_spare(scene: Scene, now: Evaluation) -> Iterator[Change]:
    """Lower ISO, a smaller aperture or less power where there is more light than wanted."""
    spare = now.margin("light").value or 0.0
    exposure = scene.exposure
    iso = _last_mark(exposure.iso, -1, ISO_SPEEDS, lambda mark: mark >= exposure.iso * 2**-spare * 1.02)
    if iso is not None and iso >= _LOWEST_ISO:
        yield Change("light", f"ISO {iso:g}", (("exposure.iso", iso),))
    aperture = _last_mark(
        exposure.f_number, 1, F_NUMBERS, lambda mark: mark <= exposure.f_number * 2 ** (spare / 2) / 1.01
    )
    if aperture is not None and aperture <= _NARROWEST:
        yield Change("light", format_f_number(aperture), (("exposure.f_number", aperture),))


def _last_mark(value: float, direction: int, marks: tuple[float, ...], fits: Callable[[float], bool]) -> float | None:
    """The furthest marking in a direction that still fits; None where the first one does not."""
    found = None
    while (following := next_mark(value, direction, marks)) != value and fits(following):
        found = value = following
    return found


def for_freeze(scene: Scene, now: Evaluation) -> Iterator[Change]:
    """Less power on every light that is too slow, or a faster shutter where the shutter freezes."""
    limit = now.freeze_limit_s or 0.0
    if scene.exposure.method in ("hss", "ambient"):
        mark = _dial_until(scene.exposure.shutter_s, -1, SHUTTERS_S, lambda mark: mark <= limit)
        if mark is not None:
            yield Change("freeze", format_shutter(mark), (("exposure.shutter_s", mark),))
        return
    slow = [place for place, lit in enumerate(now.lights) if lit.share >= 0.1 and lit.stopping_s > limit]
    values = []
    for place in slow:
        power = _power_fast_enough(scene, place, limit)
        if power is None:
            return
        values.append((f"lights[{place}].power", power))
    if values:
        names = " and ".join(
            f"{scene.lights[p].name or 'light'} at {format_power(v[1])}" for p, v in zip(slow, values, strict=True)
        )
        yield Change("freeze", names, tuple(values))


def _power_fast_enough(scene: Scene, place: int, limit_s: float) -> float | None:
    """The highest power in thirds of a stop at which a light is within the freeze limit; None if there is none."""
    light = scene.lights[place]
    lowest = lowest_power(light.strobe)
    power = light.power
    while (power := power * 2 ** (-1 / 3)) >= lowest * 0.999:
        if pulse_at(light.strobe.circuit, duration_table(light), max(power, lowest)).t01_s <= limit_s:
            return max(power, lowest)
    return None


def for_ghost(scene: Scene, now: Evaluation) -> Iterator[Change]:
    """A faster shutter while it is safe, lights closer; aperture and ISO move flash and room alike."""
    short = -(now.margin("ghost").value or 0.0)
    safe = now.shutter.fastest_safe_shutter_s
    shutter = scene.exposure.shutter_s
    mark = _dial_until(shutter, -1, SHUTTERS_S, lambda mark: mark <= shutter * 2**-short)
    if mark is not None and safe is not None and mark >= safe:
        yield Change("ghost", format_shutter(mark), (("exposure.shutter_s", mark),))
    if scene.lights:
        factor = 2 ** (-short / 2)
        values = tuple(
            (f"lights[{place}].distance_m", round(_rounded_down(light.distance_m * factor, 0.01), 2))
            for place, light in enumerate(scene.lights)
            if light.on_moving_part
        )
        if all(distance >= 0.3 for _, distance in values):
            yield Change("ghost", f"lights at {format_number(factor * 100, 2)} % of their distance", values)
    if scene.ambient.ev100 is not None:
        darker = round(scene.ambient.ev100 - short - 0.05, 1)
        yield Change("ghost", f"room darkened to EV {darker:g}", (("ambient.ev100", darker),))


def for_sync(scene: Scene, now: Evaluation) -> Iterator[Change]:
    """A shutter that lets every row see the light, or high-speed sync where all lights can."""
    safe = now.shutter.fastest_safe_shutter_s
    if scene.exposure.method == "pulse" and safe is not None:
        if scene.camera.shutter == "global" and scene.exposure.offset_s is not None:
            yield Change("sync", "opening placed at the light", (("exposure.offset_s", None),))
        mark = _dial_until(scene.exposure.shutter_s, 1, SHUTTERS_S, lambda mark: mark >= safe)
        if mark is not None:
            yield Change("sync", format_shutter(mark), (("exposure.shutter_s", mark),))
        if scene.lights and all(light.strobe.hss for light in scene.lights) and scene.camera.shutter == "focal_plane":
            yield Change("sync", "high-speed sync", (("exposure.method", "hss"),))
    if scene.exposure.method == "hss":
        mark = next_mark(scene.camera.sync_speed_s / 1.02, 1, SHUTTERS_S)
        yield Change(
            "sync", f"pulse at {format_shutter(mark)}", (("exposure.method", "pulse"), ("exposure.shutter_s", mark))
        )


def for_timing(scene: Scene, now: Evaluation) -> Iterator[Change]:
    """The delay that the chain leaves, or the flash fired directly where the camera makes it late."""
    needed = now.timing.needed_delay_s
    if needed is not None and needed >= 0:
        delay = round(needed, 6)
        yield Change("timing", f"delay {format_time(delay)}", (("trigger.set_delay_s", delay),))
    if scene.trigger.fires == "camera" and scene.ambient.ev100 is None:
        yield Change(
            "timing", "trigger fires the flash", (("trigger.fires", "flash"), ("exposure.method", "open_shutter"))
        )
    if scene.motion.kind == "leap" and scene.motion.from_apex_s > 0:
        yield Change("timing", "caught at the apex", (("motion.from_apex_s", 0.0),))


def for_pace(scene: Scene, now: Evaluation) -> Iterator[Change]:
    """Fewer frames a second."""
    sustained = now.pace.sustained_fps
    if sustained is not None and sustained >= 0.1:
        rate = _rounded_down(sustained, 0.1)
        yield Change("pace", f"{format_number(rate)} frames/s", (("exposure.frames_per_s", round(rate, 1)),))


REMEDIES: dict[str, Callable[[Scene, Evaluation], Iterator[Change]]] = {
    "freeze": for_freeze,
    "light": for_light,
    "ghost": for_ghost,
    "sync": for_sync,
    "timing": for_timing,
    "pace": for_pace,
}


def _holds(scene: Scene, change: Change, now: Evaluation) -> bool:
    """Whether the change closes its margin and lets no other margin fall that held before."""
    try:
        after = evaluate(changed(scene.to_document(), dict(change.values)))
    except CoreError:
        return False
    kept = all(after.margin(margin.name).passes for margin in now.margins if margin.passes)
    return kept and after.margin(change.margin).passes


def advise(scene: Scene, now: Evaluation, imperial: bool = False) -> list[Change]:
    """Single changes that each close one failing margin, up to three for it, and break none that holds.

    Light to spare counts as open too: left as it is, the picture would be too bright.

    Margins are taken in the order of the strip, so that what is first in the sentence is closed first.
    """
    found: list[Change] = []
    for margin in now.margins:
        if margin.value is None:
            continue
        spare = margin.name == "light" and margin.value >= _SPARE
        if not margin.passes or spare:
            if margin.name == "light" and not spare:
                proposals = for_light(scene, now, imperial)
            else:
                proposals = for_spare(scene, now) if spare else REMEDIES[margin.name](scene, now)
            found += islice((change for change in proposals if _holds(scene, change, now)), _MOST)
    return found
