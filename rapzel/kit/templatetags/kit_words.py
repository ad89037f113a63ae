"""One line about an item of the kit, for lists."""

from typing import Any

from django import template

from rapzel.core.document.gear import CIRCUITS, SHUTTERS
from rapzel.core.shared import units
from rapzel.kit.parts import LINKS

register = template.Library()


def _strobe(item: Any) -> str:
    circuit = CIRCUITS[item.circuit].split(" (")[0].lower()
    if item.energy_ws:
        energy = f", {item.energy_ws:g} Ws"
    else:
        energy = ""
    if item.guide_number_m is None:
        light = "guide number not said yet"
    else:
        light = f"GN {item.guide_number_m:g}"
    return f"{circuit}, {light}{energy}{', HSS' if item.hss else ''}"


def _camera(item: Any) -> str:
    sensor = f"{item.sensor_width_mm:g} × {item.sensor_height_mm:g} mm"
    return f"{sensor}, {SHUTTERS[item.shutter].lower()}, sync {units.format_shutter(item.sync_speed_s)}"


def _time(value_s: float | None) -> str:
    if value_s is None:
        return "not known"
    return units.format_time(value_s)


FACTS = {
    "strobes": _strobe,
    "cameras": _camera,
    "lenses": lambda item: (
        f"{item.focal_length_mm:g} mm, {units.format_f_number(item.widest_f_number)}"
    ),
    "triggers": lambda item: (
        f"{LINKS[item.kind].lower()}, lag {_time(item.lag_s)} ± {_time(item.jitter_s)}"
    ),
    "modifiers": lambda item: f"takes {units.format_number(item.loss_stops)} stops",
}


@register.filter
def facts(item: Any, kind: str) -> str:
    """What matters most about the item; one with figures that no gear has says so, and closes no list."""
    try:
        return str(FACTS[kind](item))
    except (ArithmeticError, KeyError, ValueError):
        return "has a figure that no gear has: open it and set it right"
