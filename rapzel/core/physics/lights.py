"""The lights of a scene: each one's pulse, what it gives the subject, and how well both are known (science §4, §5)."""

import math
from dataclasses import dataclass

from rapzel.core.document.gear import Light, Strobe, own_hss_stops
from rapzel.core.document.scene import Scene
from rapzel.core.light import guide
from rapzel.core.methods import Method
from rapzel.core.pulse import KnownPulse, Plateau, Pulse, pulse_at
from rapzel.core.shared import constants
from rapzel.core.shared.once import once
from rapzel.core.shared.working import Provenance, Step, step


@dataclass(frozen=True, eq=False)
class Lit:
    """One light of the scene: its pulse, and what it gives the subject before the shutter.

    Equal to itself only: two lights set alike are two lights.
    """

    light: Light
    known: KnownPulse
    # as the shutter meets it: the discharge, or the plateau of high-speed sync
    pulse: Pulse
    refusal: str  # why it does not fire by the scene's method; empty where it does
    n_squared: float
    gives: Provenance  # how its amount of light is known
    working: tuple[Step, ...]
    by_train: bool = False  # whether it is fired as the pulse train of high-speed sync

    @property
    def fires(self) -> bool:
        return not self.refusal

    @property
    def name(self) -> str:
        return self.light.name or "light"

    @property
    def provenance(self) -> Provenance:
        """How its duration is known."""
        return self.known.provenance

    @once
    def light_doubt_stops(self) -> float:
        """How far its amount of light may be off [stops]: the guide number's doubt, and that of an unmeasured dial."""
        # At full power the guide number itself is what is known; below it, only a table with
        # measured light says what the dial really gives.
        measured = self.light.power == 1 or any(
            row.light_stops is not None for row in self.light.table
        )
        dial = 0.0 if measured else constants.DIAL_DOUBT
        train = own_hss_stops(self.light.strobe)[1] if self.by_train else 0.0
        return math.hypot(
            constants.LIGHT_DOUBT[self.gives], dial, train, *self._of_the_modifier
        )

    @property
    def _of_the_modifier(self) -> tuple[float, float]:
        """How far what a modifier takes may be off [stops]: by its loss, and by its size where nobody states it."""
        light = self.light
        lost = constants.MODIFIER_DOUBT * light.loss_stops
        # Bare, or of a stated size, the inverse square is known as well as the distance.
        if light.source_size_m or not light.loss_stops:
            return lost, 0.0
        return lost, guide.nearness_stops(constants.UNSAID_SOURCE_M, light.distance_m)


def guide_number_of(light: Light) -> tuple[float, Provenance]:
    """Guide number of a light at its zoom position [m], and how it is known."""
    strobe = light.strobe
    if light.zoom_mm is None or not strobe.guide_numbers:
        return strobe.guide_number_m, strobe.guide_provenance
    number, exact = guide.guide_number_at_zoom(strobe.guide_numbers, light.zoom_mm)
    return number, strobe.guide_provenance if exact else "estimated"


def shortest_mode(strobe: Strobe, power: float) -> str | None:
    """The mode with the shortest t.1 at a power; None where that is the strobe's own table beside its modes."""
    tables = {mode.name: mode.durations for mode in strobe.modes}
    times_s: dict[str | None, float] = {
        name: pulse_at(strobe.circuit, table, power).t01_s
        for name, table in tables.items()
    }
    if strobe.durations:
        times_s[None] = pulse_at(strobe.circuit, strobe.durations, power).t01_s
    return min(times_s, key=times_s.__getitem__, default=None)


def lit(light: Light, scene: Scene, method: Method, travel_s: float | None) -> Lit:
    """A light of a scene by a method; `travel_s` is T_c [s], None where not known."""
    # How long it lasts comes from the table, how much it gives from the guide number: the two are
    # known by different people, and each keeps its own provenance.
    known = pulse_at(light.strobe.circuit, light.table, light.power)
    number, how = guide_number_of(light)
    exposure = scene.exposure
    power = 2 ** guide.relative_light_stops(light.table, light.power)
    # High-speed sync spreads the charge over the whole travel, so that a row sees a part of it.
    near = guide.nearness_stops(light.source_size_m, light.distance_m)
    loss = light.loss_stops + near
    if method.train:
        loss += own_hss_stops(light.strobe)[0]
    f_number = float(
        guide.correct_f_number(number, exposure.iso, power, light.distance_m, loss)
    )
    name = light.name or "light"
    formula = (
        f"GN √(ISO/100) √power / d · 2^(−loss/2), ISO {exposure.iso:g}, power {light.power:g}, "
        f"d = {light.distance_m:g} m, loss {loss:.3g}"
        f"{f', of each of {light.at_once}: N² adds up' if light.at_once > 1 else ''}"
    )
    working = (
        step(
            f"GN {name}",
            number,
            "m",
            "guide number at ISO 100",
            constants.SOURCE_ISO_1230,
            how,
        ),
        step(f"N {name}", f_number, "", formula, constants.SOURCE_ISO_1230, how),
    )
    if method.flashes:
        refusal = ""
    else:
        # By the room's light alone a strobe stays dark, whatever it could do.
        refusal = "takes no part"
    refusal = refusal or method.on_strobe(light.strobe)
    pulse: Pulse = known.shape
    if method.train:
        # The train must hold until the last row has closed: travel and opening together.
        pulse = Plateau((travel_s or 0.0) + exposure.shutter_s)
    return Lit(
        light=light,
        known=known,
        pulse=pulse,
        refusal=refusal,
        # Light adds up, f-numbers do not: N² is in proportion to the amount of light.
        n_squared=0.0 if refusal else f_number**2 * light.at_once,
        gives=how,
        working=working,
        by_train=method.train,
    )


def near_source_warning(light: Light) -> str | None:
    """A warning where the source is too large for the inverse square law at that distance, with the computed error."""
    if (
        not light.source_size_m
        or light.distance_m >= constants.NEAR_SIZES * light.source_size_m
    ):
        return None
    over = guide.nearness_stops(light.source_size_m, light.distance_m)
    return (
        f"{light.name or 'A light'} is only {light.distance_m / light.source_size_m:.1f} times the size of its "
        f"{light.source_size_m:g} m source away: {over:.2f} stop less than the inverse square says, "
        "which is counted in. Meter it."
    )


def summed_doubt_stops(lights: list[Lit], shares: list[float]) -> float:
    """How far the sum of several lights may be off [stops]: each one's doubt by its share.

    Lights of one kind are off together, those of different kinds independently.
    """
    # One guide number stands behind all strobes of a kind: if it is off, they are off the same way,
    # and their doubts add up; those of two kinds cancel in part.
    of_a_kind: dict[str, float] = {}
    for one, share in zip(lights, shares, strict=True):
        kind = one.light.strobe.name
        of_a_kind[kind] = of_a_kind.get(kind, 0.0) + share * one.light_doubt_stops
    return math.hypot(*of_a_kind.values())
