"""One line about an item of the kit, for lists."""

from typing import Any

from django import template

from rapzel.core import units

register = template.Library()

FACTS = {
    "strobes": lambda i: f"{i.get_circuit_display().split(' (')[0].lower()}, GN {i.guide_number_m:g}" + (f", {i.energy_ws:g} Ws" if i.energy_ws else "") + (", HSS" if i.hss else ""),
    "cameras": lambda i: f"{i.sensor_width_mm:g} × {i.sensor_height_mm:g} mm, {i.get_shutter_display().lower()}, sync {units.format_shutter(i.sync_speed_s)}",
    "lenses": lambda i: f"{i.focal_length_mm:g} mm, {units.format_f_number(i.widest_f_number)}",
    "triggers": lambda i: f"{i.kind}, lag {units.format_time(i.lag_s)} ± {units.format_time(i.jitter_s)}",
    "modifiers": lambda i: f"takes {units.format_number(i.loss_stops)} stops",
}  # fmt: skip


@register.filter
def facts(item: Any, kind: str) -> str:
    """What matters most about the item."""
    return str(FACTS[kind](item))
