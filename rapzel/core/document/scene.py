"""The scene document, version 2: one set-up with everything needed to answer whether it will freeze.

The classes here are the published JSON Schema. Quantities are SI with the unit in the key. Unknown keys are refused
unless they begin with `x-`, which are kept. A figure that is null is not known, and never taken for zero. What is
well-formed but impossible is refused in `possible`; older versions are raised in `document.upgrade`.
"""

import math
from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from rapzel.core.document import places
from rapzel.core.document.exposed import Exposure
from rapzel.core.document.gear import Camera, Lamp, Lens, Light
from rapzel.core.document.present import Present
from rapzel.core.document.rehearsed import Rehearsal
from rapzel.core.document.surroundings import Ambient, Backdrop, Look
from rapzel.core.document.upgrade import FORMAT, VERSION, upgrade
from rapzel.core.drops.asked import Drops
from rapzel.core.motion import Motion
from rapzel.core.shared import constants
from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.core.shared.part import Hazard, Lag, Name, Part
from rapzel.core.shared.refusals import refused
from rapzel.core.shared.working import Provenance
from rapzel.core.trigger.link import doubt_of
from rapzel.core.trigger.links import Device, Link


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


class Moment(Part):
    """When and where the picture is right. All of it null: not judged."""

    at_s: float | None = Field(
        None, ge=-3600, le=3600, description="the wanted instant after the event"
    )
    lasts_s: float | None = Field(
        None,
        gt=0,
        le=3600,
        description="full width of the time in which the pose is right",
    )
    place_m: float | None = Field(
        None, gt=0, le=1e4, description="half width of the place in which it is right"
    )

    @property
    def stated(self) -> bool:
        """Whether there is something to judge a try by."""
        return any(
            value is not None for value in (self.at_s, self.lasts_s, self.place_m)
        )


class Subject(Part):
    """What must be in the frame, and by how much its way differs from try to try, square to the way."""

    extent_m: float = Field(
        0.0, ge=0, le=1e4, description="what must be in the frame, along the movement"
    )
    aside_sd_m: float | None = Field(
        None,
        ge=0,
        le=1e4,
        description="spread of ways on the level; sd, or half width where even; null: not known",
    )
    above_sd_m: float | None = Field(
        None,
        ge=0,
        le=1e4,
        description="spread of ways up and down; of a fall: towards the camera; null: not known",
    )
    ways_shape: Literal["normal", "uniform"] = "normal"
    thick_m: float | None = Field(
        None,
        ge=0,
        le=1e4,
        description="what of it cuts a beam, square to its way; null: enough",
    )

    height_m: float | None = Field(
        None,
        ge=0,
        le=1e4,
        description="of what breaks or is shot, above the floor; null: not known",
    )

    @property
    def strays(self) -> bool:
        """Whether its ways differ from try to try; unless somebody says that they do not, they do."""
        return self.aside_sd_m != 0 or self.above_sd_m != 0


class Trigger(Part):
    """`latency_s` runs from the sync contact, or the trigger unit's output, to the light; null is not known."""

    fires: Literal["camera", "flash"] = "camera"
    latency_s: Lag | None = None
    latency_provenance: Provenance | None = None
    links: tuple[Link, ...] = Field((), max_length=50, strict=False)
    set_delay_s: Lag = 0.0

    @property
    def radios(self) -> tuple[Link, ...]:
        """The links that pass on what the camera's contact, or the unit, says."""
        return tuple(link for link in self.links if link.after_camera)

    @property
    def contact_to_light_s(self) -> float | None:
        """From the sync contact to the light, radios included [s]; None while a part of it is not known."""
        # One part that is not known makes the sum so: a sum of the rest would look like an answer.
        lags = [self.latency_s, *(link.delay().lag_s for link in self.radios)]
        known = [lag for lag in lags if lag is not None]
        if len(known) == len(lags):
            return sum(known)
        return None

    @property
    def contact_jitter_s(self) -> float | None:
        """By how much the light jumps about after the contact [s, sd]; None while a radio's jitter is not known."""
        jitters = [link.delay().jitter_s for link in self.radios]
        known = [jitter for jitter in jitters if jitter is not None]
        if len(known) < len(jitters):
            return None
        # Independent radios add in squares.
        return math.hypot(*known)

    @property
    def contact_even(self) -> bool:
        """Whether that jitter is even rather than normal: of one radio alone; several together are near to normal."""
        return len(self.radios) == 1 and self.radios[0].delay().uniform

    @property
    def contact_doubt_s(self) -> float:
        """How far the time from contact to light may be off for the whole shoot [s]; holds in nine of ten cases."""
        latency = doubt_of(self.latency_s, self.latency_provenance)
        return math.hypot(latency, *(link.delay().doubt_s for link in self.radios))

    @property
    def resolution_s(self) -> float:
        """The steps in which a delay can be set [s]: the coarsest of the units; 0 where none says so."""
        return max(
            (
                # The coarsest step rules: a finer unit behind it cannot be set between its steps.
                link.resolution_s or 0.0
                for link in self.links
                if isinstance(link, Device)
            ),
            default=0.0,
        )


