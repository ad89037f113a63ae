"""Forms of the kit. They speak people's units and put the core's refusal on the field at fault."""

from typing import Any

from django import forms
from pydantic import ValidationError as CoreRefusal

from rapzel.core import scene as core
from rapzel.core.errors import UnitError
from rapzel.kit import models
from rapzel.ui.quantities import QUANTITIES, QuantityField


class ItemForm(forms.ModelForm):
    """A form of quantities: what a field still shows keeps the value it stands for, digits not shown included."""

    core_part: type[core.Part] | None = None  # the core's class that must accept what is entered

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or self.cleaned_data
        for name, field in self.fields.items():
            if isinstance(field, QuantityField) and name in cleaned and name not in self.changed_data:
                cleaned[name] = getattr(self.instance, name)
        if self.core_part is not None and not self.errors:
            self._ask_the_core(cleaned)
        return cleaned

    def _ask_the_core(self, cleaned: dict[str, Any]) -> None:
        assert self.core_part is not None
        offered = {key: cleaned[key] for key in self.core_part.model_fields if key in cleaned}
        try:
            self.core_part.model_validate({**self.core_extras(), **offered})
        except CoreRefusal as refusal:
            for each in refusal.errors(include_url=False):
                name = str(each["loc"][0]) if each["loc"] else ""
                self.add_error(name if name in self.fields else None, each["msg"].removeprefix("Value error, "))

    def core_extras(self) -> dict[str, Any]:
        """What the core's class needs besides the form's own fields."""
        return {}


class StrobeForm(ItemForm):
    core_part = core.Strobe
    guide_number_m = QuantityField("length", label="Guide number, ISO 100", help_text="60, 60 m, 197 ft")
    energy_ws = QuantityField("number", label="Energy, Ws", required=False)
    min_power = QuantityField("power", label="Lowest power", required=False, help_text="1/256, -8 stops")
    full_recycle_s = QuantityField("duration", label="Full recycle", required=False)
    recycle_floor_s = QuantityField("duration", label="Recycle floor")
    hss_loss_stops = QuantityField("stops", label="HSS loss, stops", help_text="the strobe's own, beside the slit's")
    price = QuantityField("number", label="Price", required=False, help_text="in one currency, to compare")
    battery_pops = QuantityField("number", label="Pops of a charge", required=False, help_text="at full power")

    class Meta:
        model = models.Strobe
        fields = [
            "name",
            "circuit",
            "guide_number_m",
            "energy_ws",
            "min_power",
            "full_recycle_s",
            "recycle_floor_s",
            "hss",
            "hss_loss_stops",
            "price",
            "battery_pops",
            "notes",
        ]
        widgets = {"notes": forms.Textarea(attrs={"rows": 2})}

    def core_extras(self) -> dict[str, Any]:
        # The table is checked by SettingRows; any row lets the core judge the rest.
        return {"durations": [{"power": 1.0, "t01_s": 0.001}]}


class CameraForm(ItemForm):
    core_part = core.Camera
    sensor_width_mm = QuantityField("number", label="Sensor width, mm")
    sensor_height_mm = QuantityField("number", label="Sensor height, mm")
    sync_speed_s = QuantityField("shutter", label="Sync speed")
    curtain_travel_s = QuantityField("duration", label="Curtain travel or readout")
    fastest_shutter_s = QuantityField("shutter", label="Fastest shutter", required=False)
    lag_s = QuantityField("duration", label="Release lag")
    lag_jitter_s = QuantityField("duration", label="Its jitter")

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
            "fastest_shutter_s",
            "lag_s",
            "lag_jitter_s",
            "lag_provenance",
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
    core_part = core.Link
    lag_s = QuantityField("duration", label="Lag")
    jitter_s = QuantityField("duration", label="Jitter (sd)")

    class Meta:
        model = models.Trigger
        fields = ["name", "kind", "lag_s", "jitter_s", "lag_provenance", "notes"]
        widgets = {"notes": forms.Textarea(attrs={"rows": 2})}


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


class SettingRows:
    """The duration table as typed: parallel lists, one row a setting. Empty rows are left out."""

    COLUMNS = ("mode", "power", "t01", "t05", "provenance")

    def __init__(self, data: Any, known: list[models.DurationSetting]) -> None:
        lists = [data.getlist(f"setting-{column}") for column in self.COLUMNS]
        self.typed = [dict(zip(self.COLUMNS, row, strict=False)) for row in zip(*lists, strict=False)]
        self._known = known
        self.errors: list[str] = []
        self.rows = [row for place, typed in enumerate(self.typed) if (row := self._read(place, typed))]
        self._ask_the_core()

    def _number(self, quantity: str, text: str, known: Any) -> float | None:
        """The value of a cell; a cell that still shows a known value keeps all of its digits."""
        if not text.strip():
            return None
        if known is not None and QUANTITIES[quantity].show(known) == text.strip():
            return known
        return QUANTITIES[quantity].parse(text)

    def _known_as(self, typed: dict[str, str]) -> models.DurationSetting | None:
        """The stored setting that a row still shows, told by its mode and power: rows come and go while one edits."""
        shown = QUANTITIES["power"].show
        alike = [
            setting
            for setting in self._known
            if setting.mode == typed["mode"].strip() and shown(setting.power) == typed["power"].strip()
        ]
        exact = [setting for setting in alike if setting.provenance == typed["provenance"]]
        return next(iter(exact or alike), None)

    def _read(self, place: int, typed: dict[str, str]) -> dict[str, Any] | None:
        if not any(typed[cell].strip() for cell in ("power", "t01", "t05")):
            return None
        known = self._known_as(typed)
        try:
            return {
                **{key: getattr(known, key, None) for key in ("light_stops", "cct_k", "duv")},
                "mode": typed["mode"].strip()[:40],
                "power": self._number("power", typed["power"], known and known.power) or 0.0,
                "t01_s": self._number("duration", typed["t01"], known and known.t01_s),
                "t05_s": self._number("duration", typed["t05"], known and known.t05_s),
                "provenance": typed["provenance"],
            }
        except UnitError as error:
            self.errors.append(f"Row {place + 1}: {error}")
            return None

    def _ask_the_core(self) -> None:
        seen = set()
        for place, row in enumerate(self.rows):
            try:
                core.Setting.model_validate({key: value for key, value in row.items() if key != "mode"})
            except CoreRefusal as refusal:
                said = refusal.errors(include_url=False)[0]["msg"].removeprefix("Value error, ")
                self.errors.append(f"Row {place + 1}: {said}")
            key = (row["mode"], row["power"], row["provenance"])
            if key in seen:
                self.errors.append(f"Row {place + 1}: this power is in the table twice with the same provenance.")
            seen.add(key)
        if not self.rows and not self.errors:
            self.errors.append("A strobe needs at least one setting: a power with its t.1 or its t.5.")
