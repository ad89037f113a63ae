"""The scene document, version 1: one set-up with everything needed to answer whether it will freeze.

The classes here are the published JSON Schema. Quantities are SI with the unit in the key. Unknown keys are refused
unless they begin with `x-`, which are kept. What is well-formed but impossible is refused in `document.possible`.
"""

from collections.abc import Mapping
from typing import Annotated, Any, Literal, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError, model_validator

from rapzel.core.shared import constants
from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.core.shared.refusals import must_be_small, must_be_storable, refused
from rapzel.core.shared.working import Provenance

VERSION = 1
FORMAT = "rapzel.scene"

# Floors and ceilings are physical: far beyond what anybody owns, yet near enough that no formula breaks.
Positive = Annotated[float, Field(ge=1e-3, le=1e9)]
NotNegative = Annotated[float, Field(ge=0, le=1e9)]
Text = Annotated[str, AfterValidator(must_be_storable)]
Name = Annotated[Text, Field(max_length=200)]
Stops = Annotated[float, Field(ge=-30, le=30)]
Seconds = Annotated[float, Field(ge=1e-9, le=3600)]
Lag = Annotated[float, Field(ge=0, le=3600)]
Power = Annotated[float, Field(ge=1e-5, le=1)]
FNumber = Annotated[float, Field(ge=0.5, le=1000)]  # a lens in air cannot be wider than f/0.5
Iso = Annotated[float, Field(ge=1, le=1e8)]
Millimetres = Annotated[float, Field(ge=0.5, le=10_000)]
Distance = Annotated[float, Field(ge=1e-3, le=1e5)]
GuideNumber = Annotated[float, Field(ge=0.01, le=1e4)]
Identity = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$", description="its own among its like, once stored")]


def _allow_x_keys(schema: dict[str, Any]) -> None:
    schema["additionalProperties"] = False
    schema["patternProperties"] = {"^x-": {}}


class Part(BaseModel):
    """A part of the document: strict numbers, no NaN, no unknown keys but `x-…`."""

    model_config = ConfigDict(
        extra="allow", strict=True, frozen=True, allow_inf_nan=False, json_schema_extra=_allow_x_keys
    )

    @model_validator(mode="after")
    def _only_x_extras(self) -> Self:
        strangers = sorted(key for key in (self.__pydantic_extra__ or {}) if not key.startswith("x-"))
        if strangers:
            known = ", ".join(type(self).model_fields)
            shown = strangers[0][:60]
            raise ValueError(f"unknown key “{shown}”; known: {known}, and keys that begin with x-")
        for key, value in (self.__pydantic_extra__ or {}).items():
            must_be_small(must_be_storable(key)[:60], value)
        return self


class _Motion(Part):
    angle_deg: float = Field(90.0, ge=0, le=180, description="direction of movement: 90 across, 0 at the camera")
    off_axis_mm: float | None = Field(None, ge=0, le=500, description="image height of the part, for movement at me")
    reach_m: float = Field(0.0, ge=0, le=1000, description="how far the moving part is nearer than the subject")
    speed_sd_m_s: float = Field(0.0, ge=0, le=1e4, description="spread of speeds from try to try")


class Steady(_Motion):
    kind: Literal["steady"] = "steady"
    speed_m_s: float = Field(ge=0, le=1e5)


class Fall(_Motion):
    kind: Literal["fall"] = "fall"
    height_m: float = Field(ge=0, le=1e4)
    terminal_m_s: float | None = Field(None, ge=0.01, le=1e4, description="terminal speed, where drag counts")


class Leap(_Motion):
    kind: Literal["leap"] = "leap"
    rise_m: float = Field(ge=1e-3, le=100)
    from_apex_s: float = Field(0.0, ge=0, le=60)


class Rotation(_Motion):
    kind: Literal["rotation"] = "rotation"
    radius_m: float = Field(ge=0, le=100)
    rpm: float = Field(ge=0, le=1e6)


class Swing(_Motion):
    kind: Literal["swing"] = "swing"
    length_m: float = Field(ge=1e-3, le=1000)
    angle_from_rest_deg: float = Field(ge=0, le=180)


class Measured(_Motion):
    """A speed from two beams or two video frames, or as measured by any other means."""

    kind: Literal["measured"] = "measured"
    speed_m_s: float | None = Field(None, ge=0, le=1e5)
    distance_m: float | None = Field(None, ge=0, le=1e4)
    interval_s: Seconds | None = None

    @model_validator(mode="after")
    def _speed_or_its_parts(self) -> Self:
        if self.speed_m_s is None and (self.distance_m is None or self.interval_s is None):
            raise ValueError("give speed_m_s, or distance_m and interval_s")
        return self


Motion = Annotated[Steady | Fall | Leap | Rotation | Swing | Measured, Field(discriminator="kind")]


