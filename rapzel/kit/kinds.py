"""The kinds of things in the kit, each with its words, its class and its form. A new kind is a line here."""

from dataclasses import dataclass
from functools import cached_property

from rapzel.core.shared.part import InputSpec, Part, inputs_of
from rapzel.kit import forms, models
from rapzel.kit.parts import PARTS


@dataclass(frozen=True)
class Kind:
    """One kind of kit: how it is called, what it is made of, where it is stored and how it is edited."""

    slug: str  # in addresses and documents
    one: str
    many: str
    model: type[models.Item]
    form: type[forms.ItemForm]

    @property
    def part(self) -> type[Part]:
        """The class that says what figures it has."""
        return PARTS[self.slug]

    @cached_property
    def inputs(self) -> dict[str, InputSpec]:
        """What a person can say of it, by name."""
        return {spec.name: spec for spec in inputs_of(self.part)}

    @cached_property
    def columns(self) -> tuple[str, ...]:
        """Of its CSV, after the name; strobes add their settings, and what fills lines of its own is in JSON only."""
        return tuple(
            name for name, spec in self.inputs.items() if spec.quantity != "drives"
        )


KINDS: dict[str, Kind] = {
    kind.slug: kind
    for kind in (
        Kind("strobes", "strobe", "Strobes", models.Strobe, forms.StrobeForm),
        Kind("cameras", "camera", "Cameras", models.Camera, forms.CameraForm),
        Kind("lenses", "lens", "Lenses", models.Lens, forms.LensForm),
        Kind(
            "triggers",
            "trigger",
            "Triggers and sensors",
            models.Trigger,
            forms.TriggerForm,
        ),
        Kind("modifiers", "modifier", "Modifiers", models.Modifier, forms.ModifierForm),
    )
}
