"""What might close a margin: proposals by margin, to be tried before they are offered."""

from collections.abc import Iterator

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.gear import lowest_power
from rapzel.core.document.scene import Scene
from rapzel.core.methods import METHODS, method_of
from rapzel.core.physics import Physics
from rapzel.core.shared import constants
from rapzel.core.shared.units import (
    F_NUMBERS,
    ISO_SPEEDS,
    SHUTTERS_S,
    format_f_number,
    format_length,
    format_number,
    format_power,
    format_shutter,
    next_mark,
)
from rapzel.core.verdict.ambient import by_backdrop, stops_too_bright
from rapzel.core.verdict.change import (
    Change,
    dial_until,
    last_mark,
    named,
    rounded_down,
)
from rapzel.core.verdict.look_remedies import (
    against_each_other,
    for_level,
    for_trail,
    level_changes,
)
from rapzel.core.verdict.machine import tolerant_s
from rapzel.core.verdict.timing_fixes import timing_changes

_HIGHEST_ISO, _LOWEST_ISO = 25600.0, 100.0
_WIDEST, _NARROWEST = 1.4, 16.0
_NEAREST_M = 0.3
# black wants at least so much, so that the next mark is taken and not the nearest
_NEXT_MARK_STOPS = 1 / 6
_MORE_FLAGS_STOPS = (0.1, 0.6, 1.5)
_LESS_POWER_STOPS = (1.0, 2.0, 3.0)
_FARTHER = 3.0  # times the distance: who has more room than that has thought of it


def for_light(
    scene: Scene, now: Evaluation, imperial: bool = False
) -> Iterator[Change]:
    """What brings a picture that is short, or over, back to correct."""
    value = now.margin("light").value
    if value is not None:
        yield from (
            _brighter(scene, now, -value, imperial)
            if value < 0
            else _darker(scene, now, value, imperial)
        )


