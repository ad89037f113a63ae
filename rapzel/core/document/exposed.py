"""How the camera exposes: the method and its dials, and whether the camera follows the subject."""

from typing import Literal

from pydantic import Field

from rapzel.core.shared.part import FNumber, Iso, Part, Seconds


class Panning(Part):
    """The camera follows the subject. What it is off by stays as the subject's own movement in the picture."""

    error: float | None = Field(
        None,
        ge=0,
        le=1,
        description="share of the angular speed that two tries in three stay within; null: nobody has tried",
    )


class Exposure(Part):
    method: Literal["pulse", "hss", "long_pulse", "ambient", "open_shutter"] = "pulse"
    shutter_s: Seconds
    f_number: FNumber
    iso: Iso
    nd_stops: float = Field(0.0, ge=0, le=30)
    polariser_stops: float = Field(
        0.0, ge=0, le=10, description="lost to one, as metered"
    )
    flash_at: Literal["second"] | None = Field(
        None,
        description="focal plane: fired as the second curtain starts; null: as the first has come",
    )
    panning: Panning | None = Field(None, description="null: the camera stands still")
    offset_s: float | None = Field(
        None,
        ge=-1,
        le=1,
        description="global shutter: opening after the contact; long pulse: after the flash",
    )
    frames_per_s: float | None = Field(None, ge=1e-3, le=1000)
    burst: int | None = Field(
        None,
        ge=1,
        le=10_000,
        description="frames wanted at that rate; null: without end",
    )

    @property
    def filter_stops(self) -> float:
        """Light lost to all filters on the lens [stops]."""
        return self.nd_stops + self.polariser_stops