class Camera(Part):
    name: Name = ""
    sensor_width_mm: float = Field(ge=0.5, le=1000)
    sensor_height_mm: float = Field(ge=0.5, le=1000)
    pixels_wide: int = Field(ge=16, le=200_000)
    pixels_high: int = Field(ge=16, le=200_000)
    shutter: Literal["focal_plane", "leaf", "rolling", "global"] = "focal_plane"
    sync_speed_s: Seconds = 0.005
    curtain_travel_s: float = Field(0.0, ge=0, le=10, description="or readout time of a rolling shutter")
    fastest_shutter_s: Seconds | None = None
    lag_s: Lag = Field(0.0, description="from the release to the sync contact")
    lag_jitter_s: Lag = 0.0
    lag_provenance: Provenance | None = None


class Lens(Part):
    name: Name = ""
    focal_length_mm: Millimetres
    subject_distance_m: Distance
    field_width_m: float | None = Field(
        None, ge=1e-4, le=1e5, description="measured field width; overrides the thin lens"
    )


class Exposure(Part):
    method: Literal["pulse", "hss", "ambient", "open_shutter"] = "pulse"
    shutter_s: Seconds
    f_number: FNumber
    iso: Iso
    nd_stops: float = Field(0.0, ge=0, le=30)
    offset_s: float | None = Field(None, ge=-1, le=1, description="global shutter: opening after the contact")
    frames_per_s: float | None = Field(None, ge=1e-3, le=1000)


class Pixels(Part):
    kind: Literal["pixels"] = "pixels"
    pixels: float = Field(2.0, ge=0.01, le=10_000)


class Print(Part):
    kind: Literal["print"] = "print"
    divisor: float = Field(constants.CIRCLE_DIVISOR, ge=1, le=1e6)


class Viewing(Part):
    kind: Literal["viewing"] = "viewing"
    print_height_m: float = Field(ge=1e-3, le=1000)
    viewing_distance_m: float = Field(ge=1e-3, le=10_000)


Criterion = Annotated[Pixels | Print | Viewing, Field(discriminator="kind")]


class MeterReading(Part):
    f_number: FNumber
    shutter_s: Seconds
    iso: Iso = 100.0


class Ambient(Part):
    """The room, by one of EV, illuminance or a meter reading; none of them means a dark room."""

    ev100: float | None = Field(None, ge=-30, le=30)
    lux: float | None = Field(None, ge=1e-6, le=1e7)
    meter: MeterReading | None = None
    trail_stops: float = Field(constants.TRAIL_STOPS, ge=-20, le=20)
    clear_stops: float = Field(constants.CLEAR_STOPS, ge=-20, le=20)

    @model_validator(mode="after")
    def _one_way_only(self) -> Self:
        if sum(value is not None for value in (self.ev100, self.lux, self.meter)) > 1:
            raise ValueError("give only one of ev100, lux and meter")
        if self.trail_stops > self.clear_stops:
            raise ValueError("trail_stops must not be above clear_stops")
        return self


class Setting(Part):
    """One row of a duration table: what is known of the pulse at one power."""

    power: Power
    t01_s: Seconds | None = None
    t05_s: Seconds | None = None
    provenance: Provenance = "claimed"
    light_stops: float | None = Field(None, ge=-30, le=5, description="measured light against full power, in stops")
    cct_k: float | None = Field(None, ge=1000, le=40_000, description="correlated colour temperature")
    duv: float | None = Field(None, ge=-0.1, le=0.1, description="distance from the black body line, + is green")

    @model_validator(mode="after")
    def _says_something_possible(self) -> Self:
        if self.t01_s is None and self.t05_s is None:
            raise ValueError("give t.1 (t01_s), t.5 (t05_s) or both")
        if self.t01_s is not None and self.t05_s is not None and self.t05_s > self.t01_s:
            raise ValueError("t.5 must not be longer than t.1: the light is above 50 % for a part of that time only")
        return self


Durations = Annotated[tuple[Setting, ...], Field(min_length=1, max_length=200, strict=False)]


class Mode(Part):
    """A way to run a strobe (constant colour, speed) with a duration table of its own."""

    name: Name
    durations: Durations


class ZoomGuide(Part):
    zoom_mm: float = Field(ge=1, le=1000)
    guide_number_m: GuideNumber


