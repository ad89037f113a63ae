"""What every part of a document is made of: strict fields with physical floors and ceilings, and `x-…` keys kept."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Any, Literal, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator

from rapzel.core.shared.refusals import must_be_small, must_be_storable

# Floors and ceilings are physical: far beyond what anybody owns, yet near enough that no formula breaks.
Positive = Annotated[float, Field(ge=1e-3, le=1e9)]
NotNegative = Annotated[float, Field(ge=0, le=1e9)]
Text = Annotated[str, AfterValidator(must_be_storable)]
Name = Annotated[Text, Field(max_length=200)]
Stops = Annotated[float, Field(ge=-30, le=30)]
Seconds = Annotated[float, Field(ge=1e-9, le=3600)]
Lag = Annotated[float, Field(ge=0, le=3600)]
MeasuredLag = Annotated[float, Field(ge=-3600, le=3600)]  # a finger may be early
Power = Annotated[float, Field(ge=1e-5, le=1)]
# a lens in air cannot be wider than f/0.5
FNumber = Annotated[float, Field(ge=0.5, le=1000)]
Iso = Annotated[float, Field(ge=1, le=1e8)]
Millimetres = Annotated[float, Field(ge=0.5, le=10_000)]
Distance = Annotated[float, Field(ge=1e-3, le=1e5)]
GuideNumber = Annotated[float, Field(ge=0.01, le=1e4)]
Identity = Annotated[
    str,
    Field(
        pattern=r"^[A-Za-z0-9_-]{1,40}$",
        description="its own among its like, once stored",
    ),
]
Hazard = Literal[
    "water",
    "glass",
    "projectile",
    "public",
    "athlete",
    "performer",
    "animal",
    "unattended",
    "hot",
]


def _allow_x_keys(schema: dict[str, Any]) -> None:
    schema["additionalProperties"] = False
    schema["patternProperties"] = {"^x-": {}}


class Part(BaseModel):
    """A part of the document: strict numbers, no NaN, no unknown keys but `x-…`."""

    model_config = ConfigDict(
        extra="allow",
        strict=True,
        frozen=True,
        allow_inf_nan=False,
        json_schema_extra=_allow_x_keys,
    )

    @model_validator(mode="after")
    def _only_x_extras(self) -> Self:
        if not self.__pydantic_extra__:
            return self
        # A misspelt key that is ignored is a setting that somebody believes to have made.
        strangers = sorted(
            key for key in self.__pydantic_extra__ if not key.startswith("x-")
        )
        if strangers:
            known = ", ".join(type(self).model_fields)
            shown = strangers[0][:60]
            raise ValueError(
                f"unknown key “{shown}”; known: {known}, and keys that begin with x-"
            )
        for key, value in self.__pydantic_extra__.items():
            must_be_small(must_be_storable(key)[:60], value)
        return self


@dataclass(frozen=True, slots=True)
class InputSpec:
    """What a field that screens offer says of its input (see `shown`)."""

    name: str
    label: str
    quantity: str
    hint: str
    choices: tuple[tuple[str, str], ...]
    required: bool
    default: Any
    whole: bool  # a count, read as a whole number


def inputs_of(part: type[BaseModel]) -> Iterator[InputSpec]:
    """The inputs that a part brings along: its fields with a label, in their order."""
    for name, info in part.model_fields.items():
        said = info.json_schema_extra
        # A field without a label is read and written, and has no input.
        if not isinstance(said, dict) or "x-label" not in said:
            continue
        choices = said.get("x-choices")
        yield InputSpec(
            name=name,
            label=str(said["x-label"]),
            quantity=str(said["x-quantity"]),
            hint=str(said.get("x-hint", "")),
            choices=tuple((str(key), str(words)) for key, words in choices.items())
            if isinstance(choices, dict)
            else (),
            required=info.is_required(),
            default=info.default,
            whole=info.annotation is int,
        )


def shown(
    default: Any,
    label: str,
    quantity: str,
    hint: str = "",
    choices: dict[str, str] | None = None,
    **limits: Any,
) -> Any:
    """A field that screens offer as an input: its label, the kind of quantity it is, and a hint; `...` is required.

    The words stand in the published schema as `x-label`, `x-quantity`, `x-hint` and `x-choices` (the words of each
    value of a choice), so that a new kind of motion, link or tool brings its own inputs along.
    """
    said: dict[str, Any] = {"x-label": label, "x-quantity": quantity}
    said |= {"x-hint": hint} if hint else {}
    said |= {"x-choices": choices} if choices else {}
    return Field(default, json_schema_extra=said, **limits)
