"""The gear of a scene document: camera, lens, strobes and the lights that they make."""

from collections.abc import Mapping
from typing import Annotated, Any, Literal, Self

from pydantic import Field, ValidationError, model_validator

from rapzel.core.pulse.setting import Durations, Setting
from rapzel.core.shared import constants
from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.core.shared.part import (
    Distance,
    GuideNumber,
    Identity,
    Lag,
    MeasuredLag,
    Millimetres,
    Name,
    NotNegative,
    Part,
    Positive,
    Power,
    Seconds,
    Stops,
    shown,
)
from rapzel.core.shared.refusals import refused
from rapzel.core.shared.working import Provenance

ShutterKind = Literal["focal_plane", "leaf", "rolling", "global"]
# What a choice of the kit is called on screen.
SHUTTERS = {
    "focal_plane": "Focal plane",
    "leaf": "Leaf",
    "rolling": "Rolling electronic",
    "global": "Global electronic",
}
CIRCUITS = {
    "quenched": "Quenched (IGBT)",
    "voltage": "Voltage-controlled",
    "banks": "Switched banks",
}
PROVENANCES = {"measured": "Measured", "claimed": "Claimed", "estimated": "Estimated"}
# Said beside every input whose emptiness means doubt and not zero.
NOT_KNOWN = "empty: not known"


class Drive(Part):
    """One line of a body's drive modes: its rate, and on what terms it is had. Null and empty: no terms.

    `formats`, `lens` and `focus_priority` are terms that no scene knows; they are told, and judged by the person.
    """

    name: Name
    # (a rate that the maker claims; what lights and shutter leave of it is worked out)
    frames_per_s: float = Field(ge=0.01, le=1000)
    shutters: tuple[ShutterKind, ...] = Field((), max_length=4, strict=False)
    fastest_s: Seconds | None = None
    slowest_s: Seconds | None = None
    flash: bool = True
    hss: bool = True
    formats: Annotated[str, Field(max_length=100)] = ""
    lens: Annotated[str, Field(max_length=100)] = ""
    focus_priority: bool = False


class Camera(Part):
    """A body. Curtain travel and lags that are null are not known."""

    name: Name = ""
    sensor_width_mm: float = shown(..., "Sensor width, mm", "number", ge=0.5, le=1000)
    sensor_height_mm: float = shown(..., "Sensor height, mm", "number", ge=0.5, le=1000)
    pixels_wide: int = shown(..., "Pixels wide", "count", ge=16, le=200_000)
    pixels_high: int = shown(..., "Pixels high", "count", ge=16, le=200_000)
    shutter: ShutterKind = shown("focal_plane", "Shutter", "choice", choices=SHUTTERS)
    sync_speed_s: Seconds = shown(0.005, "Sync speed", "shutter")
    # Makers seldom print it: it may stay empty, and a calibration finds it.
    curtain_travel_s: float | None = shown(
        None, "Curtain travel or readout", "duration", NOT_KNOWN, ge=0, le=10,
        description="or readout time of a rolling shutter",
    )  # fmt: skip
    curtain_travel_sd_s: Lag | None = shown(
        None,
        "Its doubt (sd)",
        "duration",
        description="how far it may be off, where measured",
    )
    first_edge: Literal["lower", "upper"] = shown(
        "lower",
        "Uncovered first",
        "choice",
        choices={
            "lower": "Lower edge of the picture",
            "upper": "Upper edge of the picture",
        },
        description="edge of the picture that is uncovered first",
    )
    fastest_shutter_s: Seconds | None = shown(None, "Fastest shutter", "shutter")
    effective_f_number: bool = shown(
        False,
        "Shows the effective f-number near",
        "check",
        description="shows the f-number with the lens's extension counted in",
    )
    lag_s: Lag | None = shown(
        None,
        "Release lag",
        "duration",
        NOT_KNOWN,
        description="from the release to the sync contact",
    )
    lag_jitter_s: Lag | None = shown(None, "Its jitter", "duration", NOT_KNOWN)
    lag_provenance: Provenance | None = None
    mirror_up: bool = False
    mirror_s: Lag | None = shown(
        None,
        "Of it, the mirror",
        "duration",
        description="what of the lag the mirror takes",
    )
    electronic_first_curtain: bool = False
    first_curtain_s: Lag | None = shown(
        None,
        "Of it, the first curtain",
        "duration",
        description="what of the lag the first curtain takes",
    )
    asleep: bool = Field(
        False, description="its meter has gone to sleep: it wakes up first"
    )
    wake_s: Lag | None = shown(
        None,
        "Waking up adds",
        "duration",
        NOT_KNOWN,
        description="what waking up adds to the lag",
    )
    lags_s: tuple[MeasuredLag, ...] = Field(
        (),
        max_length=300,
        strict=False,
        description="each measured lag, for its histogram",
    )
    drives: tuple[Drive, ...] = shown(
        (),
        "Drive modes, one a line",
        "drives",
        "High; 12/s; focal plane; 1/8000 to 1/60; no HSS; formats …; lens …; focus priority",
        max_length=20,
        strict=False,
    )

    @property
    def release_lag_s(self) -> float | None:
        """From the release to the sync contact as the body is set [s]; None where a part of it is not known."""
        lag = self.lag_s
        # A mirror that is up already takes its share out of the lag, and so does an electronic
        # curtain.
        for saved, share in (
            (self.mirror_up, self.mirror_s),
            (self.electronic_first_curtain, self.first_curtain_s),
        ):
            if saved:
                if lag is None or share is None:
                    lag = None
                else:
                    # Two rough shares may exceed the lag they are taken from; no body fires before
                    # it is told to.
                    lag = max(lag - share, 0.0)
        # Waking up comes on top of whatever the body then does.
        if self.asleep:
            if lag is None or self.wake_s is None:
                lag = None
            else:
                lag = lag + self.wake_s
        return lag