class Strobe(Part):
    name: Name = ""
    circuit: Literal["quenched", "voltage", "banks"]
    energy_ws: Positive | None = None
    guide_number_m: GuideNumber
    guide_numbers: tuple[ZoomGuide, ...] = Field((), max_length=50, strict=False)
    durations: tuple[Setting, ...] = Field((), max_length=200, strict=False)
    modes: tuple[Mode, ...] = Field((), max_length=20, strict=False)
    min_power: Power | None = None
    full_recycle_s: NotNegative | None = None
    recycle_floor_s: NotNegative = 0.0
    hss: bool = False
    hss_loss_stops: float = Field(0.0, ge=0, le=10)
    price: float | None = Field(None, ge=0.01, le=1e9, description="in any one currency, for comparison")
    battery_pops: float | None = Field(None, ge=1, le=1e6, description="pops of a charge at full power")

    @model_validator(mode="after")
    def _has_a_table(self) -> Self:
        if not self.durations and not self.modes:
            raise ValueError("give durations, or modes with a duration table each")
        return self


class Light(Part):
    id: Identity | None = None
    name: Name = ""
    power: Power
    distance_m: float = Field(ge=0.01, le=1e4)
    loss_stops: Stops = 0.0
    source_size_m: float = Field(0.0, ge=0, le=100, description="longest side of the modifier, for a warning")
    zoom_mm: float | None = Field(None, ge=1, le=1000)
    mode: Name | None = None
    on_moving_part: bool = True
    strobe: Strobe


class Link(Part):
    """A link of the chain. Sound adds distance over speed of sound, a beam stands `distance_m` upstream."""

    id: Identity | None = None
    name: Name = ""
    kind: Literal["fixed", "sound", "beam"] = "fixed"
    lag_s: Lag = 0.0
    jitter_s: Lag = 0.0
    lag_provenance: Provenance | None = None
    jitter_shape: Literal["normal", "uniform"] = Field("normal", description="jitter_s is its sd, or its half width")
    distance_m: NotNegative = 0.0
    temperature_c: float = Field(20.0, gt=-273.15, le=1000)


class Trigger(Part):
    fires: Literal["camera", "flash"] = "camera"
    latency_s: Lag = 0.0
    links: tuple[Link, ...] = Field((), max_length=50, strict=False)
    set_delay_s: Lag = 0.0
    wanted_delay_s: float | None = Field(None, ge=-3600, le=3600)


Hazard = Literal["water", "glass", "projectile", "public", "athlete", "performer", "animal", "unattended", "hot"]


class Plan(Part):
    """What a try costs, for the run sheet."""

    minutes_per_try: float = Field(1.0, ge=0.01, le=1000)
    keepers_wanted: int = Field(1, ge=1, le=1_000_000)


class Rehearsal(Part):
    subject: Literal["figure", "wheel", "drop"] = "figure"
    background: Literal["black", "grey", "white"] = "black"
    size_m: float | None = Field(None, ge=1e-4, le=1000, description="height of the drawn subject, where it matters")


class Scene(Part):
    """One set-up. Frozen and valid from birth: no function of the core need doubt it."""

    format: Literal["rapzel.scene"] = "rapzel.scene"
    version: Literal[1] = 1
    name: Name = ""
    motion: Motion
    camera: Camera
    lens: Lens
    exposure: Exposure
    criterion: Criterion = Field(default_factory=Pixels)
    ambient: Ambient = Field(default_factory=Ambient)
    lights: tuple[Light, ...] = Field((), max_length=50, strict=False)
    trigger: Trigger = Field(default_factory=Trigger)
    hazards: tuple[Hazard, ...] = Field((), max_length=20, strict=False)
    plan: Plan = Field(default_factory=Plan)
    rehearsal: Rehearsal = Field(default_factory=Rehearsal)

    def to_document(self) -> dict[str, Any]:
        """The JSON document, `x-…` keys included; reading it again gives an equal scene."""
        return self.model_dump(mode="json")


_UNIONS = ("motion", "criterion")


def read_scene(document: Mapping[str, Any] | Scene) -> Scene:
    """The scene that a document describes, in its shape only.

    Raises DocumentError with the JSON path and reason of everything that breaks the schema.
    """
    if isinstance(document, Scene):
        return document
    if not isinstance(document, Mapping):
        raise DocumentError([Problem("", "a scene document is a JSON object")])
    version = document.get("version", VERSION)
    if document.get("format", FORMAT) == FORMAT and isinstance(version, int) and version > VERSION:
        raise DocumentError([Problem("version", f"is {version}; this Rapzel reads up to version {VERSION}")])
    try:
        return Scene.model_validate(dict(document))
    except ValidationError as error:
        raise refused(error, _UNIONS) from None


def read_strobe(document: Mapping[str, Any]) -> Strobe:
    """The strobe that a document describes. Raises DocumentError, also for one of which no setting is known."""
    try:
        return Strobe.model_validate(document)
    except ValidationError as error:
        raise refused(error) from None


def scene_schema() -> dict[str, Any]:
    """The published JSON Schema of the scene document (draft 2020-12)."""
    schema = Scene.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **schema, "title": "Rapzel scene, version 1"}
