"""What is said of a set of drops: valves, liquid, the jet or the frames that show it, and where they shall meet.

The tool asks it, and a scene may hold it as its `drops`. Times are counted from the command to the first valve.
"""

from typing import Literal

from pydantic import Field, field_validator

from rapzel.core.drops import jet as jets
from rapzel.core.drops import sizes
from rapzel.core.drops.liquids import LIQUIDS
from rapzel.core.shared.part import Lag, Name, Part, shown

# Frames and weighings of a long evening; the fit is quick with many more.
_MOST = 60


class JetSaid(Part):
    """A jet: when its tip leaves the surface, and how fast."""

    launch_s: float = Field(ge=0, le=60)
    speed_m_s: float = Field(ge=0.05, le=30)


class FrameSaid(Part):
    """What a logged frame shows: the delay of its flash, and how high the jet's tip stands in it."""

    # The unit's own delay, as set: the flash's lag comes on top and is known apart.
    flash_delay_s: float = Field(ge=0, le=60)
    height_m: float = Field(ge=0, le=5)


class Weighing(Part):
    """Drops that were counted and weighed at one open time."""

    open_s: float = Field(ge=1e-4, le=5)
    drops: int = Field(ge=1, le=100_000)
    mass_kg: float = Field(ge=1e-9, le=10, description="of all of them")


class OtherValve(Part):
    """A valve beside the two: its drop shall be at a height of its own when the light comes."""

    name: Name
    height_m: float = Field(ge=0.005, le=20)
    wanted_m: float = Field(ge=0, le=20)
    lag_s: Lag = 0.0


class Drops(Part):
    """A set of drops. What is empty is not known: no drag without a size, no spread without a scatter."""

    valve_height_m: float = shown(
        ..., "Valve above the liquid", "length", ge=0.005, le=20
    )
    liquid: Literal["water", "glycerine", "milk", "cream", "wax"] = shown(
        "water",
        "Liquid",
        "choice",
        choices={key: each.says for key, each in LIQUIDS.items()},
    )
    diameter_m: float | None = shown(
        None,
        "Drop's diameter",
        "length",
        "empty: by its open time, else no drag",
        ge=2e-4,
        le=0.02,
    )
    meet_height_m: float = shown(..., "They shall meet at", "length", ge=0.001, le=5)
    # A jet passes each height twice, and the pictures differ.
    leg: Literal["rising", "falling"] = shown(
        "rising",
        "The jet is then",
        "choice",
        choices={"rising": "on its way up", "falling": "on its way back"},
    )
    observations: tuple[FrameSaid, ...] = shown(
        (),
        "Logged frames",
        "rows",
        "flash delay; height of the tip",
        max_length=_MOST,
        strict=False,
    )
    # For a jet that is known from another evening; frames, once logged, say more.
    jet: JetSaid | None = shown(
        None, "Or the jet itself", "rows", "launch; speed, where no frames say it"
    )
    second_set_s: float | None = shown(
        None, "Second release as set", "delay", "empty: as solved", ge=0, le=60
    )
    shown_s: float | None = shown(
        None,
        "Shown at",
        "delay",
        "drag the time; empty: when the light comes",
        ge=0,
        le=60,
    )
    resolution_s: Lag = shown(0.0, "Set in steps of", "duration", "of the unit; 0: any")
    flash_after_s: float = shown(
        0.0,
        "Light after the meeting",
        "duration",
        "for the splash to spread",
        ge=0,
        le=1,
    )
    # The splash of two drops grows through its best shape in some milliseconds.
    lasts_s: float | None = shown(
        0.004, "Looks right for", "duration", "full width (memory); yours", gt=0, le=1
    )
    valve_sd_s: Lag | None = shown(
        None, "Releases spread by", "duration", "sd; empty: not known"
    )
    aside_sd_m: float | None = shown(
        None,
        "Drops stray aside by",
        "length",
        "sd each way; empty: not known",
        ge=0,
        le=0.5,
    )
    jets_sd_m: float | None = shown(
        None,
        "Jets differ by",
        "length",
        "sd of tips; empty: as the frames say",
        ge=0,
        le=0.5,
    )
    valve_lag_s: Lag = shown(0.0, "Valve's lag", "duration", "command to release")
    flash_lag_s: Lag = shown(0.0, "Flash's own lag", "duration", "output to light")
    # Most use one valve twice; two side by side fall from heights of their own.
    second_valve_height_m: float | None = shown(
        None, "Second valve", "length", "empty: the same valve", ge=0.005, le=20
    )
    others: tuple[OtherValve, ...] = shown(
        (),
        "Other valves",
        "rows",
        "name; valve's height; wanted at; its lag",
        max_length=20,
        strict=False,
    )
    open_s: Lag | None = shown(None, "Open for", "duration", "sets the drop's size")
    weighings: tuple[Weighing, ...] = shown(
        (),
        "Weighed drops",
        "rows",
        "40 ms; 50 drops; 1.6 g",
        max_length=_MOST,
        strict=False,
    )
    frame_width_m: float | None = shown(
        None,
        "Frame",
        "length",
        "its width; empty: the whole way is drawn",
        ge=1e-3,
        le=100,
    )
    frame_height_m: float | None = shown(None, "Its height", "length", ge=1e-3, le=100)
    frame_above_m: float | None = shown(
        None, "Of it above the liquid", "length", "empty: four fifths", ge=0, le=100
    )
    # The four times from memory serve to find a first picture, and no share is made of them.
    crown_s: float = shown(
        0.012, "Crown full after", "duration", "the impact (memory)", gt=0, le=1
    )
    cavity_s: float = shown(
        0.03, "Cavity deepest after", "duration", "the impact (memory)", gt=0, le=1
    )
    jet_after_s: float = shown(
        0.06,
        "Jet leaves after",
        "duration",
        "the impact (memory), until frames say it",
        gt=0,
        le=1,
    )
    jet_top_s: float = shown(
        0.07,
        "Jet on top after",
        "duration",
        "it leaves (memory), until frames say it",
        gt=0,
        le=2,
    )

    @field_validator("observations")
    @classmethod
    def _show_a_jet(cls, frames: tuple[FrameSaid, ...]) -> tuple[FrameSaid, ...]:
        """One frame waits for the next; two or more must be of a jet."""
        if len(frames) > 1:
            # Refused here, while the person is at the row that makes no parabola.
            jets.fit_jet([(frame.flash_delay_s, frame.height_m) for frame in frames])
        return frames

    @field_validator("weighings")
    @classmethod
    def _say_sizes(cls, weighings: tuple[Weighing, ...]) -> tuple[Weighing, ...]:
        if weighings:
            # (raises where more open time would let less go: a slip in a row)
            sizes.calibrated(
                [(each.open_s, each.drops, each.mass_kg) for each in weighings]
            )
        return weighings
