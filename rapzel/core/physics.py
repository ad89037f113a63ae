"""A scene with its physics worked out once: what `evaluate`, the drawings and the rehearsal all read."""

import math
from dataclasses import dataclass
from functools import cached_property

from rapzel.core.document.scene import Light, Scene
from rapzel.core.frame import framing
from rapzel.core.light import amount, room
from rapzel.core.light.amount import duration_table
from rapzel.core.motion import speeds
from rapzel.core.pulse import KnownPulse, Pulse, pulse_at
from rapzel.core.shared import constants
from rapzel.core.shared.working import Provenance, Step
from rapzel.core.shutter import row_model
from rapzel.core.shutter.row_model import Flash
from rapzel.core.trigger import chain
from rapzel.core.verdict import pace


@dataclass(frozen=True)
class Lit:
    """One light of the scene: its pulse, what it gives the subject, and how long it lights the motion."""

    light: Light
    known: KnownPulse
    pulse: Pulse  # as the shutter meets it: the discharge, or the plateau of high-speed sync
    fires: bool  # False for a light that cannot do the scene's method
    n_squared: float
    shutter_loss_stops: float  # HSS: slit and the strobe's own
    stopping_s: float  # time of light that smears the moving part
    working: tuple[Step, ...]

    @property
    def provenance(self) -> Provenance:
        return self.known.provenance


def _stopping_s(scene: Scene, t01_s: float) -> float:
    """By t.1 for a pulse, by the shutter for HSS; the shorter of both where the whole frame opens for less."""
    if scene.exposure.method == "hss":
        return scene.exposure.shutter_s
    if scene.exposure.method == "pulse" and scene.camera.shutter in ("global", "leaf"):
        return min(t01_s, scene.exposure.shutter_s)
    return t01_s


def _lit(one: Light, scene: Scene) -> Lit:
    known = pulse_at(one.strobe.circuit, duration_table(one), one.power)
    sums = amount.light_at_subject(one, scene)
    hss = scene.exposure.method == "hss"
    fires = scene.exposure.method != "ambient" and (not hss or one.strobe.hss)
    loss = 0.0
    if hss:
        slit = row_model.slit_loss_stops(row_model.travel_s(scene), scene.exposure.shutter_s)
        loss = slit + one.strobe.hss_loss_stops
    return Lit(
        light=one,
        known=known,
        pulse=row_model.hss_pulse(scene) if hss else known.shape,
        fires=fires,
        n_squared=sums.n_squared * 2**-loss if fires else 0.0,
        shutter_loss_stops=loss,
        stopping_s=_stopping_s(scene, known.t01_s),
        working=sums.working,
    )


@dataclass(frozen=True)
class Physics:
    """A scene and its physics, each part worked out at most once."""

    scene: Scene

    @cached_property
    def speed(self) -> tuple[float, Step]:
        return speeds.speed_of(self.scene.motion)

    @cached_property
    def frame(self) -> framing.Frame:
        return framing.frame_of(self.scene, self.speed[0])

    @cached_property
    def lights(self) -> tuple[Lit, ...]:
        return tuple(_lit(one, self.scene) for one in self.scene.lights)

    @cached_property
    def on_part(self) -> tuple[Lit, ...]:
        """The lights that fire and reach the moving part."""
        return tuple(lit for lit in self.lights if lit.light.on_moving_part and lit.fires)

    @cached_property
    def n_squared(self) -> float:
        return sum(lit.n_squared for lit in self.on_part)

    def share(self, lit: Lit) -> float:
        """The light's share of the exposure on the moving part [0 … 1]."""
        return lit.n_squared / self.n_squared if lit in self.on_part and self.n_squared else 0.0

    @cached_property
    def flashes(self) -> list[Flash]:
        start = row_model.flash_start_s(self.scene)
        return [Flash(lit.pulse, start, lit.n_squared) for lit in self.on_part]

    @cached_property
    def shutter(self) -> row_model.ShutterResult:
        return row_model.expose(self.scene, self.flashes)

    def offset_stops(self, n_squared: float) -> float | None:
        """Exposure by that much flash on the best-lit row [stops, 0 is correct]; None without any."""
        if n_squared <= 0:
            return None
        exposure = self.scene.exposure
        bare = math.log2(n_squared / exposure.f_number**2) - exposure.nd_stops
        return bare - self.shutter.best_row_loss_stops

    @cached_property
    def flash_offset_stops(self) -> float | None:
        return self.offset_stops(self.n_squared)

    @cached_property
    def ev100(self) -> tuple[float | None, Step | None]:
        return room.ev100_of(self.scene.ambient)

    @cached_property
    def ambient_offset_stops(self) -> float | None:
        ev100 = self.ev100[0]
        return None if ev100 is None else room.ambient_offset_stops(ev100, self.scene.exposure)

    @cached_property
    def ghost_margin_stops(self) -> float | None:
        """Flash minus ambient exposure [stops]; only where a pulse is what stops the motion."""
        flash, room = self.flash_offset_stops, self.ambient_offset_stops
        return None if flash is None or room is None else flash - room

    @cached_property
    def slowest(self) -> Lit | None:
        """The light that decides the smear: the slowest with at least a tenth of the exposure."""
        telling = [lit for lit in self.on_part if self.share(lit) >= constants.SLOWEST_SHARE]
        return max(telling, key=lambda lit: lit.stopping_s, default=None)

    @cached_property
    def stopping_s(self) -> float | None:
        """The time of light that stops the motion [s]; None while no light does."""
        if self.scene.exposure.method in ("hss", "ambient"):
            return self.scene.exposure.shutter_s
        return self.slowest.stopping_s if self.slowest else None

    @cached_property
    def timing(self) -> chain.Timing:
        return chain.timing_of(self.scene, self.frame, self.speed[0], self.stopping_s)

    @cached_property
    def pace(self) -> pace.Pace:
        return pace.pace_of(self.scene)

    @cached_property
    def exposed_stops(self) -> float | None:
        """What exposes the moving part usefully: the flash, with the room where the shutter freezes both."""
        flash, room = self.flash_offset_stops, self.ambient_offset_stops
        if self.scene.exposure.method in ("pulse", "open_shutter"):
            return flash
        known = [offset for offset in (flash, room) if offset is not None]
        return math.log2(sum(2.0**offset for offset in known)) if known else None
