"""Forms of the kit. They speak people's units and put the core's refusal on the field at fault."""

from collections.abc import Iterable
from typing import Any

from django import forms
from django.forms.models import ModelFormMetaclass
from pydantic import ValidationError as CoreRefusal

from rapzel.core.possible import about_a_camera
from rapzel.core.pulse.setting import Setting
from rapzel.core.shared.errors import Problem
from rapzel.core.shared.part import InputSpec, Part, inputs_of
from rapzel.core.shared.refusals import refused, spoken
from rapzel.core.trigger.links import KINDS as LINK_KINDS
from rapzel.core.trigger.links import ChainLink
from rapzel.kit import models
from rapzel.kit.drives import DrivesField
from rapzel.kit.parts import KitCamera, KitLens, KitModifier, KitStrobe, KitTrigger
from rapzel.ui.inputs import QuantityField


def _field(spec: InputSpec) -> forms.Field:
    """The form's field for a figure of a class; one that may be left empty is one that may be unknown."""
    label, hint = spec.label, spec.hint
    if spec.quantity == "choice":
        return forms.ChoiceField(choices=spec.choices, label=label, help_text=hint)
    if spec.quantity == "check":
        return forms.BooleanField(label=label, required=False, help_text=hint)
    if spec.quantity == "drives":
        return DrivesField(label=label, required=False, help_text=hint)
    # Null stands for “not known” in the core, so that an empty field is an answer.
    may_be_unknown = not spec.required and spec.default is None
    return QuantityField(
        spec.quantity, label=label, required=not may_be_unknown, help_text=hint
    )


class ItemForm(forms.ModelForm):
    """A form of quantities: what a field still shows keeps the value it stands for, digits not shown included."""

    # the class that says what is asked, and must accept what is entered
    core_part: type[Part]

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        """The figures of the instance are what the form begins with."""
        item = kwargs["instance"]
        # Figures lie in one column of the row; the form has a field for each.
        begins = {
            spec.name: getattr(item, spec.name) for spec in inputs_of(self.core_part)
        }
        kwargs["initial"] = begins | (kwargs.get("initial") or {})
        super().__init__(*args, **kwargs)

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or self.cleaned_data
        for name, field in self.fields.items():
            if (
                isinstance(field, QuantityField)
                and name in cleaned
                and name not in self.changed_data
            ):
                # What is shown is rounded; the stored value comes back in full.
                cleaned[name] = getattr(self.instance, name)
        for spec in inputs_of(self.core_part):
            # Inputs read numbers; pixels and counts are whole ones.
            if spec.whole and cleaned.get(spec.name) is not None:
                cleaned[spec.name] = int(cleaned[spec.name])
        # What is not even a number is told by its field; the core would only repeat it.
        if not self.errors:
            self._ask_the_core(cleaned)
        return cleaned

    def _judge(self, cleaned: dict[str, Any]) -> type[Part]:
        """The class that judges what is entered."""
        return self.core_part

    def _ask_the_core(self, cleaned: dict[str, Any]) -> None:
        judge = self._judge(cleaned)
        # Empty ones are left to the class, which knows what it does without them.
        offered = {
            key: cleaned[key]
            for key in judge.model_fields
            if cleaned.get(key) is not None
        }
        try:
            self._add_problems(self._about(judge.model_validate(offered)))
        except CoreRefusal as refusal:
            self._add_problems(refused(refusal).problems)

    def _about(self, part: Any) -> Iterable[Problem]:
        """What is impossible of it beyond the bounds of its figures."""
        return ()

    def _add_problems(self, problems: Iterable[Problem]) -> None:
        for problem in problems:
            # A problem between two fields, or of none of them, stands at the head of the form.
            name = problem.path if problem.path in self.fields else None
            self.add_error(name, spoken(problem.reason))


