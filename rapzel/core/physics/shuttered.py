"""The first part of a scene's physics: what its lights give, and what the shutter records of them (science §7)."""

from dataclasses import dataclass

from rapzel.core.document.scene import Scene
from rapzel.core.methods import Method, method_of
from rapzel.core.motion import Trajectory
from rapzel.core.physics import exposing, framing, lights
from rapzel.core.physics.exposing import Recorded
from rapzel.core.physics.lights import Lit
from rapzel.core.physics.wanted import trajectory_of
from rapzel.core.shared.once import once
from rapzel.core.shutter import curve
from rapzel.core.shutter.curve import Flash, RowCurves
from rapzel.core.shutter.jitter import Frames
from rapzel.core.shutter.rows import Opening


@dataclass(frozen=True)
class Shuttered:
    """A scene whose lights meet its shutter, each part worked out at most once. Times in s, lengths in m."""

    scene: Scene

    @once
    def method(self) -> Method:
        return method_of(self.scene)

    @once
    def trajectory(self) -> Trajectory:
        return trajectory_of(self.scene)

    @once
    def frame(self) -> framing.Frame:
        return framing.frame_of(self.scene, self.trajectory)

    @once
    def travel_s(self) -> float | None:
        """T_c: curtain travel or readout [s]; None where it is not known."""
        return self.method.travel_s(self.scene.camera)

    @once
    def assumed_travel_s(self) -> float:
        """T_c as far as pictures and sums need one [s]: where not known, the longest that the sync speed allows."""
        if self.travel_s is None:
            return self.scene.camera.sync_speed_s
        return self.travel_s

    @once
    def lights(self) -> tuple[Lit, ...]:
        return tuple(
            lights.lit(one, self.scene, self.method, self.assumed_travel_s)
            for one in self.scene.lights
        )

    @once
    def on_part(self) -> tuple[Lit, ...]:
        """The lights that fire and reach the moving part."""
        # A light on the background lights no motion: it counts for neither freeze nor exposure of
        # the part.
        return tuple(
            lit for lit in self.lights if lit.light.on_moving_part and lit.fires
        )

    @once
    def n_squared(self) -> float:
        """Σ N² of the lights on the moving part, before the shutter."""
        return sum(lit.n_squared for lit in self.on_part)

    @once
    def curves(self) -> RowCurves:
        return exposing.curves_of(
            self.scene, self.method, self.on_part, self.assumed_travel_s
        )

    @property
    def flashes(self) -> tuple[Flash, ...]:
        return self.curves.flashes

    @once
    def recorded(self) -> Recorded:
        return exposing.recorded(self.method, self.curves)

    def share(self, lit: Lit) -> float:
        """The light's share of the flash exposure on the moving part as it is recorded [0 … 1]."""
        return dict(zip(self.on_part, self.recorded.shares, strict=True)).get(lit, 0.0)

    def time_s(self, lit: Lit) -> float:
        """How long a light lasts as it is recorded [s]; t.1 of one that does not reach the moving part."""
        times = dict(zip(self.on_part, self.recorded.times_s, strict=True))
        return times.get(lit, lit.known.t01_s)

    @once
    def fastest_safe_s(self) -> float | None:
        return exposing.fastest_safe_s(
            self.scene, self.method, self.curves, self.on_part
        )

    @once
    def pessimistic_safe_s(self) -> float | None:
        """The same with every pulse as long as its doubt allows [s]."""
        return exposing.fastest_safe_s(
            self.scene, self.method, self.curves, self.on_part, longer_stops=1.0
        )

    @once
    def optimistic_safe_s(self) -> float | None:
        """The same with every pulse as short as its doubt allows [s]."""
        return exposing.fastest_safe_s(
            self.scene, self.method, self.curves, self.on_part, longer_stops=-1.0
        )

    @once
    def best_possible_share(self) -> float:
        """Share of the light that one frame records with its opening placed at its best for it [0 … 1]."""
        opening, flashes = self.curves.opening, self.flashes
        if not flashes:
            return 0.0
        by_hand = self.scene.exposure.offset_s is not None
        jumps = len(exposing.late_of(self.scene)) > 1
        if self.scene.camera.shutter != "global" or not (by_hand or jumps):
            return float(self.curves.by_row.max())
        # Placed by a person, or for many frames at once, it may not be the best for any one of them.
        offset = curve.best_offset_s(opening, flashes)
        best = Opening(opening.travel_s, opening.shutter_s, offset)
        return float(RowCurves(best, flashes).by_row.max())

    def frames(self, shifted_s: float = 0.0) -> Frames:
        """What many frames record while the light jumps about after the contact, all of them so much later [s]."""
        late = exposing.late_of(self.scene) + shifted_s
        return Frames(self.curves.opening, self.flashes, late)

    @once
    def jitter_loss_stops(self) -> float:
        """What the light's jumping about costs the usual frame on average [stops, positive].

        Only where all rows open at once: elsewhere it is a band, which the sync margin judges.
        """
        waits = self.method.pulsed and not self.method.by_hand
        if not self.flashes or self.assumed_travel_s or not waits:
            return 0.0
        usual = float(self.curves.by_row[self.curves.best_row])
        if len(exposing.late_of(self.scene)) == 1 or usual <= 0:
            return 0.0
        return curve.in_stops(self.frames().mean_share) - curve.in_stops(usual)
