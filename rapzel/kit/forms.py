"""Forms of the kit. They speak people's units and put the core's refusal on the field at fault."""

from collections.abc import Iterable
from typing import Any

from django import forms
from pydantic import ValidationError as CoreRefusal

from rapzel.core.document.gear import Camera, Strobe
from rapzel.core.possible import about_a_camera
from rapzel.core.pulse.setting import Setting
from rapzel.core.shared.errors import Problem
from rapzel.core.shared.part import Part
from rapzel.core.shared.refusals import refused, spoken
from rapzel.core.trigger.links import KINDS as LINK_KINDS
from rapzel.core.trigger.links import ChainLink
from rapzel.kit import models
from rapzel.kit.drives import DrivesField
from rapzel.ui.inputs import QuantityField


class ItemForm(forms.ModelForm):
    """A form of quantities: what a field still shows keeps the value it stands for, digits not shown included."""

    core_part: type[Part] | None = None  # the core's class that must accept what is entered

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or self.cleaned_data
        for name, field in self.fields.items():
            if (
                isinstance(field, QuantityField)
                and name in cleaned
                and name not in self.changed_data
            ):
                cleaned[name] = getattr(self.instance, name)
        if self.core_part is not None and not self.errors:
            self._ask_the_core(cleaned)
        return cleaned

    def _ask_the_core(self, cleaned: dict[str, Any]) -> None:
        assert self.core_part is not None
        offered = {
            key: cleaned[key] for key in self.core_part.model_fields if cleaned.get(key) is not None
        }
        try:
            self.core_part.model_validate({**self.core_extras(), **offered})
        except CoreRefusal as refusal:
            self._add_problems(refused(refusal).problems)

    def _add_problems(self, problems: Iterable[Problem]) -> None:
        for problem in problems:
            if problem.path in self.fields:
                name = problem.path
            else:
                name = None
            self.add_error(name, spoken(problem.reason))

    def core_extras(self) -> dict[str, Any]:
        """What the core's class needs besides the form's own fields."""
        return {}


class StrobeForm(ItemForm):
    core_part = Strobe
    guide_number_m = QuantityField(
        "length", label="Guide number, ISO 100", required=False, help_text="60, 60 m, 197 ft"
    )
    energy_ws = QuantityField("number", label="Energy, Ws", required=False)
    min_power = QuantityField(
        "power", label="Lowest power", required=False, help_text="1/256, -8 stops"
    )
    full_recycle_s = QuantityField("duration", label="Full recycle", required=False)
    recycle_floor_s = QuantityField("duration", label="Recycle floor")
    hss_loss_stops = QuantityField(
        "stops", label="HSS loss, stops", help_text="the strobe's own, beside the slit's"
    )
    price = QuantityField(
        "number", label="Price", required=False, help_text="in one currency, to compare"
    )
    battery_pops = QuantityField(
        "number", label="Pops of a charge", required=False, help_text="at full power"
    )
    thermal_pops_per_min = QuantityField(
        "number", label="Pops a minute for long", required=False, help_text="at full power, by heat"
    )

    class Meta:
        model = models.Strobe
        fields = [
            "name",
            "circuit",
            "guide_number_m",
            "guide_provenance",
            "energy_ws",
            "min_power",
            "full_recycle_s",
            "recycle_floor_s",
            "hss",
            "hss_loss_stops",
            "price",
            "battery_pops",
            "thermal_pops_per_min",
            "notes",
        ]
        widgets = {"notes": forms.Textarea(attrs={"rows": 2})}

    def core_extras(self) -> dict[str, Any]:
        # The table is checked row by row; any row, and any guide number, lets the core judge the rest.
        return {"durations": [{"power": 1.0, "t01_s": 0.001}], "guide_number_m": 1.0}


