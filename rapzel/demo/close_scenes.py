"""The demo's scenes that a sensor, a valve or a unit fires close by, as plans that name their gear; invented."""

from typing import Any

DROPS: dict[str, Any] = {
    "name": "Wax drops above water",
    "motion": {"kind": "fall", "height_m": 0.23, "speed_sd_m_s": 0.02},
    "camera": "Full-frame body",
    "lens": {
        "name": "100 mm close-up",
        "focal_length_mm": 100.0,
        "subject_distance_m": 0.45,
    },
    "exposure": {
        "method": "open_shutter",
        "shutter_s": 1.0,
        "f_number": 16.0,
        "iso": 800.0,
    },
    "criterion": {"kind": "print", "divisor": 1500.0},
    "ambient": {"ev100": -5.0, "trail_stops": 3.0, "clear_stops": 5.0},
    "lights": [
        {
            "name": "Behind",
            "strobe": "Hot-shoe 60",
            "power": 1 / 128,
            "distance_m": 0.4,
            "loss_stops": 1.0,
            "zoom_mm": 50.0,
        },
        {
            "name": "Front",
            "strobe": "Hot-shoe 60",
            "power": 1 / 128,
            "distance_m": 0.5,
            "loss_stops": 1.0,
            "zoom_mm": 50.0,
        },
    ],
    "trigger": {
        "fires": "flash",
        "latency_s": 0.0001,
        # All times count from the command to the first valve, whose own lag is in the drops' way.
        "links": [
            {"kind": "valve", "name": "Drop valves", "lag_s": 0.0, "jitter_s": 0.0007},
            {
                "kind": "device",
                "name": "Trigger unit",
                "lag_s": 0.0,
                "jitter_s": 0.00003,
                "resolution_s": 0.0001,
            },
        ],
        "set_delay_s": 0.3608,
    },
    "moment": {"at_s": 0.3609, "place_m": 0.008},
    # The second drop meets the jet of the first; five frames of the morning say how that one rises.
    "drops": {
        "valve_height_m": 0.28,
        "liquid": "wax",
        "diameter_m": 0.0042,
        "meet_height_m": 0.05,
        "valve_lag_s": 0.004,
        "valve_sd_s": 0.0006,
        "aside_sd_m": 0.0008,
        "resolution_s": 0.0001,
        "second_set_s": 0.1386,
        "observations": [
            {"flash_delay_s": delay, "height_m": height}
            for delay, height in (
                (0.33, 0.0233),
                (0.352, 0.0433),
                (0.372, 0.0586),
                (0.395, 0.0686),
                (0.42, 0.0725),
            )
        ],
    },
    "hazards": ["water", "hot"],
    "plan": {"minutes_per_try": 0.5, "keepers_wanted": 5},
    "rehearsal": {"subject": "drop", "background": "grey"},
}

# As its bench has measured them; mean 310 µs, sd 35 µs.
_MEASURED_LAGS_S = [
    0.000293, 0.000341, 0.000322, 0.000268, 0.000307, 0.000355, 0.000241, 0.000316, 0.000331, 0.000302, 0.000287,
    0.000368,
    0.000311, 0.000296, 0.000348, 0.000274, 0.000319, 0.000301, 0.000259, 0.000361,
]  # fmt: skip

