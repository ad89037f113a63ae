"""What each kind of kit is, in one class a kind: its figures with their bounds, and how screens ask for them.

Forms, columns of CSV files, JSON and the JSON Schema are made from these. Strobe and camera are the core's own, with
what only a kit knows on top.
"""

from typing import Annotated, Self

from pydantic import AfterValidator, Field, model_validator

from rapzel.core.document import gear
from rapzel.core.document.gear import NOT_KNOWN, PROVENANCES
from rapzel.core.shared.part import (
    FNumber,
    GuideNumber,
    Lag,
    MeasuredLag,
    Millimetres,
    Name,
    Part,
    Text,
    shown,
)
from rapzel.core.shared.working import Provenance
from rapzel.core.trigger.links import KINDS as LINK_KINDS

Notes = Text
LINKS = {kind: link.title.capitalize() for kind, link in LINK_KINDS.items()}


class KitLens(Part):
    name: Name = ""
    focal_length_mm: Millimetres = shown(..., "Focal length, mm", "number")
    widest_f_number: FNumber = shown(2.8, "Widest aperture", "f_number")
    nearest_m: float = shown(0.45, "Nearest distance", "length", ge=0, le=1000)
    notes: Notes = Field("", max_length=2000)


def _known_link(kind: str) -> str:
    """A kind of link; `fixed` is what older files call a device."""
    # Files from before there were kinds of devices.
    if kind != "fixed" and kind not in LINK_KINDS:
        raise ValueError(f"must be one of {', '.join(LINK_KINDS)}")
    if kind == "fixed":
        return "device"
    return kind


class KitTrigger(Part):
    name: Name = ""
    kind: Annotated[str, AfterValidator(_known_link)] = shown(
        "device", "Kind", "choice", choices=LINKS
    )
    lag_s: Lag | None = shown(None, "Lag", "duration", NOT_KNOWN)
    jitter_s: Lag | None = shown(None, "Jitter (sd)", "duration", NOT_KNOWN)
    lag_provenance: Provenance = shown(
        "claimed", "Its lag is", "choice", choices=PROVENANCES
    )
    resolution_s: Lag | None = shown(
        None, "Delay in steps of", "duration", "of a unit; empty: not known"
    )
    lockout_s: Lag | None = shown(
        None, "Locked out after", "duration", "of a unit; empty: not known"
    )
    lags_s: tuple[MeasuredLag, ...] = Field((), max_length=300, strict=False)
    notes: Notes = Field("", max_length=2000)


class KitModifier(Part):
    name: Name = ""
    loss_stops: float = shown(0.0, "Loss, stops", "stops", ge=-10, le=30)
    source_size_m: float = shown(0.0, "Longest side", "length", ge=0, le=100)
    notes: Notes = Field("", max_length=2000)


class KitStrobe(gear.Strobe):
    """A strobe of the kit may still wait for its guide number or its table; scenes do not take it until then."""

    # The checker forbids a wider type than the core's; here it is the point, and nothing takes this for a gear.Strobe.
    guide_number_m: GuideNumber | None = shown(  # type: ignore[assignment]
        None, "Guide number, ISO 100", "length", "60, 60 m, 197 ft"
    )
    notes: Notes = Field("", max_length=2000)

    @model_validator(mode="after")
    def _has_a_table(self) -> Self:
        return self


class KitCamera(gear.Camera):
    lag_provenance: Provenance = shown(
        "claimed", "Its lag is", "choice", choices=PROVENANCES
    )
    mirror_up: bool = Field(False, exclude=True)  # settings of a scene, not of the body
    electronic_first_curtain: bool = Field(False, exclude=True)
    asleep: bool = Field(False, exclude=True)
    notes: Notes = Field("", max_length=2000)


# of a row itself, and tables of their own
_ELSEWHERE = ("name", "notes", "durations", "modes")


def figures_of(part: type[Part]) -> tuple[str, ...]:
    """The names of what a thing of the kit is, besides its name, its notes and its tables."""
    fields = part.model_fields.items()
    return tuple(
        name for name, info in fields if not info.exclude and name not in _ELSEWHERE
    )


PARTS: dict[str, type[Part]] = {
    "strobes": KitStrobe,
    "cameras": KitCamera,
    "lenses": KitLens,
    "triggers": KitTrigger,
    "modifiers": KitModifier,
}