def _form_of(
    model: type[models.Item], part: type[Part], base: type[ItemForm] = ItemForm
) -> Any:
    """The form of a kind of kit: its name, a field for each figure that its class offers, and notes."""
    fields = {spec.name: _field(spec) for spec in inputs_of(part)}
    words = {
        "model": model,
        "fields": ["name", *fields, "notes"],
        "widgets": {"notes": forms.Textarea(attrs={"rows": 2})},
    }
    # Made and not written: a new figure of the class is a new field here.
    own = {**fields, "core_part": part, "Meta": type("Meta", (), words)}
    return ModelFormMetaclass(f"{model.__name__}Form", (base,), own)


class _OfCameras(ItemForm):
    def _about(self, part: Any) -> Iterable[Problem]:
        """A camera that every scene would refuse is refused here."""
        return about_a_camera(part)


class _OfTriggers(ItemForm):
    def _judge(self, cleaned: dict[str, Any]) -> type[Part]:
        """Each kind of link has bounds of its own."""
        return LINK_KINDS.get(str(cleaned.get("kind")), ChainLink)


StrobeForm: type[ItemForm] = _form_of(models.Strobe, KitStrobe)
CameraForm: type[ItemForm] = _form_of(models.Camera, KitCamera, _OfCameras)
LensForm: type[ItemForm] = _form_of(models.Lens, KitLens)
TriggerForm: type[ItemForm] = _form_of(models.Trigger, KitTrigger, _OfTriggers)
ModifierForm: type[ItemForm] = _form_of(models.Modifier, KitModifier)


class SettingRow(forms.Form):
    """One row of a duration table as typed. It is judged when it is complete; an empty one is dropped."""

    mode = forms.CharField(max_length=200, required=False)
    power = QuantityField("power", required=False)
    t01 = QuantityField("duration", label="t.1", required=False)
    t05 = QuantityField("duration", label="t.5", required=False)
    provenance = forms.ChoiceField(choices=models.Provenance.choices)

    def __init__(self, data: Any, known: models.DurationSetting | None) -> None:
        super().__init__(data)
        self._known = known

    @property
    def empty(self) -> bool:
        return not any(
            str(self.data.get(cell, "")).strip() for cell in ("power", "t01", "t05")
        )

    @property
    def complete(self) -> bool:
        """Whether it says something: a power, and at least one of the two times."""
        typed = {
            cell: str(self.data.get(cell, "")).strip()
            for cell in ("power", "t01", "t05")
        }
        return bool(typed["power"] and (typed["t01"] or typed["t05"]))

    def _value(self, cell: str, column: str) -> float | None:
        """A cell that still shows what is stored keeps all of its digits."""
        stored = getattr(self._known, column, None)
        field = self.fields[cell]
        assert isinstance(field, QuantityField)
        same = (
            stored is not None
            and field.prepare_value(stored) == str(self.data.get(cell, "")).strip()
        )
        if same:
            return stored
        return self.cleaned_data.get(cell)

    def row(self) -> dict[str, Any]:
        """The row as the table stores it; call it on a valid form."""
        power = self._value("power", "power")
        # measured at that power only
        # Colour and light belong to one power; at another one they would be made up.
        if self._known and self._known.power == power:
            kept = self._known
        else:
            kept = None
        return {
            **{
                key: getattr(kept, key, None) for key in ("light_stops", "cct_k", "duv")
            },
            "mode": self.cleaned_data["mode"].strip(),
            "power": power,
            "t01_s": self._value("t01", "t01_s"),
            "t05_s": self._value("t05", "t05_s"),
            "provenance": self.cleaned_data["provenance"],
        }

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or self.cleaned_data
        if self.errors or not self.complete:
            return cleaned
        try:
            Setting.model_validate(
                {key: value for key, value in self.row().items() if key != "mode"}
            )
        except CoreRefusal as refusal:
            for problem in refused(refusal).problems:
                self.add_error(None, spoken(problem.reason))
        return cleaned

    def says(self) -> str:
        """Everything that is wrong with it, in one line."""
        own = [str(error) for error in self.non_field_errors()]
        cells = [
            f"{self[name].label}: {error}"
            for name, errors in self.errors.items()
            if name != "__all__"
            for error in errors
        ]
        return " ".join([*own, *cells])
