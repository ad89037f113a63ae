"""What a photographer owns. Each thing can say itself in the core's words: `to_core()`."""

import secrets
from typing import Any

from django.conf import settings
from django.db import models

from rapzel.core.shared.part import Part
from rapzel.core.trigger.links import KINDS as LINK_KINDS
from rapzel.core.trigger.links import Device
from rapzel.kit.parts import (
    KitCamera,
    KitLens,
    KitModifier,
    KitStrobe,
    KitTrigger,
    figures_of,
)
from rapzel.ui.owned import Deletable, Owned


class Item(Deletable):
    """Anything in the kit: it has an owner and a name, and a deletion that can be undone."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    name = models.CharField(max_length=200)
    notes = models.TextField(blank=True, max_length=2000)
    changed_at = models.DateTimeField(auto_now=True)

    objects = Owned.as_manager()
    PART: type[Part]  # the class that says what figures it has

    class Meta:
        abstract = True
        ordering = ["name", "pk"]

    def __str__(self) -> str:
        return self.name

    @property
    def figures(self) -> dict[str, Any]:
        """Its name and its figures by the names of its class."""
        return {"name": self.name, **{key: getattr(self, key) for key in figures_of(self.PART)}}

    def to_core(self) -> dict[str, Any]:
        """The item as the core's documents write it."""
        return self.figures


class Circuit(models.TextChoices):
    QUENCHED = "quenched", "Quenched (IGBT)"
    VOLTAGE = "voltage", "Voltage-controlled"
    BANKS = "banks", "Switched banks"


class Provenance(models.TextChoices):
    MEASURED = "measured", "Measured"
    CLAIMED = "claimed", "Claimed"
    ESTIMATED = "estimated", "Estimated"


class Strobe(Item):
    """A flash with its duration tables: one without a name, or one for each mode."""

    PART = KitStrobe

    circuit = models.CharField(max_length=10, choices=Circuit.choices, default=Circuit.QUENCHED)
    energy_ws = models.FloatField(null=True, blank=True)
    guide_number_m = models.FloatField(null=True, blank=True)  # not known until it is said
    guide_provenance = models.CharField(
        "light figures are", max_length=10, choices=Provenance.choices, default=Provenance.CLAIMED
    )
    min_power = models.FloatField(null=True, blank=True)
    full_recycle_s = models.FloatField(null=True, blank=True)
    recycle_floor_s = models.FloatField(default=0.0)
    hss = models.BooleanField("high-speed sync", default=False)
    hss_loss_stops = models.FloatField(default=0.0)
    guide_numbers = models.JSONField(default=list, blank=True)
    price = models.FloatField(null=True, blank=True)
    battery_pops = models.FloatField("pops of a charge at full power", null=True, blank=True)
    thermal_pops_per_min = models.FloatField("pops a minute for long", null=True, blank=True)

    def to_core(self) -> dict[str, Any]:
        tables: dict[str, list[dict[str, Any]]] = {}
        for setting in self.settings.all():
            tables.setdefault(setting.mode, []).append(setting.to_core())
        modes = [{"name": mode, "durations": rows} for mode, rows in tables.items() if mode]
        return {**self.figures, "durations": tables.get("", []), "modes": modes}


def new_key() -> str:
    """A key by which a page means a row, also one that is not stored yet."""
    return secrets.token_hex(6)


class DurationSetting(models.Model):
    """One row of a strobe's duration table."""

    key = models.CharField(max_length=20, default=new_key)
    strobe = models.ForeignKey(Strobe, on_delete=models.CASCADE, related_name="settings")
    mode = models.CharField(max_length=200, blank=True)
    power = models.FloatField()
    t01_s = models.FloatField(null=True, blank=True)
    t05_s = models.FloatField(null=True, blank=True)
    provenance = models.CharField(
        max_length=10, choices=Provenance.choices, default=Provenance.CLAIMED
    )

    light_stops = models.FloatField(
        null=True, blank=True
    )  # measured, against full power of the mode
    cct_k = models.FloatField(null=True, blank=True)
    duv = models.FloatField(null=True, blank=True)

    STORED = ("power", "t01_s", "t05_s", "provenance", "light_stops", "cct_k", "duv")

    class Meta:
        ordering = ["mode", "-power", "pk"]
        constraints = [models.UniqueConstraint(fields=["strobe", "key"], name="one_row_a_key")]

    def __str__(self) -> str:
        return f"{self.strobe_id} at {self.power:g}"

    def to_core(self) -> dict[str, Any]:
        return {
            key: value
            for key, value in self.stored().items()
            if value is not None or key in _ALWAYS
        }

    def stored(self) -> dict[str, Any]:
        """Every figure of the row, known or not."""
        return {key: getattr(self, key) for key in self.STORED}


