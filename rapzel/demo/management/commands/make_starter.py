"""manage.py make_starter : renews the starter kit; its durations come from the pulse model with a seed."""

import json
import random
from typing import Any

from django.core.management.base import BaseCommand

from rapzel.core.pulse.shape import Discharge, quenched_at
from rapzel.kit.services import STARTER

# The same kit each time: a file that ships changes only when somebody means it to.
SEED = 4711


def _rounded(value: float) -> float:
    # Three digits, as an oscilloscope is read.
    return float(f"{value:.3g}")


def _table(
    rng: random.Random,
    decay_s: float,
    afterglow_s: float,
    powers: list[float],
    provenance: str,
) -> list[dict[str, Any]]:
    """Settings of a made-up quenched strobe, with the scatter of a real measurement."""
    rows = []
    for power in powers:
        pulse = quenched_at(power, decay_s, decay_s / 100, afterglow_s)
        # One scatter for both times: a pop that lasts longer does so as a whole.
        scatter = 1 + rng.gauss(0, 0.02)
        row = {
            "power": power,
            "t01_s": _rounded(pulse.width_s(0.1) * scatter),
            "t05_s": _rounded(pulse.width_s(0.5) * scatter),
        }
        rows.append({**row, "provenance": provenance})
    return rows


def _claimed(decay_s: float, power: float = 1.0, factor: float = 1.0) -> dict[str, Any]:
    # Makers give t.5 at full power, and seldom more; some of them flatter it.
    half = Discharge(decay_s, decay_s / 100).width_s(0.5) * factor
    return {"power": power, "t05_s": _rounded(half), "provenance": "claimed"}


