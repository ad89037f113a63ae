"""What the rehearsal draws: a subject of ours or one's own cut-out, before a background."""

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from rapzel.core.shared.part import Part

DrawnSubject = Literal[
    "figure",
    "dancer",
    "kicker",
    "runner",
    "skater",
    "skipper",
    "racket",
    "archer",
    "wheel",
    "machine",
    "drop",
    "spray",
    "glass",
    "balloon",
    "moth",
    "turner",
    "cutout",
]
_Share = Annotated[float, Field(ge=0, le=1)]


class CutOut(Part):
    """One's own picture as the subject: which part of it moves, and about what it turns. Shares from its upper left."""

    picture: str = Field(
        max_length=600_000,
        pattern=r"^data:image/(png|webp);base64,[A-Za-z0-9+/]+=*$",
        description="grey with transparency, as a data address",
    )
    moving: tuple[_Share, _Share, _Share, _Share] | None = Field(
        None,
        strict=False,
        description="left, top, right, bottom; null: all of it moves",
    )
    pivot: tuple[_Share, _Share] | None = Field(
        None,
        strict=False,
        description="the moving part turns about it; null: it moves as a whole",
    )

    @model_validator(mode="after")
    def _has_a_part(self) -> Self:
        if self.moving is not None:
            left, top, right, bottom = self.moving
            # A part drawn from right to left is a slip of the pointer, and would move nothing.
            if right <= left or bottom <= top:
                raise ValueError("the moving part must have a width and a height")
        return self


class Rehearsal(Part):
    subject: DrawnSubject = "figure"
    cutout: CutOut | None = None
    background: Literal["black", "grey", "white"] = "black"
    size_m: float | None = Field(
        None,
        ge=1e-4,
        le=1000,
        description="height of the drawn subject, where it matters",
    )

    @model_validator(mode="after")
    def _has_its_picture(self) -> Self:
        if self.subject == "cutout" and self.cutout is None:
            raise ValueError("a cut-out needs its picture: give rehearsal.cutout")
        return self