_ALWAYS = ("power", "t01_s", "t05_s", "provenance")


class TableRevision(models.Model):
    """A strobe's table as it was before a change, so that the change can be undone."""

    strobe = models.ForeignKey(Strobe, on_delete=models.CASCADE, related_name="revisions")
    rows = models.JSONField()
    what = models.CharField("before which change", max_length=200)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.strobe_id} before {self.what}"


class FigureRevision(models.Model):
    """Figures of a trigger or camera as they were before a measurement was stored in it."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    slug = models.CharField("kind of kit", max_length=20)
    item = models.PositiveBigIntegerField("key of the item")
    figures = models.JSONField()
    what = models.CharField("before which change", max_length=200)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]
        indexes = [models.Index(fields=["owner", "slug", "item"])]

    def __str__(self) -> str:
        return f"{self.slug} {self.item} before {self.what}"


class Camera(Item):
    """A body: sensor, shutter and how long it takes from the release to the sync contact."""

    PART = KitCamera

    class Shutter(models.TextChoices):
        FOCAL_PLANE = "focal_plane", "Focal plane"
        LEAF = "leaf", "Leaf"
        ROLLING = "rolling", "Rolling electronic"
        GLOBAL = "global", "Global electronic"

    sensor_width_mm = models.FloatField(default=36.0)
    sensor_height_mm = models.FloatField(default=24.0)
    pixels_wide = models.PositiveIntegerField(default=6000)
    pixels_high = models.PositiveIntegerField(default=4000)
    shutter = models.CharField(max_length=12, choices=Shutter.choices, default=Shutter.FOCAL_PLANE)
    sync_speed_s = models.FloatField(default=0.005)
    curtain_travel_s = models.FloatField(null=True, blank=True)  # null, here and below: not known
    fastest_shutter_s = models.FloatField(null=True, blank=True)
    effective_f_number = models.BooleanField("shows the effective f-number near", default=False)
    lag_s = models.FloatField(null=True, blank=True)
    lag_jitter_s = models.FloatField(null=True, blank=True)
    lag_provenance = models.CharField(
        "its lag is", max_length=10, choices=Provenance.choices, default=Provenance.CLAIMED
    )
    mirror_s = models.FloatField(null=True, blank=True)
    first_curtain_s = models.FloatField(null=True, blank=True)
    wake_s = models.FloatField(null=True, blank=True)
    lags_s = models.JSONField("measured lags", default=list, blank=True)
    curtain_travel_sd_s = models.FloatField(null=True, blank=True)
    first_edge = models.CharField(
        "uncovered first",
        max_length=5,
        default="lower",
        choices=[("lower", "Lower edge of the picture"), ("upper", "Upper edge of the picture")],
    )
    drives = models.JSONField("drive modes", default=list, blank=True)


class Lens(Item):
    """A lens; a scene takes its focal length."""

    PART = KitLens

    focal_length_mm = models.FloatField(default=50.0)
    widest_f_number = models.FloatField(default=2.8)
    nearest_m = models.FloatField("nearest distance", default=0.45)

    class Meta(Item.Meta):
        verbose_name_plural = "lenses"

    def to_core(self) -> dict[str, Any]:
        return {"name": self.name, "focal_length_mm": self.focal_length_mm}


def link_choices() -> list[tuple[str, str]]:
    """Every kind of link that the core knows, and its title."""
    return [(kind, link.title.capitalize()) for kind, link in LINK_KINDS.items()]


class Trigger(Item):
    """A trigger unit or sensor: a link of the chain."""

    PART = KitTrigger

    kind = models.CharField(max_length=10, choices=link_choices, default="device")
    lag_s = models.FloatField(null=True, blank=True)  # not known until it is said or measured
    jitter_s = models.FloatField(null=True, blank=True)
    lag_provenance = models.CharField(
        "its lag is", max_length=10, choices=Provenance.choices, default=Provenance.CLAIMED
    )

    resolution_s = models.FloatField(null=True, blank=True)  # of a unit: steps of its delay
    lockout_s = models.FloatField(null=True, blank=True)
    lags_s = models.JSONField("measured lags", default=list, blank=True)

    def to_core(self) -> dict[str, Any]:
        keys = ("name", "kind", "lag_s", "jitter_s", "lag_provenance", "lags_s")
        unit = (
            ("resolution_s", "lockout_s")
            if self.kind == Device.model_fields["kind"].default
            else ()
        )
        return {key: getattr(self, key) for key in (*keys, *unit)}


class Modifier(Item):
    """What stands between a light and the subject: its loss, and how large it makes the source."""

    PART = KitModifier

    loss_stops = models.FloatField(default=0.0)
    source_size_m = models.FloatField("longest side", default=0.0)
