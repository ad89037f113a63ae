"""What a photographer owns. Each thing can say itself in the core's words: `to_core()`."""

import copy
import secrets
from typing import TYPE_CHECKING, Any, ClassVar

from django.conf import settings
from django.db import models
from django.db.models import Func, Value
from django.db.models.lookups import Exact

from rapzel.core.shared.part import Part
from rapzel.core.trigger.links import Device
from rapzel.kit.figures import columns_of, with_figures
from rapzel.kit.parts import (
    KitCamera,
    KitLens,
    KitModifier,
    KitStrobe,
    KitTrigger,
)
from rapzel.ui.owned import Deletable, Owned


class Item(Deletable):
    """Anything in the kit: an owner, a name, and figures that its class describes; a deletion can be undone."""

    # the class that says what figures it has (`with_figures`)
    PART: ClassVar[type[Part]]
    USUAL: ClassVar[dict[str, Any]]  # what a new one has

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+"
    )
    name = models.CharField(max_length=200)
    notes = models.TextField(blank=True, max_length=2000)
    changed_at = models.DateTimeField(auto_now=True)
    figures = models.JSONField("by the names of its class", default=dict)

    objects = Owned.as_manager()

    class Meta:
        abstract = True
        ordering = ["name", "pk"]
        constraints = [
            models.CheckConstraint(
                condition=Exact(
                    Func("figures", function="jsonb_typeof"), Value("object")
                ),
                name="%(class)s_figures_are_an_object",
            )
        ]

    def __str__(self) -> str:
        return self.name

    if TYPE_CHECKING:

        def __getattr__(self, name: str) -> Any:
            """The figures of its class are attributes, too."""

    def save(self, *args: Any, **kwargs: Any) -> None:
        """A new thing is stored with all that it begins with; a change of a figure is one of their column."""
        # Usual values are copied: a list among them would be shared by all that are made.
        if self._state.adding:
            self.figures = {**copy.deepcopy(self.USUAL), **self.figures}
        if kwargs.get("update_fields") is not None:
            kwargs["update_fields"] = columns_of(self.PART, kwargs["update_fields"])
        super().save(*args, **kwargs)

    def all_figures(self) -> dict[str, Any]:
        """Its name and every figure, by the names of its class."""
        return {"name": self.name, **{key: getattr(self, key) for key in self.USUAL}}

    def to_core(self) -> dict[str, Any]:
        """The item as the core's documents write it."""
        return self.all_figures()


class Provenance(models.TextChoices):
    MEASURED = "measured", "Measured"
    CLAIMED = "claimed", "Claimed"
    ESTIMATED = "estimated", "Estimated"


@with_figures(KitStrobe, circuit="quenched")
class Strobe(Item):
    """A flash with its duration tables: one without a name, or one for each mode."""

    def to_core(self) -> dict[str, Any]:
        tables: dict[str, list[dict[str, Any]]] = {}
        for setting in self.settings.all():
            # Rows without a mode are the strobe's own table.
            tables.setdefault(setting.mode, []).append(setting.to_core())
        modes = [
            {"name": mode, "durations": rows} for mode, rows in tables.items() if mode
        ]
        return {**self.all_figures(), "durations": tables.get("", []), "modes": modes}


def new_key() -> str:
    """A key by which a page means a row, also one that is not stored yet."""
    return secrets.token_hex(6)


class DurationSetting(models.Model):
    """One row of a strobe's duration table."""

    key = models.CharField(max_length=20, default=new_key)
    strobe = models.ForeignKey(
        Strobe, on_delete=models.CASCADE, related_name="settings"
    )
    mode = models.CharField(max_length=200, blank=True)
    power = models.FloatField()
    t01_s = models.FloatField(null=True, blank=True)
    t05_s = models.FloatField(null=True, blank=True)
    provenance = models.CharField(
        max_length=10, choices=Provenance.choices, default=Provenance.CLAIMED
    )

    # measured, against full power of the mode
    light_stops = models.FloatField(null=True, blank=True)
    cct_k = models.FloatField(null=True, blank=True)
    duv = models.FloatField(null=True, blank=True)

    STORED = ("power", "t01_s", "t05_s", "provenance", "light_stops", "cct_k", "duv")

    class Meta:
        ordering = ["mode", "-power", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["strobe", "key"], name="one_row_a_key")
        ]

    def __str__(self) -> str:
        return f"{self.strobe_id} at {self.power:g}"

    def to_core(self) -> dict[str, Any]:
        return {
            key: value
            for key, value in self.stored().items()
            # A duration that is not known is said to be so; a colour that is not is left out.
            if value is not None or key in _ALWAYS
        }

    def stored(self) -> dict[str, Any]:
        """Every figure of the row, known or not."""
        return {key: getattr(self, key) for key in self.STORED}


_ALWAYS = ("power", "t01_s", "t05_s", "provenance")


class TableRevision(models.Model):
    """A strobe's table as it was before a change, so that the change can be undone."""

    strobe = models.ForeignKey(
        Strobe, on_delete=models.CASCADE, related_name="revisions"
    )
    rows = models.JSONField()
    what = models.CharField("before which change", max_length=200)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"{self.strobe_id} before {self.what}"


class FigureRevision(models.Model):
    """Figures of a trigger or camera as they were before a measurement was stored in it."""

    owner = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+"
    )
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


@with_figures(
    KitCamera,
    sensor_width_mm=36.0,
    sensor_height_mm=24.0,
    pixels_wide=6000,
    pixels_high=4000,
)
class Camera(Item):
    """A body: sensor, shutter and how long it takes from the release to the sync contact."""


@with_figures(KitLens, focal_length_mm=50.0)
class Lens(Item):
    """A lens; a scene takes its focal length."""

    class Meta(Item.Meta):
        verbose_name_plural = "lenses"

    def to_core(self) -> dict[str, Any]:
        return {"name": self.name, "focal_length_mm": self.focal_length_mm}


@with_figures(KitTrigger)
class Trigger(Item):
    """A trigger unit or sensor: a link of the chain."""

    def to_core(self) -> dict[str, Any]:
        """Steps and lock-out are those of a unit; no other link has them."""
        own = self.all_figures()
        # (a scene would refuse them in a microphone)
        if self.kind == Device.model_fields["kind"].default:
            return own
        return {key: value for key, value in own.items() if key not in _OF_A_UNIT}


_OF_A_UNIT = ("resolution_s", "lockout_s")


@with_figures(KitModifier)
class Modifier(Item):
    """What stands between a light and the subject: its loss, and how large it makes the source."""
