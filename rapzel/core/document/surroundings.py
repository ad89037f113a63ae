"""What is around the subject: the room's light and how it flickers, the backdrop, and what the look makes of them."""

from typing import Literal, Self

from pydantic import Field, model_validator

from rapzel.core.document.sky import SkyAt
from rapzel.core.shared import constants
from rapzel.core.shared.part import FNumber, Iso, Part, Seconds


class MeterReading(Part):
    f_number: FNumber
    shutter_s: Seconds
    iso: Iso = 100.0


class Flicker(Part):
    """How the room's light pulsates, its lamps included. Null is not known."""

    frequency_hz: float | None = Field(
        None,
        ge=1,
        le=1e6,
        description="of the light: twice that of the mains; of LED as they are dimmed",
    )
    depth: float | None = Field(
        None,
        ge=0,
        le=1,
        description="(most − least) / (most + least); 0: steady, as daylight is",
    )
    lit_share: float | None = Field(
        None,
        gt=0,
        lt=1,
        description="of a light that is switched: share of the period that it is on; null: a sine",
    )


class Ambient(Part):
    """The room, by one of EV, illuminance, a meter reading or the sky; none of them means a dark room."""

    ev100: float | None = Field(None, ge=-30, le=30)
    lux: float | None = Field(None, ge=1e-6, le=1e7)
    meter: MeterReading | None = None
    sky: SkyAt | None = None
    cct_k: float | None = Field(
        None, ge=1000, le=25_000, description="colour temperature of its light"
    )
    flicker: Flicker | None = Field(
        None, description="null: nobody has said whether it flickers"
    )
    trail_stops: float = Field(constants.TRAIL_STOPS, ge=-20, le=20)
    clear_stops: float = Field(constants.CLEAR_STOPS, ge=-20, le=20)
    black_stops: float = Field(
        constants.BLACK_STOPS,
        ge=-20,
        le=20,
        description="so far under correct exposure is black",
    )

    @model_validator(mode="after")
    def _one_way_only(self) -> Self:
        # Two ways to know one room would sooner or later disagree, and no one could say which
        # counts.
        known = (self.ev100, self.lux, self.meter, self.sky)
        if sum(value is not None for value in known) > 1:
            raise ValueError("give only one of ev100, lux, meter and sky")
        if self.trail_stops > self.clear_stops:
            raise ValueError("trail_stops must not be above clear_stops")
        return self

    @property
    def unsteady(self) -> Flicker | None:
        """How its light flickers; the sky does not, whatever was said of the lamps of another room."""
        return None if self.sky is not None else self.flicker


class Backdrop(Part):
    """What stands behind the subject and catches the lights' spill. Null is not known."""

    behind_m: float | None = Field(
        None, ge=0, le=1000, description="from the subject to the backdrop"
    )
    reflectance: float | None = Field(
        None, gt=0, le=1, description="black cloth 0.03, grey 0.18, white wall 0.8"
    )
    flagged_stops: float = Field(
        0.0, ge=0, le=20, description="kept from it by flags, grids or barn doors"
    )


class Look(Part):
    """What the room should be in the picture.

    Gone, lit at so many stops, a trail of the subject of a chosen length, or streaks of what the camera passes.
    """

    room: Literal["black", "lit", "trail", "streaks"] = "black"
    room_stops: float | None = Field(
        None, ge=-20, le=10, description="lit: the room against correct exposure"
    )
    trail_m: float | None = Field(
        None,
        ge=0,
        le=1000,
        description="trail, streaks: their length, measured at the subject",
    )