def _brighter(
    scene: Scene, now: Evaluation, short: float, imperial: bool
) -> Iterator[Change]:
    """ISO, aperture, distance, power or a bare reflector against missing light."""
    exposure = scene.exposure
    iso = dial_until(
        # A stop of ISO is a factor of two; a hundredth of grace for marks that are rounded.
        exposure.iso,
        1,
        ISO_SPEEDS,
        lambda mark: mark >= exposure.iso * 2**short * 0.99,
    )
    if iso is not None and iso <= _HIGHEST_ISO:
        yield Change("light", f"ISO {iso:g}", (("exposure.iso", iso),))
    # A stop of light is a factor of √2 in the f-number.
    wanted = exposure.f_number * 2 ** (-short / 2)
    aperture = dial_until(
        exposure.f_number, -1, F_NUMBERS, lambda mark: mark <= wanted * 1.01
    )
    if aperture is not None and aperture >= _WIDEST:
        yield Change(
            "light", format_f_number(aperture), (("exposure.f_number", aperture),)
        )
    yield from _closer(scene, now, short, imperial)
    for place, light in enumerate(scene.lights):
        # Up to the next third of a stop, the step of most dials.
        power = light.power * 2.0 ** (-(-short * 3 // 1) / 3)
        if light.on_moving_part and power <= 1.0:
            yield Change(
                "light",
                f"{named(light)} at {format_power(power)}",
                ((f"lights[{place}].power", power),),
            )
        # A bare light is bright and hard: it is offered, and the person chooses.
        if light.loss_stops > 0:
            yield Change(
                "light", f"{named(light)} bare", ((f"lights[{place}].loss_stops", 0.0),)
            )
    slower = dial_until(
        exposure.shutter_s,
        1,
        SHUTTERS_S,
        lambda mark: mark >= exposure.shutter_s * 2**short,
    )
    if slower is not None and not method_of(scene).room_apart:
        yield Change("light", format_shutter(slower), (("exposure.shutter_s", slower),))


def _closer(
    scene: Scene, now: Evaluation, short: float, imperial: bool
) -> Iterator[Change]:
    """Each light moved so that it alone makes up for what is missing of the sum, the strongest first."""
    by_share = sorted(
        enumerate(scene.lights), key=lambda pair: -now.lights[pair[0]].share
    )
    for place, light in by_share:
        # (of the light on what moves)
        share = now.lights[place].share
        if not light.on_moving_part or share <= 0:
            continue
        # This light alone makes up for it: its own part has to grow by more than the sum is short.
        factor = ((2.0**short - (1 - share)) / share) ** 0.5
        nearer = rounded_down(light.distance_m / factor, 0.01)
        if nearer >= _NEAREST_M:
            says = f"{named(light)} {format_length(light.distance_m - nearer, imperial)} closer"
            yield Change(
                "light", says, ((f"lights[{place}].distance_m", round(nearer, 2)),)
            )


def _darker(
    scene: Scene, now: Evaluation, spare: float, imperial: bool
) -> Iterator[Change]:
    """Less power, which is shorter too; a lower ISO; a smaller aperture; further away."""
    exposure = scene.exposure
    # To the nearest third: two thirds of a stop over is not mended by a whole one.
    lower = int(spare * 3 + 0.5) / 3
    values = tuple(
        (f"lights[{place}].power", light.power * 2**-lower)
        for place, light in enumerate(scene.lights)
        if light.on_moving_part
        and light.power * 2**-lower >= lowest_power(light.strobe) * 0.999
    )
    if values and lower:
        powers = " and ".join(
            f"{named(scene.lights[int(path[7:-7])])} at {format_power(power)}"
            for path, power in values
        )
        yield Change("light", powers, values)
    iso = last_mark(
        exposure.iso,
        -1,
        ISO_SPEEDS,
        lambda mark: mark >= exposure.iso * 2**-spare * 0.8,
    )
    if iso is not None and iso >= _LOWEST_ISO:
        yield Change("light", f"ISO {iso:g}", (("exposure.iso", iso),))
    if not method_of(scene).room_apart:
        mark = dial_until(
            exposure.shutter_s,
            -1,
            SHUTTERS_S,
            lambda mark: mark <= exposure.shutter_s * 2**-spare * 1.1,
        )
        if mark is not None:
            yield Change("light", format_shutter(mark), (("exposure.shutter_s", mark),))
    # A sixth of a stop of grace, so that the mark beside the exact one is found.
    narrower = min(exposure.f_number * 2 ** (spare / 2) * 1.12, _NARROWEST)
    aperture = last_mark(exposure.f_number, 1, F_NUMBERS, lambda mark: mark <= narrower)
    if aperture is not None:
        yield Change(
            "light", format_f_number(aperture), (("exposure.f_number", aperture),)
        )
    factor = 2 ** (spare / 2)
    further = tuple(
        (f"lights[{place}].distance_m", round(light.distance_m * factor, 2))
        for place, light in enumerate(scene.lights)
        if light.on_moving_part
    )
    # All together, so that the ratio between the lights stays.
    if further and factor <= _FARTHER:
        yield Change(
            "light",
            f"lights at {format_number(factor * 100, 3)} % of their distance",
            further,
        )


def for_ghost(
    scene: Scene, now: Evaluation, imperial: bool = False
) -> Iterator[Change]:
    """A faster shutter while it is safe, lights closer, a darker room; aperture and ISO move flash and room alike."""
    if scene.look.room != "black":
        yield from for_trail(scene)
        return
    short = -(now.margin("ghost").value or 0.0)
    safe = now.shutter.fastest_safe_shutter_s
    shutter = scene.exposure.shutter_s
    mark = dial_until(shutter, -1, SHUTTERS_S, lambda mark: mark <= shutter * 2**-short)
    # A faster shutter darkens the room and not the flash, until it cuts into the pulse.
    if mark is not None and safe is not None and mark >= safe:
        yield Change("ghost", format_shutter(mark), (("exposure.shutter_s", mark),))
    factor = 2 ** (-short / 2)
    values = tuple(
        (
            f"lights[{place}].distance_m",
            round(rounded_down(light.distance_m * factor, 0.01), 2),
        )
        for place, light in enumerate(scene.lights)
        if light.on_moving_part
    )
    if values and all(distance >= _NEAREST_M for _, distance in values):
        yield Change(
            "ghost",
            f"lights at {format_number(factor * 100, 2)} % of their distance",
            values,
        )
    # A room that was metered, or follows from the sky, is not darkened by writing another figure.
    if scene.ambient.ev100 is not None:
        yield _darkened(scene, "ghost", short)


def for_room(scene: Scene, now: Evaluation, imperial: bool = False) -> Iterator[Change]:
    """ISO against power, or the shutter; a black one also darkened, and its backdrop flagged."""
    if scene.look.room != "black":
        yield from for_level(scene)
        return
    margin = now.margin("room")
    short = stops_too_bright(margin)
    if short <= 0:
        return
    physics = Physics(scene)
    if by_backdrop(physics):
        # What the room itself gives the backdrop no flag before a light takes away: a little more may be needed.
        for more in _MORE_FLAGS_STOPS:
            flags = round(scene.backdrop.flagged_stops + short + more, 1)
            says = f"{format_number(flags)} stops of flags before the backdrop"
            yield Change("room", says, (("backdrop.flagged_stops", flags),))
        return
    yield from level_changes(physics, short + _NEXT_MARK_STOPS)
    if scene.ambient.ev100 is not None:
        yield _darkened(scene, "room", short)


def _darkened(scene: Scene, margin: str, by_stops: float) -> Change:
    """A room that somebody wrote a figure for, darkened by so much; one that was metered is not darkened by writing."""
    darker = round((scene.ambient.ev100 or 0.0) - by_stops - 0.05, 1)
    says = f"room darkened to EV {darker:g}"
    return Change(margin, says, (("ambient.ev100", darker),))


def for_sync(scene: Scene, now: Evaluation, imperial: bool = False) -> Iterator[Change]:
    """What the method offers where settings exclude each other; else a shutter that fits."""
    method = method_of(scene)
    if method.conflict(scene):
        yield from (Change("sync", says, values) for says, values in method.remedy)
        return
    safe = now.shutter.fastest_safe_shutter_s
    if scene.exposure.flash_at == "second":
        first = (("exposure.flash_at", None),)
        yield Change("sync", "the flash at the first curtain", first)
    if method.pulsed and safe is not None:
        if scene.exposure.offset_s is not None:
            yield Change(
                "sync", "opening placed at the light", (("exposure.offset_s", None),)
            )
        mark = _slower_mark(scene, safe)
        if mark is not None:
            yield Change("sync", format_shutter(mark), (("exposure.shutter_s", mark),))
        if (
            scene.lights
            and all(light.strobe.hss for light in scene.lights)
            and scene.camera.shutter == "focal_plane"
        ):
            yield Change(
                "sync", "high-speed sync", (("exposure.method", METHODS["hss"].word),)
            )
    if (
        method.leads
        and scene.lights
        and all(light.strobe.hss for light in scene.lights)
    ):
        yield Change(
            "sync", "high-speed sync", (("exposure.method", METHODS["hss"].word),)
        )
    if method.through_slit:
        # The sync speed itself, where the dial has that mark.
        mark = next_mark(scene.camera.sync_speed_s / 1.02, 1, SHUTTERS_S)
        values = (
            ("exposure.method", METHODS["pulse"].word),
            ("exposure.shutter_s", mark),
        )
        yield Change("sync", f"pulse at {format_shutter(mark)}", values)


def _slower_mark(scene: Scene, safe_s: float) -> float | None:
    """The fastest slower mark [s] that gives every row, or nearly every frame, its light."""
    physics = Physics(scene)
    if physics.assumed_travel_s == 0:
        return tolerant_s(physics)
    return dial_until(
        scene.exposure.shutter_s, 1, SHUTTERS_S, lambda mark: mark >= safe_s
    )


def for_timing(
    scene: Scene, now: Evaluation, imperial: bool = False
) -> Iterator[Change]:
    """The delay that the chain leaves, a quicker body, a sensor elsewhere, the flash fired directly."""
    yield from timing_changes(scene, imperial)


def for_pace(scene: Scene, now: Evaluation, imperial: bool = False) -> Iterator[Change]:
    """Less power with more ISO, which keeps the light and shortens the pulse; else fewer frames a second."""
    for stops in _LESS_POWER_STOPS:
        values = against_each_other(scene, stops)
        if values:
            iso = dict(values)["exposure.iso"]
            says = f"every light {format_number(stops)} stops down with ISO {iso:g}"
            yield Change("pace", says, values)
    sustained = now.pace.sustained_fps
    if sustained is None:
        return
    # By so much less a battery that is no longer fresh still keeps up.
    sure = sustained
    if now.margin("pace").doubt:
        sure = sustained * (1 - constants.RECYCLE_DOUBT)
    # Rounded up it would be a rate that is not held.
    rate = rounded_down(sure, 0.1)
    if rate >= 0.1:
        says = f"{format_number(rate)} frames/s"
        yield Change("pace", says, (("exposure.frames_per_s", round(rate, 1)),))
