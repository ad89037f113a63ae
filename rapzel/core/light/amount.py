"""How much light arrives: guide numbers, losses, and the ladder from full power to the subject (science §5)."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from rapzel.core.document.scene import Durations, Light, Scene, Setting
from rapzel.core.shared import constants
from rapzel.core.shared.working import Provenance, Step, step

_NEAR_SOURCE = 5.0  # inverse square is out by more than 5 % nearer than five times the source's size (memory)


def correct_f_number(guide_number_m: float, iso: float, power: float, distance_m: float, loss_stops: float) -> float:
    """f-number for correct exposure [-]: N = GN √(ISO/100) √power / d · 2^(−loss/2).

    Guide number in metres at ISO 100 (ISO 1230); distance in metres; loss in stops.
    """
    return guide_number_m * math.sqrt(iso / 100 * power) / distance_m * 2 ** (-loss_stops / 2)


def f_number_from_lux_seconds(lux_seconds: float) -> float:
    """f-number at ISO 100 for a luminous exposure at the subject [lx s]: N² = H·S/C, C = 250 (ISO 2720)."""
    return math.sqrt(lux_seconds * 100 / constants.FLAT_RECEPTOR_C)


def guide_number_at_zoom(light: Light) -> tuple[float, Provenance]:
    """Guide number [m] at the light's zoom position, interpolated in log focal length between known positions."""
    table = sorted(light.strobe.guide_numbers, key=lambda row: row.zoom_mm)
    if light.zoom_mm is None or not table:
        return light.strobe.guide_number_m, "claimed"
    zooms = [math.log(row.zoom_mm) for row in table]
    numbers = [row.guide_number_m for row in table]
    exact = any(math.isclose(row.zoom_mm, light.zoom_mm) for row in table)
    return float(np.interp(math.log(light.zoom_mm), zooms, numbers)), "claimed" if exact else "estimated"


def near_source_warning(light: Light) -> str | None:
    """A warning where the source is too large for the inverse square law at that distance."""
    if light.source_size_m and light.distance_m < _NEAR_SOURCE * light.source_size_m:
        return (
            f"{light.name or 'A light'} is nearer than five times its {light.source_size_m:g} m source: "
            "the inverse square overstates it by more than 5 %; meter it."
        )
    return None


def duration_table(one: Light) -> Durations:
    """The duration table of the light's mode; without a chosen mode the strobe's own, else its first mode's."""
    strobe = one.strobe
    if one.mode is not None:
        return next(mode.durations for mode in strobe.modes if mode.name == one.mode)
    return strobe.durations or strobe.modes[0].durations


def relative_light_stops(table: Sequence[Setting], power: float) -> float:
    """Light at a power against full [stops]: log2(power), corrected by what was measured at the nearest settings.

    A dial marked 1/16 may give 0.2 stops less than a sixteenth; the correction is interpolated over log2(power).
    """
    known = sorted(
        (math.log2(row.power), row.light_stops - math.log2(row.power)) for row in table if row.light_stops is not None
    )
    nominal = math.log2(power)
    if not known:
        return nominal
    return nominal + float(np.interp(nominal, [at for at, _ in known], [off for _, off in known]))


@dataclass(frozen=True, slots=True)
class Rung:
    """One rung of the light ladder: what it does, in stops, and the running total after it."""

    name: str
    detail: str
    stops: float
    total_stops: float


@dataclass(frozen=True, slots=True)
class LightSum:
    """What one light gives the subject: squared f-number at the scene's ISO before shutter effects, and why."""

    n_squared: float
    offset_stops: float  # against the set aperture, ND counted
    working: tuple[Step, ...]


def light_at_subject(light: Light, scene: Scene) -> LightSum:
    """The light of one strobe on the subject against the set aperture [stops, 0 is correct]."""
    exposure = scene.exposure
    number, provenance = guide_number_at_zoom(light)
    relative = relative_light_stops(duration_table(light), light.power)
    f_number = correct_f_number(number, exposure.iso, 2**relative, light.distance_m, light.loss_stops)
    offset = 2 * math.log2(f_number / exposure.f_number) - exposure.nd_stops
    name = light.name or "light"
    working = (
        step(f"GN {name}", number, "m", "guide number at ISO 100", constants.SOURCE_ISO_1230, provenance),
        step(
            f"N {name}",
            f_number,
            "",
            f"GN √(ISO/100) √power / d · 2^(−loss/2), ISO {exposure.iso:g}, power {light.power:g}, "
            f"d = {light.distance_m:g} m, loss {light.loss_stops:g}",
            constants.SOURCE_ISO_1230,
            provenance,
        ),
    )
    return LightSum(f_number**2, offset, working)


def ladder(light: Light, scene: Scene, shutter_stops: float) -> list[Rung]:
    """From full power bare at 1 m down to the margin left at the subject; the last total is the light's offset.

    `shutter_stops` is what the shutter takes away (HSS, clipped tail), as a negative number.
    """
    exposure = scene.exposure
    number, _ = guide_number_at_zoom(light)
    steps = [
        ("Full power, bare, 1 m", f"GN {number:.3g} m at ISO 100", 2 * math.log2(number)),
        ("Power", f"{light.power:.4g} of full", relative_light_stops(duration_table(light), light.power)),
        ("Distance", f"{light.distance_m:g} m", -2 * math.log2(light.distance_m)),
        ("Modifier and gels", "as set", -light.loss_stops),
        ("ND filter", "as set", -exposure.nd_stops),
        ("Shutter", "HSS or clipped light", shutter_stops),
        ("ISO", f"{exposure.iso:g} against 100", math.log2(exposure.iso / 100)),
        ("Aperture", f"f/{exposure.f_number:g} needs", -2 * math.log2(exposure.f_number)),
    ]
    rungs: list[Rung] = []
    total = 0.0
    for name, detail, stops in steps:
        total += stops
        if stops or name not in ("Modifier and gels", "ND filter", "Shutter"):
            rungs.append(Rung(name, detail, stops, total))
    return rungs
