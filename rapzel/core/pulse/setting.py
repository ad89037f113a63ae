"""One row of a strobe's duration table: what is known of its pulse at one power."""

from typing import Annotated, Self

from pydantic import Field, model_validator

from rapzel.core.shared.part import Part, Power, Seconds
from rapzel.core.shared.working import Provenance


class Setting(Part):
    """One row of a duration table: what is known of the pulse at one power."""

    power: Power
    t01_s: Seconds | None = None
    t05_s: Seconds | None = None
    provenance: Provenance = "claimed"
    light_stops: float | None = Field(
        None, ge=-30, le=5, description="measured light against full power, in stops"
    )
    cct_k: float | None = Field(
        None, ge=1000, le=40_000, description="correlated colour temperature"
    )
    duv: float | None = Field(
        None,
        ge=-0.1,
        le=0.1,
        description="distance from the black body line, + is green",
    )

    @model_validator(mode="after")
    def _says_something_possible(self) -> Self:
        # A row without either would be a power mark that says nothing.
        if self.t01_s is None and self.t05_s is None:
            raise ValueError("give t.1 (t01_s), t.5 (t05_s) or both")
        if (
            self.t01_s is not None
            and self.t05_s is not None
            and self.t05_s > self.t01_s
        ):
            raise ValueError(
                "t.5 must not be longer than t.1: the light is above 50 % for a part of that time only"
            )
        return self

    def __hash__(self) -> int:
        # Tables are the keys of fitted pulses: three figures tell them apart faster than all of them.
        return hash((self.power, self.t01_s, self.t05_s))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Setting) and self.__dict__ == other.__dict__


Durations = Annotated[
    tuple[Setting, ...], Field(min_length=1, max_length=200, strict=False)
]