def starter_kit() -> dict[str, Any]:
    """The kit document that ships with Rapzel."""
    rng = random.Random(SEED)
    stops = [2.0**-stop for stop in range(0, 9, 2)]
    monobloc = {
        "name": "Monobloc 600 quenched",
        "circuit": "quenched",
        "energy_ws": 600.0,
        "guide_number_m": 60.0,
        "min_power": 1 / 256,
        "full_recycle_s": 0.9,
        "recycle_floor_s": 0.02,
        "hss": True,
        "hss_loss_stops": 0.7,
        "battery_pops": 280.0,
        "thermal_pops_per_min": 30.0,
        "modes": [
            {
                "name": "speed",
                "durations": _table(rng, 0.0019, 28e-6, stops, "measured"),
            },
            {
                "name": "constant colour",
                "durations": _table(rng, 0.0023, 90e-6, stops, "measured"),
            },
        ],
        "notes": "Speed mode is shorter; its colour drifts from pop to pop.",
    }
    hot_shoe = {
        "name": "Hot-shoe 60",
        "circuit": "quenched",
        "energy_ws": 75.0,
        "guide_number_m": 34.0,
        "guide_numbers": [
            {"zoom_mm": 24.0, "guide_number_m": 27.0},
            {"zoom_mm": 50.0, "guide_number_m": 40.0},
            {"zoom_mm": 105.0, "guide_number_m": 54.0},
            {"zoom_mm": 200.0, "guide_number_m": 60.0},
        ],
        "durations": [
            *_table(rng, 0.0011, 14e-6, [1.0], "claimed"),
            *_table(rng, 0.0011, 14e-6, [1 / 128], "claimed"),
        ],
        "min_power": 1 / 128,
        "full_recycle_s": 2.2,
        "recycle_floor_s": 0.05,
        "hss": True,
        "hss_loss_stops": 1.0,
        "battery_pops": 200.0,
        "thermal_pops_per_min": 8.0,
    }
    bank_pack = {
        "name": "Bank pack 2400",
        "circuit": "banks",
        "energy_ws": 2400.0,
        "guide_number_m": 115.0,
        "durations": [_claimed(0.0016), _claimed(0.0016, 1 / 8, 1 / 6)],
        "min_power": 1 / 16,
        "full_recycle_s": 2.0,
        "recycle_floor_s": 0.1,
        "thermal_pops_per_min": 12.0,
    }
    voltage = {
        "name": "Old voltage monobloc 500",
        "circuit": "voltage",
        "energy_ws": 500.0,
        "guide_number_m": 52.0,
        "durations": [_claimed(0.0016)],
        "min_power": 1 / 32,
        "full_recycle_s": 1.8,
        "recycle_floor_s": 0.2,
        "notes": "Turning it down makes it weaker, not shorter.",
    }
    full_frame = {
        "name": "Full-frame body",
        "sensor_width_mm": 36.0,
        "sensor_height_mm": 24.0,
        "pixels_wide": 6000,
        "pixels_high": 4000,
        "shutter": "focal_plane",
        "sync_speed_s": 0.004,
        "curtain_travel_s": 0.0032,
        "fastest_shutter_s": 0.000125,
        "lag_s": 0.055,
        "lag_jitter_s": 0.002,
        "first_curtain_s": 0.012,
        "wake_s": 0.35,
        "drives": [
            {
                "name": "High, electronic",
                "frames_per_s": 20.0,
                "shutters": ["rolling"],
                "flash": False,
                "hss": False,
                "fastest_s": 1 / 16000,
                "slowest_s": 1 / 60,
                "formats": "compressed raw",
            },
            {
                "name": "High",
                "frames_per_s": 10.0,
                "shutters": ["focal_plane"],
                "hss": False,
                "fastest_s": 1 / 8000,
                "slowest_s": 1 / 60,
                "focus_priority": True,
            },
            {"name": "Low", "frames_per_s": 5.0, "shutters": ["focal_plane"]},
        ],
    }
    global_body = {
        "name": "Global-shutter body",
        "sensor_width_mm": 35.6,
        "sensor_height_mm": 23.8,
        "pixels_wide": 6000,
        "pixels_high": 4000,
        "shutter": "global",
        "sync_speed_s": 0.0000125,
        "curtain_travel_s": 0.0,
        "fastest_shutter_s": 0.0000125,
        "lag_s": 0.02,
        "lag_jitter_s": 0.001,
    }
    reflex = {
        "name": "Reflex body",
        "sensor_width_mm": 36.0,
        "sensor_height_mm": 24.0,
        "pixels_wide": 5500,
        "pixels_high": 3670,
        "shutter": "focal_plane",
        "sync_speed_s": 0.004,
        "curtain_travel_s": 0.003,
        "fastest_shutter_s": 0.000125,
        "lag_s": 0.085,
        "lag_jitter_s": 0.003,
        "mirror_s": 0.048,
        "wake_s": 0.25,
    }
    return {
        "format": "rapzel.kit",
        "version": 1,
        "strobes": [monobloc, hot_shoe, bank_pack, voltage],
        "cameras": [full_frame, global_body, reflex],
        "lenses": [
            {
                "name": "24 mm",
                "focal_length_mm": 24.0,
                "widest_f_number": 1.8,
                "nearest_m": 0.25,
            },
            {
                "name": "50 mm",
                "focal_length_mm": 50.0,
                "widest_f_number": 1.4,
                "nearest_m": 0.45,
            },
            {
                "name": "85 mm",
                "focal_length_mm": 85.0,
                "widest_f_number": 1.8,
                "nearest_m": 0.8,
            },
            {
                "name": "100 mm close-up",
                "focal_length_mm": 100.0,
                "widest_f_number": 2.8,
                "nearest_m": 0.3,
            },
            {
                "name": "200 mm",
                "focal_length_mm": 200.0,
                "widest_f_number": 2.8,
                "nearest_m": 1.4,
            },
        ],
        "triggers": [
            {
                "name": "Radio trigger",
                "kind": "radio",
                "lag_s": 0.0004,
                "jitter_s": 0.00005,
            },
            {
                "name": "Trigger unit",
                "kind": "device",
                "lag_s": 0.0003,
                "jitter_s": 0.00003,
                "resolution_s": 0.0001,
                "lockout_s": 0.5,
            },
            {
                "name": "Sound trigger",
                "kind": "sound",
                "lag_s": 0.0002,
                "jitter_s": 0.0001,
            },
            {"name": "Beam pair", "kind": "beam", "lag_s": 0.0001, "jitter_s": 0.00002},
            {
                "name": "Valve controller",
                "kind": "device",
                "lag_s": 0.004,
                "jitter_s": 0.0006,
            },
        ],
        "modifiers": [
            {"name": "Bare reflector", "loss_stops": 0.0, "source_size_m": 0.18},
            {"name": "Softbox 90", "loss_stops": 1.3, "source_size_m": 0.9},
            {"name": "Strip 30 × 120", "loss_stops": 1.6, "source_size_m": 1.2},
            {"name": "Grid 20°", "loss_stops": 0.9, "source_size_m": 0.18},
            {"name": "Blue half gel", "loss_stops": 0.7, "source_size_m": 0.18},
        ],
    }


class Command(BaseCommand):
    help = "Writes the starter kit that ships with Rapzel."

    def handle(self, *args: Any, **options: Any) -> None:
        text = json.dumps(starter_kit(), indent=1, ensure_ascii=False)
        STARTER.write_text(text + "\n", "utf-8")
        self.stdout.write(f"wrote {STARTER.name}")
