"""A scene with its physics worked out once: what `evaluate`, the drawings and the rehearsal all read.

In three parts, each on the one before: lights and shutter (`shuttered`), exposures (`levels`), and here what moves,
and when.
"""

import math
from dataclasses import dataclass

from rapzel.core.physics import exposing, pace, timing
from rapzel.core.physics.exposing import Trail
from rapzel.core.physics.hearing import heard_of
from rapzel.core.physics.levels import Levels
from rapzel.core.physics.lights import Lit
from rapzel.core.physics.timed import Timed, timed
from rapzel.core.shared.once import once
from rapzel.core.shutter import curve


@dataclass(frozen=True)
class Physics(Levels):
    """A scene and its physics, each part worked out at most once. Times in s, lengths in m, light in stops."""

    @property
    def centred(self) -> bool:
        """Whether the light lies about the instant of the picture (a shutter's exposure) or begins there (a pulse)."""
        return not self.method.room_apart

    @once
    def limit_s(self) -> float:
        """The freeze limit [s], infinite for a still subject."""
        return self.frame.limit_s(self.centred)

    @once
    def stopping_s(self) -> float | None:
        """The time of light that stops the motion [s]; None while no light does."""
        if not self.method.room_apart:
            lit = bool(self.on_part) or self.ambient_offset_stops is not None
            if lit:
                return self.scene.exposure.shutter_s
            return None
        return curve.deciding_s(self.recorded.lasting(), self.scene.ambient.trail_stops)

    @once
    def pessimistic_s(self) -> float | None:
        """The same with every duration at the long end of its doubt, and lights down to the faintest trail counted."""
        if not self.method.room_apart or not self.on_part:
            return self.stopping_s
        times = [
            # However long the pulse, the shutter ends it.
            min(
                time * 2**lit.known.doubt_stops,
                max(self.scene.exposure.shutter_s, time),
            )
            for lit, time in zip(self.on_part, self.recorded.times_s, strict=True)
        ]
        lasting = curve.lasting(self.recorded.shares, times)
        return curve.deciding_s(lasting, self.scene.ambient.trail_stops)

    @once
    def doubled(self) -> tuple[float, float] | None:
        """(distance [px], share of the flash) of images beside the strongest light's, by lights fired at other times.

        None where all lights fire so close together that their images lie within the criterion.
        """
        if not self.method.room_apart or len(self.on_part) < 2:
            return None
        shares = self.recorded.shares
        # The eye takes the strongest image for the subject, and the others for its doubles.
        strongest = max(range(len(shares)), key=shares.__getitem__)
        start = self.flashes[strongest].start_s
        away = [
            (
                abs(self.frame.way_m(0.0, flash.start_s - start))
                / self.frame.pixel_pitch_m,
                share,
            )
            for flash, share in zip(self.flashes, shares, strict=True)
        ]
        beside = [(px, share) for px, share in away if px > self.frame.criterion_px]
        if not beside:
            return None
        return max(px for px, _ in beside), sum(share for _, share in beside)

    @once
    def slowest(self) -> Lit | None:
        """The light that decides the smear; None where the shutter does."""
        if not self.method.room_apart:
            return None
        pairs = zip(self.on_part, self.recorded.times_s, strict=True)
        return next((lit for lit, time in pairs if time == self.stopping_s), None)

    @once
    def room_trail_px(self) -> float:
        """How far the moving part goes while the shutter is open [px]."""
        begin, end = exposing.room_window_s(self.scene, self.method, self.curves)
        return self.frame.way_m(begin, end) / self.frame.pixel_pitch_m

    @once
    def streak_m(self) -> float:
        """How far what stands still streaks in an exposure [m at the subject]; 0 unless the camera follows."""
        if not self.frame.follows:
            return 0.0
        passed = self.frame.passed_m(self.scene.exposure.shutter_s)
        return passed / self.frame.magnification

    @once
    def trail_ahead(self) -> float:
        """Share of the room's trail that lies before the subject, where it goes [0 … 1]: drawn after the light."""
        begin, end = exposing.room_window_s(self.scene, self.method, self.curves)
        if end <= begin:
            return 0.0
        return min(max(end / (end - begin), 0.0), 1.0)

    @property
    def room_trail_m(self) -> float:
        """The same on the subject [m]."""
        return self.room_trail_px * self.frame.pixel_pitch_m / self.frame.magnification

    @once
    def trails(self) -> tuple[Trail, ...]:
        room_stops = self.ambient_offset_stops
        if room_stops is not None:  # against the flash; alone it is the picture
            room_stops -= (
                room_stops
                if self.flash_offset_stops is None
                else self.flash_offset_stops
            )
        return exposing.trails_of(
            self.scene,
            self.frame,
            self.on_part,
            self.recorded,
            self.centred,
            (self.room_trail_px, room_stops),
        )

    # --- time ---

    @once
    def timing(self) -> timing.Timing:
        lasts_s, lit = self.stopping_s, None
        if lasts_s is not None:
            doubt = 0.0
            if lasts_s > 0:
                doubt = math.log2((self.pessimistic_s or lasts_s) / lasts_s)
            lit = timing.LitFor(lasts_s, doubt)
        return timing.timing_of(
            self.timed, self.method, self.frame, lit, heard_of(self.scene)
        )

    @once
    def timed(self) -> Timed:
        """The parts of the scene that its timing depends on."""
        shutter_s = self.scene.exposure.shutter_s
        waits = exposing.second_curtain_s(
            self.scene, self.method, self.assumed_travel_s, shutter_s
        )
        return timed(self.scene, float(waits))

    @property
    def needed_delay_s(self) -> float | None:
        """The set delay with which the usual try is on time [s], without asking where tries land."""
        return timing.needed_delay_s(self.timed, self.method)

    @once
    def pace(self) -> pace.Pace:
        return pace.pace_of(self.scene, self.method, self.assumed_travel_s)