class CameraForm(ItemForm):
    core_part = Camera

    def _ask_the_core(self, cleaned: dict[str, Any]) -> None:
        """A camera that every scene would refuse is refused here."""
        super()._ask_the_core(cleaned)
        if not self.errors:
            offered = {
                key: cleaned[key] for key in Camera.model_fields if cleaned.get(key) is not None
            }
            self._add_problems(about_a_camera(Camera.model_validate(offered)))

    sensor_width_mm = QuantityField("number", label="Sensor width, mm")
    sensor_height_mm = QuantityField("number", label="Sensor height, mm")
    sync_speed_s = QuantityField("shutter", label="Sync speed")
    curtain_travel_s = QuantityField(
        "duration", label="Curtain travel or readout", required=False, help_text="empty: not known"
    )
    curtain_travel_sd_s = QuantityField("duration", label="Its doubt (sd)", required=False)
    fastest_shutter_s = QuantityField("shutter", label="Fastest shutter", required=False)
    lag_s = QuantityField(
        "duration", label="Release lag", required=False, help_text="empty: not known"
    )
    lag_jitter_s = QuantityField(
        "duration", label="Its jitter", required=False, help_text="empty: not known"
    )
    mirror_s = QuantityField("duration", label="Of it, the mirror", required=False)
    first_curtain_s = QuantityField("duration", label="Of it, the first curtain", required=False)
    wake_s = QuantityField(
        "duration", label="Waking up adds", required=False, help_text="empty: not known"
    )
    drives = DrivesField(
        label="Drive modes, one a line",
        required=False,
        help_text="High; 12/s; focal plane; 1/8000 to 1/60; no HSS; formats …; lens …; focus priority",
    )

    class Meta:
        model = models.Camera
        fields = [
            "name",
            "sensor_width_mm",
            "sensor_height_mm",
            "pixels_wide",
            "pixels_high",
            "shutter",
            "sync_speed_s",
            "curtain_travel_s",
            "curtain_travel_sd_s",
            "first_edge",
            "fastest_shutter_s",
            "lag_s",
            "lag_jitter_s",
            "lag_provenance",
            "mirror_s",
            "first_curtain_s",
            "wake_s",
            "effective_f_number",
            "drives",
            "notes",
        ]
        widgets = {"notes": forms.Textarea(attrs={"rows": 2})}


class LensForm(ItemForm):
    focal_length_mm = QuantityField("number", label="Focal length, mm")
    widest_f_number = QuantityField("f_number", label="Widest aperture")
    nearest_m = QuantityField("length", label="Nearest distance")

    class Meta:
        model = models.Lens
        fields = ["name", "focal_length_mm", "widest_f_number", "nearest_m", "notes"]
        widgets = {"notes": forms.Textarea(attrs={"rows": 2})}

    def clean_focal_length_mm(self) -> float:
        value = self.cleaned_data["focal_length_mm"]
        if not 0 < value <= 10_000:
            raise forms.ValidationError("Focal length must be above 0 and at most 10 000 mm.")
        return float(value)


class TriggerForm(ItemForm):
    core_part = ChainLink
    lag_s = QuantityField("duration", label="Lag", required=False, help_text="empty: not known")
    jitter_s = QuantityField(
        "duration", label="Jitter (sd)", required=False, help_text="empty: not known"
    )

    resolution_s = QuantityField(
        "duration",
        label="Delay in steps of",
        required=False,
        help_text="of a unit; empty: not known",
    )
    lockout_s = QuantityField(
        "duration",
        label="Locked out after",
        required=False,
        help_text="of a unit; empty: not known",
    )

    class Meta:
        model = models.Trigger
        fields = [
            "name",
            "kind",
            "lag_s",
            "jitter_s",
            "lag_provenance",
            "resolution_s",
            "lockout_s",
            "notes",
        ]
        widgets = {"notes": forms.Textarea(attrs={"rows": 2})}

    def _ask_the_core(self, cleaned: dict[str, Any]) -> None:
        """Each kind of link has bounds of its own."""
        self.core_part = LINK_KINDS.get(str(cleaned.get("kind")), ChainLink)
        super()._ask_the_core(cleaned)


class ModifierForm(ItemForm):
    loss_stops = QuantityField("stops", label="Loss, stops")
    source_size_m = QuantityField("length", label="Longest side")

    class Meta:
        model = models.Modifier
        fields = ["name", "loss_stops", "source_size_m", "notes"]
        widgets = {"notes": forms.Textarea(attrs={"rows": 2})}

    def clean_loss_stops(self) -> float:
        value = self.cleaned_data["loss_stops"]
        if not -10 <= value <= 30:
            raise forms.ValidationError("Loss must be between −10 and 30 stops.")
        return float(value)


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
        return not any(str(self.data.get(cell, "")).strip() for cell in ("power", "t01", "t05"))

    @property
    def complete(self) -> bool:
        """Whether it says something: a power, and at least one of the two times."""
        typed = {cell: str(self.data.get(cell, "")).strip() for cell in ("power", "t01", "t05")}
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
        if self._known and self._known.power == power:
            kept = self._known
        else:
            kept = None
        return {
            **{key: getattr(kept, key, None) for key in ("light_stops", "cct_k", "duv")},
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