class Plan(Part):
    """What a try costs, for the run sheet."""

    minutes_per_try: float = Field(1.0, ge=0.01, le=1000)
    keepers_wanted: int = Field(1, ge=1, le=1_000_000)
    uses_up: Name = Field("", description="what a try uses up: one glass, two balloons")


class PinnedResult(Part):
    """What a tool said, kept with the scene: which tool, what it was asked, and its answer in one sentence."""

    id: str | None = Field(None, max_length=40)
    tool: Name
    says: Annotated[str, Field(max_length=1000)]
    asked: dict[str, Any] = Field(default_factory=dict)
    answer: dict[str, Any] = Field(default_factory=dict)


class Scene(Part):
    """One set-up. Frozen and valid from birth: no function of the core need doubt it."""

    format: Literal["rapzel.scene"] = "rapzel.scene"
    version: Literal[2]
    name: Name = ""
    motion: Motion
    subject: Subject = Field(default_factory=Subject)
    camera: Camera
    lens: Lens
    exposure: Exposure
    criterion: Criterion = Field(default_factory=Pixels)
    look: Look = Field(default_factory=Look)
    ambient: Ambient = Field(default_factory=Ambient)
    backdrop: Backdrop = Field(default_factory=Backdrop)
    # None is a scene too: by the room alone, or one that is being begun.
    lights: tuple[Light, ...] = Field((), max_length=50, strict=False)
    lamps: tuple[Lamp, ...] = Field((), max_length=50, strict=False)
    trigger: Trigger = Field(default_factory=Trigger)
    moment: Moment = Field(default_factory=Moment)
    drops: Drops | None = Field(
        None, description="two drops that meet; times from the first valve's command"
    )
    hazards: tuple[Hazard, ...] = Field((), max_length=20, strict=False)
    plan: Plan = Field(default_factory=Plan)
    rehearsal: Rehearsal = Field(default_factory=Rehearsal)
    pinned: tuple[PinnedResult, ...] = Field((), max_length=20, strict=False)

    def to_document(self) -> dict[str, Any]:
        """The JSON document, `x-…` keys included; reading it again gives an equal scene."""
        # Null is written out: a reader shall see what is not known, and not guess a default.
        return self.model_dump(mode="json")


UNIONS = (("motion",), ("criterion",), ("trigger", "links", "*"))


def read_scene(document: Mapping[str, Any] | Scene) -> Scene:
    """The scene that a document of any version describes, in its shape only.

    Raises DocumentError with the JSON path and reason of everything that breaks the schema.
    """
    # A scene is valid from birth; reading it again would cost most of an answer.
    if isinstance(document, Scene):
        return document
    if not isinstance(document, Mapping):
        raise DocumentError([Problem("", "a scene document is a JSON object")])
    # A newer Rapzel may mean something else by the same keys: better refused than misread.
    version = document.get("version", VERSION)
    if (
        document.get("format", FORMAT) == FORMAT
        and isinstance(version, int)
        and version > VERSION
    ):
        raise DocumentError(
            [
                Problem(
                    "version",
                    f"is {version}; this Rapzel reads up to version {VERSION}",
                )
            ]
        )
    # A document that came through the model's door was raised there already.
    return _valid(document if isinstance(document, Present) else upgrade(document))


def _valid(document: Mapping[str, Any]) -> Scene:
    """Raises DocumentError with the JSON path and reason of everything that breaks the schema."""
    try:
        return Scene.model_validate(document)
    except ValidationError as error:
        raise refused(error, UNIONS) from None


def with_values(scene: Scene, values: Mapping[str, Any]) -> Scene:
    """The scene with each path set to its value; raises DocumentError where a path or a value is none of its own."""
    # A search makes thousands of scenes that differ in three figures.
    parts = dict(scene)
    for part in {places.split(path)[0] for path in values}:
        parts[str(part)] = _as_document(parts.get(str(part)))
    # The parts that stay are passed as they are: they are valid, and pydantic does not look at them again.
    return _valid(places.put(parts, values))


def _as_document(part: Any) -> Any:
    """A part of a scene as its document has it: objects, lists, texts and numbers."""
    if isinstance(part, Part):
        return part.model_dump(mode="json")
    if isinstance(part, tuple):
        return [_as_document(item) for item in part]
    return part


def scene_schema() -> dict[str, Any]:
    """The published JSON Schema of the scene document (draft 2020-12)."""
    schema = Scene.model_json_schema()
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **schema,
        "title": "Rapzel scene, version 2",
    }
