"""What a search may use: a person's limits, read from `limits.json` (docs/scene.md)."""

from collections.abc import Mapping
from typing import Annotated, Any, Literal, Self

from pydantic import Field, ValidationError, model_validator

from rapzel.core.methods import METHODS
from rapzel.core.shared import constants
from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.core.shared.part import Name, Part
from rapzel.core.shared.refusals import refused

Order = Literal["iso", "lights", "pulse", "depth", "rate"]
ORDERS: dict[Order, str] = {
    "iso": "cleanest ISO",
    "lights": "fewest lights",
    "pulse": "shortest light",
    "depth": "most depth",
    "rate": "fastest rate",
}
BARE = "bare"  # the name of no modifier
MOST_LIGHTS = 12


_Iso = Annotated[float, Field(ge=1, le=1e8)]
_FNumber = Annotated[float, Field(ge=0.5, le=1000)]
_Shutter = Annotated[float, Field(ge=1e-9, le=3600)]
_Distance = Annotated[float, Field(ge=0.01, le=1e4)]
_LIST = Field(strict=False)  # a list is taken where JSON has no pairs


class Limits(Part):
    """Least and most of each dial, and what a set-up must reach. Null is: whatever there is.

    A dial is tried at its markings within the range. `lights` counts the lights on the moving part. `strobes` are names
    of the kit, `modifiers` names of its modifiers or `bare`; without any, the loss is as in the scene. `burst` is the
    frames that must come at `frames_per_s` before one is short. `depth_m` is from the near to the far limit.
    """

    iso: Annotated[tuple[_Iso, _Iso], _LIST] = (100.0, 3200.0)
    f_number: Annotated[tuple[_FNumber, _FNumber], _LIST] = (2.8, 11.0)
    shutter_s: Annotated[tuple[_Shutter, _Shutter], _LIST] = (1 / 80000, 1.0)
    distance_m: Annotated[tuple[_Distance, _Distance], _LIST] = (1.0, 4.0)
    lights: int = Field(3, ge=0, le=MOST_LIGHTS)
    methods: tuple[str, ...] | None = Field(None, max_length=20, strict=False)
    strobes: tuple[Name, ...] | None = Field(None, max_length=200, strict=False)
    modifiers: tuple[Name, ...] | None = Field(None, max_length=50, strict=False)
    freeze_stops: float = Field(0.0, ge=-10, le=10)
    tolerance_stops: float = Field(constants.RIGHT_STOPS, ge=0.01, le=5)
    frames_per_s: float | None = Field(None, ge=1e-3, le=1000)
    burst: int | None = Field(None, ge=1, le=10_000)
    depth_m: float | None = Field(None, ge=0, le=1e5)
    equal_power: bool = False
    order: Order = "iso"
    most: int = Field(40, ge=1, le=200, description="hits that are listed")

    @model_validator(mode="after")
    def _ranges_go_up(self) -> Self:
        for name in ("iso", "f_number", "shutter_s", "distance_m"):
            low, high = getattr(self, name)
            if low > high:
                raise ValueError(
                    f"{name}: the least, {low:g}, is above the most, {high:g}"
                )
        for key in self.methods or ():
            if key not in METHODS:
                raise ValueError(
                    f"no method is called “{key[:40]}”; known: {', '.join(METHODS)}"
                )
        if self.burst is not None and self.frames_per_s is None:
            raise ValueError(
                "burst needs frames_per_s: at which rate should the frames come?"
            )
        return self

    def relaxed(self, **values: Any) -> "Limits":
        """The same limits with some of them changed."""
        return self.model_copy(update=values)


def read_limits(document: Mapping[str, Any] | Limits | None) -> Limits:
    """The limits that a document gives. Raises DocumentError with the path and reason of all that is wrong."""
    if isinstance(document, Limits):
        return document
    if document is not None and not isinstance(document, Mapping):
        raise DocumentError([Problem("", "limits are a JSON object")])
    try:
        return Limits.model_validate(dict(document or {}))
    except ValidationError as error:
        raise refused(error) from None


def limits_schema() -> dict[str, Any]:
    """The published JSON Schema of the limits (draft 2020-12)."""
    schema = Limits.model_json_schema()
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **schema,
        "title": "Rapzel limits of a search",
    }