GLASS: dict[str, Any] = {
    "name": "A glass that breaks",
    "motion": {"kind": "steady", "speed_m_s": 6.0, "angle_deg": 90.0, "speed_sd_m_s": 1.0},
    "camera": "Reflex body",
    "lens": {"name": "100 mm close-up", "focal_length_mm": 100.0, "subject_distance_m": 1.2},
    "exposure": {"method": "open_shutter", "shutter_s": 2.0, "f_number": 13.0, "iso": 200.0},
    "criterion": {"kind": "print", "divisor": 1500.0},
    "ambient": {"ev100": -4.0, "trail_stops": 3.0, "clear_stops": 5.0},
    "lights": [
        {
            "name": name, "strobe": "Hot-shoe 60", "power": 1 / 128, "distance_m": distance, "loss_stops": 0.0,
            "zoom_mm": 50.0,
        }
        for name, distance in (("Left", 0.6), ("Right", 0.6), ("Behind", 0.7))
    ],
    "trigger": {
        "fires": "flash",
        "latency_s": 0.0001,
        "links": [
            {
                "name": "Sound trigger", "kind": "sound", "lag_s": 0.00031, "jitter_s": 0.000035, "distance_m": 0.5,
                "lag_provenance": "measured", "lags_s": _MEASURED_LAGS_S, "temperature_c": 16.0,
                "humidity_percent": 60.0, "wall_m": 2.5,
            },
            {
                "name": "Trigger unit", "kind": "device", "lag_s": 0.0003, "jitter_s": 0.00003,
                "resolution_s": 0.0001, "lockout_s": 0.5,
            },
        ],
        "set_delay_s": 0.001,
    },
    # The shards have flown two centimetres; four later the picture is empty.
    "moment": {"at_s": 0.0034, "lasts_s": 0.003},
    "subject": {"extent_m": 0.1},
    "hazards": ["glass"],
    "plan": {"minutes_per_try": 4.0, "keepers_wanted": 2, "uses_up": "one glass"},
    "rehearsal": {"subject": "glass", "background": "black"},
    "takes": [
        ("early", {"trigger.set_delay_s": 0.0}, "Whole glass, hammer in it.", "1.6 ms early"),
        ("early", {}, "First cracks.", "0.8 ms early"),
        ("keep", {}, "Shards well apart.", "0.2 ms early"),
        ("early", {}, "Cracks again.", "0.7 ms early"),
        ("keep", {}, "", "0.3 ms early"),
    ],
}  # fmt: skip

MOTHS: dict[str, Any] = {
    "name": "Hawk-moths at the honeysuckle",
    "motion": {"kind": "steady", "speed_m_s": 1.2, "angle_deg": 90.0, "speed_sd_m_s": 0.35},
    "camera": "Full-frame body",
    "lens": {"name": "100 mm close-up", "focal_length_mm": 100.0, "subject_distance_m": 1.1},
    "exposure": {"method": "open_shutter", "shutter_s": 8.0, "f_number": 16.0, "iso": 250.0},
    "criterion": {"kind": "print", "divisor": 1500.0},
    "ambient": {"ev100": -6.0, "trail_stops": 3.0, "clear_stops": 5.0},
    "lights": [
        {
            "name": name, "strobe": "Hot-shoe 60", "power": 1 / 64, "distance_m": distance, "loss_stops": loss,
            "zoom_mm": 50.0,
        }
        for name, distance, loss in (
            ("Left low", 0.7, 0.5), ("Right low", 0.7, 0.5), ("Above", 0.9, 0.0), ("Behind", 0.8, 0.5)
        )
    ],
    "trigger": {
        "fires": "flash",
        "latency_s": 0.0001,
        "links": [
            {
                "name": "Beam pair", "kind": "beam", "lag_s": 0.0005, "jitter_s": 0.0002, "distance_m": 0.1,
                "length_m": 0.4,
            },
            {
                "name": "Trigger unit", "kind": "device", "lag_s": 0.0003, "jitter_s": 0.00003,
                "resolution_s": 0.0001, "lockout_s": 1.5,
            },
            {"name": "Radio trigger", "kind": "radio", "lag_s": 0.0004, "jitter_s": 0.00005},
        ],
        "set_delay_s": 0.082,
    },
    "moment": {"place_m": 0.05},
    "subject": {"extent_m": 0.06, "aside_sd_m": 0.03, "above_sd_m": 0.02, "thick_m": 0.06},
    "hazards": ["animal", "unattended"],
    "plan": {"minutes_per_try": 0.3, "keepers_wanted": 10},
    "rehearsal": {"subject": "moth", "background": "black"},
}  # fmt: skip
