"""A scene with its physics worked out once: what `evaluate`, the drawings and the rehearsal all read."""

import math
from dataclasses import dataclass

from rapzel.core.document.gear import own_hss_stops
from rapzel.core.document.scene import Scene
from rapzel.core.light import exposure, guide, room
from rapzel.core.methods import Method, method_of
from rapzel.core.motion import Trajectory
from rapzel.core.physics import daylight, exposing, framing, lights, pace, timing
from rapzel.core.physics.exposing import Recorded, Trail
from rapzel.core.physics.hearing import heard_of
from rapzel.core.physics.lights import Lit
from rapzel.core.physics.timed import timed
from rapzel.core.shared import constants
from rapzel.core.shared.once import once
from rapzel.core.shared.working import Step, step
from rapzel.core.shutter import curve
from rapzel.core.shutter.curve import Flash, RowCurves
from rapzel.core.shutter.jitter import Frames
from rapzel.core.shutter.rows import Opening
from rapzel.core.subjects.drawn import subject_of
from rapzel.core.subjects.reflectance import reflectances


@dataclass(frozen=True)
class Physics:
    """A scene and its physics, each part worked out at most once. Times in s, lengths in m, light in stops."""

    scene: Scene

    @once
    def method(self) -> Method:
        return method_of(self.scene)

    @once
    def trajectory(self) -> Trajectory:
        return timing.trajectory_of(self.scene)

    @once
    def frame(self) -> framing.Frame:
        return framing.frame_of(self.scene, self.trajectory)

    # --- shutter and lights ---

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
        return exposing.recorded(self.method, self.curves, self.on_part)

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
            self.scene, self.method, self.curves, self.on_part, pessimistic=True
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

    # --- exposure ---

    def offset_stops(self, n_squared: float) -> float | None:
        """Exposure by that much flash, before the shutter [stops, 0 is correct]; None without any."""
        if n_squared <= 0:
            return None
        set_to = self.scene.exposure
        return float(
            guide.offset_stops(
                n_squared,
                set_to.f_number,
                set_to.filter_stops,
                self.frame.bellows_stops,
            )
        )

    def light_offset_stops(self, lit: Lit) -> float | None:
        """Exposure by one light on the best-lit row [stops]."""
        bare = self.offset_stops(lit.n_squared)
        shares = dict(zip(self.on_part, self.curves.best_shares, strict=True))
        if bare is None:
            return None
        if lit in shares:
            return bare - curve.in_stops(float(shares[lit])) - self.jitter_loss_stops
        return bare

    @once
    def flash_offset_stops(self) -> float | None:
        """Exposure by all flash on the best-lit row [stops]; None where there is none or T_c is unknown."""
        bare = self.offset_stops(self.n_squared)
        # Through a slit the loss goes with T_c: a sum from a guessed travel would look like a
        # figure.
        if bare is None or (self.method.through_slit and self.travel_s is None):
            return None
        return bare - self.curves.best_loss_stops - self.jitter_loss_stops

    @once
    def room_ev100(self) -> tuple[float | None, Step | None]:
        """EV at ISO 100 of the room without lamps, with its working; None for a dark room."""
        ambient = self.scene.ambient
        if ambient.ev100 is not None:
            return ambient.ev100, step(
                "EV100", ambient.ev100, "EV", "as given", constants.SOURCE_DEFINITION
            )
        if ambient.lux is not None:
            value = room.ev100_from_lux(ambient.lux)
            formula = f"log2(E · 100 / C), E = {ambient.lux:g} lx"
        elif ambient.meter is not None:
            meter = ambient.meter
            value = room.ev100_from_reading(meter.f_number, meter.shutter_s, meter.iso)
            formula = "log2(N²/t) − log2(ISO/100) of the reading"
        elif ambient.sky is not None:
            return daylight.ev100_of(ambient.sky)
        else:
            return None, None
        return value, step("EV100", value, "EV", formula, constants.SOURCE_ISO_2720)

    def lamps_lux(self, shutter_s: float) -> float:
        """Illuminance by the lamps [lx], mean over an opening: one that is lit for a part of it counts by that part."""
        return sum(
            room.lamp_lux(lamp.lux_1m, lamp.distance_m, lamp.loss_stops, lamp.count)
            * min((lamp.lit_s or shutter_s) / shutter_s, 1.0)
            for lamp in self.scene.lamps
        )

    def ev100_at(self, shutter_s: float) -> float | None:
        """EV at ISO 100 of room and lamps together for an opening of that length; None for a dark room."""
        return room.together_ev100(self.room_ev100[0], self.lamps_lux(shutter_s))

    @once
    def ev100(self) -> tuple[float | None, Step | None]:
        """EV at ISO 100 of room and lamps at the set shutter, with its working; None for a dark room."""
        if not self.scene.lamps:
            return self.room_ev100
        shutter_s = self.scene.exposure.shutter_s
        value = self.ev100_at(shutter_s)
        formula = (
            f"room and {self.lamps_lux(shutter_s):.3g} lx of lamps, added as light"
        )
        return value, step("EV100", value, "EV", formula, constants.SOURCE_ISO_2720)

    @once
    def ambient_offset_stops(self) -> float | None:
        """Exposure by the room alone [stops]; None for a dark room."""
        ev100, set_to = self.ev100[0], self.scene.exposure
        if ev100 is None:
            return None
        bellows = self.frame.bellows_stops
        return float(
            room.room_offset_stops(
                ev100,
                set_to.iso,
                set_to.f_number,
                set_to.shutter_s,
                set_to.filter_stops,
                bellows,
            )
        )

    @once
    def exposure_offset_stops(self) -> float | None:
        """Exposure by flash and room together [stops]; None with neither, and where the flash is not known."""
        if self.flash_offset_stops is None and self.on_part:
            return None
        return exposure.summed_stops(
            [self.flash_offset_stops, self.ambient_offset_stops]
        )

    @once
    def flash_doubt_stops(self) -> float:
        """How far the flash exposure may be off [stops]."""
        return lights.summed_doubt_stops(list(self.on_part), list(self.recorded.shares))

    @once
    def room_doubt_stops(self) -> float:
        """How far the room's exposure may be off [stops]."""
        ambient = self.scene.ambient
        if ambient.sky is not None:
            return self._with_lamps(daylight.doubt_stops(ambient.sky))
        # Each way to know the room has a doubt of its own: a meter is better than a word for the
        # room.
        ways = (
            ("ev100", ambient.ev100),
            ("lux", ambient.lux),
            ("meter", ambient.meter),
        )
        known = next(
            (constants.ROOM_DOUBT[name] for name, value in ways if value is not None),
            0.0,
        )
        return self._with_lamps(known)

    def _with_lamps(self, room_stops: float) -> float:
        """The doubt of room and lamps together: each by its share of their light [stops]."""
        lamps = self.lamps_lux(self.scene.exposure.shutter_s)
        if lamps <= 0:
            return room_stops
        around = self.room_ev100[0]
        part = 1.0
        if around is not None:
            part = 2.0 ** (room.ev100_from_lux(lamps) - (self.ev100[0] or 0.0))
        return math.hypot(part * constants.LAMP_DOUBT, (1 - part) * room_stops)

    @once
    def exposure_doubt_stops(self) -> float:
        """How far the whole exposure may be off [stops]: each part's doubt by its share of the light."""
        flash, around = self.flash_offset_stops, self.ambient_offset_stops
        if flash is None:
            return self.room_doubt_stops
        if around is None:
            return self.flash_doubt_stops
        # Flash and room are known independently of each other, so their doubts do not add up
        # straight.
        part = 1 / (1 + 2.0 ** (around - flash))
        return float(
            (
                (part * self.flash_doubt_stops) ** 2
                + ((1 - part) * self.room_doubt_stops) ** 2
            )
            ** 0.5
        )

    @once
    def clipped_share(self) -> float | None:
        """Share of the drawn subject that is recorded as plain white [0 … 1]."""
        offset = self.exposure_offset_stops
        if offset is None:
            return None
        # A white shirt clips long before a black one: what clips depends on what is drawn.
        drawn = reflectances(subject_of(self.scene.rehearsal))
        return exposure.clipped_share(drawn, offset)

    @once
    def ghost_margin_stops(self) -> float | None:
        """Flash minus ambient exposure [stops]."""
        flash, around = self.flash_offset_stops, self.ambient_offset_stops
        if flash is None or around is None:
            return None
        return flash - around

    @once
    def backdrop_offset_stops(self) -> float | None:
        """Exposure of the backdrop by the lights' spill and the room [stops]; None where it is not known."""
        backdrop, flash = self.scene.backdrop, self.flash_offset_stops
        if backdrop.behind_m is None or backdrop.reflectance is None or flash is None:
            return None
        # Each light goes on past the subject, and falls off by the square of its whole way.
        spill = sum(
            lit.n_squared
            * (lit.light.distance_m / (lit.light.distance_m + backdrop.behind_m)) ** 2
            for lit in self.on_part
        )
        falls = exposure.ratio_stops(spill, self.n_squared) - backdrop.flagged_stops
        together = exposure.summed_stops([flash + falls, self.ambient_offset_stops])
        assert together is not None, "the flash is there"
        return together + math.log2(backdrop.reflectance / constants.MIDDLE_GREY)

    @once
    def backdrop_doubt_stops(self) -> float:
        """How far that may be off [stops]."""
        return math.hypot(self.exposure_doubt_stops, constants.BACKDROP_DOUBT)

    @once
    def hss_loss_stops(self) -> float | None:
        """What HSS costs all lights together [stops, positive]; None where it is not used or T_c is not known."""
        if not self.method.train or not self.on_part or self.travel_s is None:
            return None
        # What the strobe itself loses is in N² already, and is counted back in here.
        own = sum(
            lit.n_squared * 2 ** own_hss_stops(lit.light.strobe)[0]
            for lit in self.on_part
        )
        return self.curves.best_loss_stops + exposure.ratio_stops(own, self.n_squared)

    # --- motion in the picture ---

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
            timed(self.scene), self.method, self.frame, lit, heard_of(self.scene)
        )

    @once
    def pace(self) -> pace.Pace:
        return pace.pace_of(self.scene, self.method, self.assumed_travel_s)