class Lens(Part):
    name: Name = ""
    focal_length_mm: Millimetres
    subject_distance_m: Distance
    field_width_m: float | None = Field(
        None,
        ge=1e-4,
        le=1e5,
        description="measured field width; overrides the thin lens",
    )


class Mode(Part):
    """A way to run a strobe (constant colour, speed) with a duration table of its own."""

    name: Name
    durations: Durations


class ZoomGuide(Part):
    zoom_mm: float = Field(ge=1, le=1000)
    guide_number_m: GuideNumber


class Strobe(Part):
    name: Name = ""
    circuit: Literal["quenched", "voltage", "banks"] = shown(
        ..., "Circuit", "choice", choices=CIRCUITS
    )
    energy_ws: Positive | None = shown(None, "Energy, Ws", "number")
    guide_number_m: GuideNumber
    guide_provenance: Provenance = shown(
        "claimed",
        "Light figures are",
        "choice",
        choices=PROVENANCES,
        description="how the guide numbers are known",
    )
    # Beside the guide number at its usual zoom: what the maker gives at others.
    guide_numbers: tuple[ZoomGuide, ...] = Field((), max_length=50, strict=False)
    durations: tuple[Setting, ...] = Field((), max_length=200, strict=False)
    modes: tuple[Mode, ...] = Field((), max_length=20, strict=False)
    min_power: Power | None = shown(None, "Lowest power", "power", "1/256, -8 stops")
    full_recycle_s: NotNegative | None = shown(None, "Full recycle", "duration")
    # Makers print the recycle at full power only; what is left of it at the lowest is to be timed.
    recycle_floor_s: NotNegative | None = shown(
        None, "Recycle floor", "duration", NOT_KNOWN
    )
    hss: bool = shown(False, "High-speed sync", "check")
    hss_loss_stops: float | None = shown(
        None,
        "HSS loss, stops",
        "stops",
        "the strobe's own, beside the slit's; empty: not known",
        ge=0,
        le=10,
    )
    price: float | None = shown(
        None,
        "Price",
        "number",
        "in one currency, to compare",
        ge=0.01,
        le=1e9,
        description="in any one currency, for comparison",
    )
    battery_pops: float | None = shown(
        None,
        "Pops of a charge",
        "number",
        "at full power",
        ge=1,
        le=1e6,
        description="pops of a charge at full power",
    )
    thermal_pops_per_min: float | None = shown(
        None,
        "Pops a minute for long",
        "number",
        "at full power, by heat",
        ge=0.1,
        le=1e5,
        description="pops a minute at full power that it bears for long",
    )

    @model_validator(mode="after")
    def _has_a_table(self) -> Self:
        # Without one known setting nothing could be said of how short it is.
        if not self.durations and not self.modes:
            raise ValueError("give durations, or modes with a duration table each")
        return self


