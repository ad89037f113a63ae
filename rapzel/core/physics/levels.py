"""The second part of a scene's physics: how bright flash, room and backdrop are, and their doubt (science §5, §6)."""

import math
from dataclasses import dataclass

from rapzel.core.document.gear import own_hss_stops
from rapzel.core.light import exposure, guide, room
from rapzel.core.physics import around, exposing, lights
from rapzel.core.physics.flickering import Flickering, flickering_of
from rapzel.core.physics.lights import Lit
from rapzel.core.physics.shuttered import Shuttered
from rapzel.core.shared import constants
from rapzel.core.shared.once import once
from rapzel.core.shared.working import Step, step
from rapzel.core.shutter import curve
from rapzel.core.subjects.drawn import subject_of
from rapzel.core.subjects.reflectance import reflectances

_HARDLY_CUT = 0.02  # stops: a tail that nobody sees go
_A_TENTH = 0.1  # of the light: less of it moves no picture by a sixth of a stop


@dataclass(frozen=True)
class Levels(Shuttered):
    """Exposures of the moving part, the room and the backdrop [stops, 0 is correct]."""

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
        return around.room_ev100(self.scene.ambient)

    def lamps_lux(self, shutter_s: float) -> float:
        """Illuminance by the lamps [lx], mean over an opening of that length."""
        return around.lamps_lux(self.scene, shutter_s)

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
    def room_share(self) -> float:
        """The room's share of the light on the moving part [0 … 1]; all of it where the flash is not known."""
        room_stops, together = self.ambient_offset_stops, self.exposure_offset_stops
        if room_stops is None:
            return 0.0
        if together is None:
            return 1.0
        return float(2.0 ** (room_stops - together))

    @property
    def room_seen(self) -> bool:
        """Whether the room's light makes a part of the picture that one sees."""
        level = self.ambient_offset_stops
        if level is None:
            return False
        return level > -self.scene.ambient.black_stops or self.room_share > _A_TENTH

    @once
    def flickering(self) -> Flickering | None:
        """What the opening makes of the room's flicker; None where nobody says that it flickers."""
        return flickering_of(self.scene, self.room_share, self.travel_s)

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
        """How far the flash exposure may be off [stops]: by what the lights give, and by what the shutter leaves."""
        given = lights.summed_doubt_stops(
            list(self.on_part), list(self.recorded.shares)
        )
        return math.hypot(given, self.clipped_doubt_stops)

    @once
    def clipped_doubt_stops(self) -> float:
        """How much more the shutter may cut off pulses that are longer than told [stops]; 0 where it cuts none."""
        # A train, and light by the shutter alone, last as long as the rows are open, whatever a pulse lasts.
        cut = self.method.pulsed or self.method.leads
        if not cut or self.curves.best_loss_stops < _HARDLY_CUT:
            return 0.0
        longer = exposing.curves_of(
            self.scene, self.method, self.on_part, self.assumed_travel_s, longer=True
        )
        return max(longer.best_loss_stops - self.curves.best_loss_stops, 0.0)

    @once
    def room_doubt_stops(self) -> float:
        """How far the room's exposure may be off [stops], its lamps' with it."""
        return around.with_lamps_stops(
            around.room_doubt_stops(self.scene.ambient),
            self.room_ev100[0],
            self.lamps_lux(self.scene.exposure.shutter_s),
        )

    @once
    def exposure_doubt_stops(self) -> float:
        """How far the whole exposure may be off [stops]: each part's doubt by its share of the light."""
        flash, ambient = self.flash_offset_stops, self.ambient_offset_stops
        if flash is None:
            return self.room_doubt_stops
        if ambient is None:
            return self.flash_doubt_stops
        # Flash and room are known independently of each other, so their doubts do not add up
        # straight.
        by_flash = (1 - self.room_share) * self.flash_doubt_stops
        return math.hypot(by_flash, self.room_share * self.room_doubt_stops)

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
        flash, ambient = self.flash_offset_stops, self.ambient_offset_stops
        if flash is None or ambient is None:
            return None
        return flash - ambient

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
