"""The kinds of things in the kit, each with its words, its form and its columns. A new kind is a line here."""

from dataclasses import dataclass

from rapzel.kit import forms, models


@dataclass(frozen=True, slots=True)
class Kind:
    """One kind of kit: how it is called, stored, edited and listed."""

    slug: str  # in addresses and documents
    one: str
    many: str
    model: type[models.Item]
    form: type[forms.ItemForm]
    columns: tuple[str, ...]  # of its CSV, after the name; strobes add their settings
    newer: tuple[str, ...] = ()  # columns that files of earlier versions have not


KINDS: dict[str, Kind] = {
    kind.slug: kind
    for kind in (
        Kind(
            "strobes",
            "strobe",
            "Strobes",
            models.Strobe,
            forms.StrobeForm,
            (
                "circuit",
                "energy_ws",
                "guide_number_m",
                "guide_provenance",
                "min_power",
                "full_recycle_s",
                "recycle_floor_s",
                "hss",
                "hss_loss_stops",
                "price",
                "battery_pops",
                "thermal_pops_per_min",
            ),
            ("guide_provenance", "thermal_pops_per_min"),
        ),
        Kind(
            "cameras",
            "camera",
            "Cameras",
            models.Camera,
            forms.CameraForm,
            models.Camera.CORE_KEYS[1:],
            (
                "effective_f_number",
                "mirror_s",
                "first_curtain_s",
                "curtain_travel_sd_s",
                "first_edge",
                "wake_s",
            ),
        ),
        Kind(
            "lenses",
            "lens",
            "Lenses",
            models.Lens,
            forms.LensForm,
            ("focal_length_mm", "widest_f_number", "nearest_m"),
        ),
        Kind(
            "triggers",
            "trigger",
            "Triggers and sensors",
            models.Trigger,
            forms.TriggerForm,
            ("kind", "lag_s", "jitter_s", "lag_provenance", "resolution_s", "lockout_s"),
            ("resolution_s", "lockout_s"),
        ),
        Kind(
            "modifiers",
            "modifier",
            "Modifiers",
            models.Modifier,
            forms.ModifierForm,
            ("loss_stops", "source_size_m"),
        ),
    )
}