def own_hss_stops(strobe: Strobe) -> tuple[float, float]:
    """What a strobe loses to its own pulse train beside the slit, and how far that may be off [stops]."""
    if strobe.hss_loss_stops is None:
        return constants.HSS_LOSS_STOPS, constants.HSS_LOSS_DOUBT
    return strobe.hss_loss_stops, 0.0


def recycle_floor_s(strobe: Strobe) -> tuple[float, float]:
    """The least and the most that a strobe's dead time may be [s]: the same where it is known."""
    if strobe.recycle_floor_s is None:
        return 0.0, constants.MOST_RECYCLE_FLOOR_S
    return strobe.recycle_floor_s, strobe.recycle_floor_s


Role = Literal["key", "fill", "rim", "background", "sun"]


class Light(Part):
    id: Identity | None = None
    name: Name = ""
    power: Power
    distance_m: float = Field(ge=0.01, le=1e4)
    loss_stops: Stops = 0.0
    source_size_m: float = Field(
        0.0, ge=0, le=100, description="longest side of the modifier, for a warning"
    )
    zoom_mm: float | None = Field(None, ge=1, le=1000)
    mode: Name | None = None
    on_moving_part: bool = True
    delay_s: float = Field(
        0.0, ge=0, le=60, description="fired this much after the others"
    )
    role: Role | None = None
    count: int = Field(1, ge=1, le=100, description="so many alike, side by side")
    in_turn: bool = Field(
        False, description="of several alike one fires for each frame"
    )
    strobe: Strobe

    @property
    def at_once(self) -> int:
        """How many of them light one frame."""
        # Lights that take turns share the pace between them, but a frame sees one of them alone.
        if self.in_turn:
            return 1
        return self.count

    @property
    def called(self) -> str:
        """Its name, and how many it is."""
        name = self.name or "Light"
        if self.count == 1:
            return name
        return f"{name} × {self.count}"

    @property
    def table(self) -> Durations:
        """The duration table of the light's mode; without a chosen mode the strobe's own, else its first mode's."""
        strobe = self.strobe
        if self.mode is not None:
            return next(
                # That the mode is one of the strobe's was checked when the scene was read.
                mode.durations
                for mode in strobe.modes
                if mode.name == self.mode
            )
        return strobe.durations or strobe.modes[0].durations


class Lamp(Part):
    """A continuous light: to the picture it is part of the room, whatever the flash does.

    `lux_1m` is what one of them gives at 1 m; `lit_s` how long it is on while the shutter is open, null all the time.
    """

    id: Identity | None = None
    name: Name = ""
    kind: Literal["lamp", "video", "stick"] = "lamp"
    lux_1m: float = Field(ge=1e-3, le=1e8)
    distance_m: float = Field(ge=0.01, le=1e4)
    loss_stops: Stops = 0.0
    count: int = Field(1, ge=1, le=100)
    lit_s: Seconds | None = None


def fastest_shutter_s(camera: Camera) -> float:
    """The shortest exposure a camera has [s]: its own figure, or what its kind of shutter does."""
    # A kind's usual figure refuses what no such body can do, and nothing that some can.
    return camera.fastest_shutter_s or constants.FASTEST_SHUTTER_S[camera.shutter]


def lowest_power(strobe: Strobe) -> float:
    """The lowest power of a strobe [share of full]: its own figure, else the lowest known setting."""
    if strobe.min_power is not None:
        return strobe.min_power
    # Makers give the range of powers by their tables, if they give it at all.
    tables = (strobe.durations, *(mode.durations for mode in strobe.modes))
    powers = {setting.power for table in tables for setting in table}
    # One known setting is no range: below it a strobe may go on.
    if len(powers) > 1:
        return min(powers)
    return constants.SMALLEST_POWER


def read_strobe(document: Mapping[str, Any]) -> Strobe:
    """The strobe that a document describes. Raises DocumentError, also for one of which no setting is known."""
    if not isinstance(document, Mapping):
        raise DocumentError([Problem("", "a strobe is a JSON object")])
    try:
        return Strobe.model_validate(document)
    except ValidationError as error:
        raise refused(error) from None
