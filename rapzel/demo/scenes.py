"""The scenes of the demo world, as plans that name their gear; invented, like everything in it."""

from typing import Any

from rapzel.demo.close_scenes import DROPS, GLASS, MOTHS

_DARK = {"ev100": 3.0, "trail_stops": 3.0, "clear_stops": 5.0}
_BEFORE: dict[str, Any] = {"exposure.shutter_s": 0.004, "lights[1].power": 1 / 8}

LUNGE: dict[str, Any] = {
    "name": "Lunge on black",
    "motion": {
        "kind": "steady",
        "speed_m_s": 9.0,
        "angle_deg": 90.0,
        "speed_sd_m_s": 1.0,
    },
    "camera": "Full-frame body",
    "lens": {"name": "50 mm", "focal_length_mm": 50.0, "subject_distance_m": 4.0},
    "exposure": {"method": "pulse", "shutter_s": 0.005, "f_number": 8.0, "iso": 400.0},
    "criterion": {"kind": "pixels", "pixels": 2.0},
    "ambient": _DARK,
    "lights": [
        {
            "name": "Key",
            "strobe": "Monobloc 600 quenched",
            "mode": "speed",
            "power": 1 / 64,
            "distance_m": 1.8,
            "loss_stops": 1.3,
            "source_size_m": 0.9,
        },
        {
            "name": "Rim",
            "strobe": "Monobloc 600 quenched",
            "mode": "speed",
            "power": 1 / 64,
            "distance_m": 3.2,
            "loss_stops": 0.9,
        },
    ],
    # The fencer's front foot lifts; a quarter of a second later the arm is straight.
    "trigger": {
        "fires": "camera",
        "latency_s": 0.0004,
        "links": [
            {
                "kind": "finger",
                "name": "Finger",
                "way": "reacts",
                "lag_s": 0.21,
                "jitter_s": 0.03,
            }
        ],
    },
    "moment": {"at_s": 0.265, "lasts_s": 0.045},
    "subject": {"extent_m": 1.6},
    "hazards": ["athlete"],
    "plan": {"minutes_per_try": 1.5, "keepers_wanted": 3},
    "rehearsal": {"subject": "figure", "background": "black"},
    "pins": [
        ("Rim as first set", {"lights[1].power": 1 / 8}),
        ("Hall lamps on", {"ambient.ev100": 8.0, "exposure.shutter_s": 1 / 60}),
    ],
    "takes": [
        ("early", _BEFORE, "Standing look first: exposure settled."),
        ("smear", _BEFORE, "Back edge of the sleeve soft."),
        ("smear", _BEFORE, ""),
        ("band", {**_BEFORE, "exposure.shutter_s": 1 / 320}, "Lower edge dark."),
        ("smear", _BEFORE, "Back to the sync speed."),
        ("late", {"lights[1].power": 1 / 32}, "Point already on the target."),
        ("missed", {"lights[1].power": 1 / 32}, ""),
        ("keep", {}, "Guard and threads sharp."),
        ("early", {}, ""),
        ("keep", {}, "Best so far: blade level."),
        ("late", {}, ""),
        ("keep", {}, ""),
        ("missed", {}, "Fencer slipped; break."),
        ("keep", {}, "Mask towards the rim light."),
    ],
}

RICE: dict[str, Any] = {
    "name": "Rice from a drumhead",
    "motion": {
        "kind": "steady",
        "speed_m_s": 2.4,
        "angle_deg": 90.0,
        "speed_sd_m_s": 0.4,
    },
    "camera": "Full-frame body",
    "lens": {
        "name": "100 mm close-up",
        "focal_length_mm": 100.0,
        "subject_distance_m": 0.9,
    },
    "exposure": {
        "method": "open_shutter",
        "shutter_s": 2.0,
        "f_number": 16.0,
        "iso": 250.0,
    },
    "criterion": {"kind": "pixels", "pixels": 4.0},
    "ambient": {"ev100": -4.0, "trail_stops": 3.0, "clear_stops": 5.0},
    "lights": [
        {
            "name": "Left",
            "strobe": "Hot-shoe 60",
            "power": 1 / 64,
            "distance_m": 0.6,
            "loss_stops": 0.0,
            "zoom_mm": 50.0,
        },
        {
            "name": "Right",
            "strobe": "Hot-shoe 60",
            "power": 1 / 64,
            "distance_m": 0.65,
            "loss_stops": 0.0,
            "zoom_mm": 50.0,
        },
    ],
    "trigger": {
        "fires": "flash",
        "latency_s": 0.0001,
        "links": [
            {
                "name": "Sound trigger",
                "kind": "sound",
                "lag_s": 0.0002,
                "lag_provenance": "measured",
                "jitter_s": 0.0001,
                "distance_m": 0.4,
                "temperature_c": 20.0,
            }
        ],
        "set_delay_s": 0.03,
    },
    # The grains fly as they like: a crown is one while most of them are where they should be.
    "moment": {"at_s": 0.033, "lasts_s": 0.012, "place_m": 0.022},
    "subject": {"aside_sd_m": 0.004, "above_sd_m": 0.004},
    "hazards": ["public"],
    "plan": {"minutes_per_try": 2.0, "keepers_wanted": 2},
    "rehearsal": {"subject": "drop", "background": "black", "size_m": 0.16},
    "takes": [
        ("early", {"trigger.set_delay_s": 0.005}, "Grains still on the skin."),
        ("early", {"trigger.set_delay_s": 0.012}, ""),
        ("late", {"trigger.set_delay_s": 0.06}, "Grains out at the top."),
        ("keep", {}, "Two rings standing."),
        ("keep", {}, ""),
        ("missed", {}, "Double trigger from the stick."),
        ("keep", {}, "Rings level with the rim."),
    ],
}

ARROW: dict[str, Any] = {
    "name": "Arrow leaving the bow",
    "motion": {
        "kind": "measured",
        "distance_m": 0.5,
        "interval_s": 0.0089,
        "angle_deg": 90.0,
        "speed_sd_m_s": 1.5,
    },
    "camera": "Full-frame body",
    "lens": {"name": "85 mm", "focal_length_mm": 85.0, "subject_distance_m": 7.0},
    "exposure": {
        "method": "open_shutter",
        "shutter_s": 1.0,
        "f_number": 5.6,
        "iso": 100.0,
    },
    "criterion": {"kind": "print", "divisor": 1500.0},
    "ambient": {"ev100": -3.0, "trail_stops": 3.0, "clear_stops": 5.0},
    "lights": [
        {
            "name": "Key",
            "strobe": "Hot-shoe 60",
            "power": 1 / 128,
            "distance_m": 1.2,
            "loss_stops": 0.0,
            "zoom_mm": 105.0,
        },
        {
            "name": "Fill",
            "strobe": "Hot-shoe 60",
            "power": 1 / 128,
            "distance_m": 1.4,
            "loss_stops": 0.0,
            "zoom_mm": 105.0,
        },
    ],
    "trigger": {
        "fires": "flash",
        "latency_s": 0.0001,
        "links": [
            {
                "name": "Beam pair",
                "kind": "beam",
                "lag_s": 0.0001,
                "jitter_s": 0.00002,
                "distance_m": 0.4,
                "length_m": 0.6,
            }
        ],
        "set_delay_s": 0.0069,
    },
    "moment": {"place_m": 0.1},
    "subject": {"extent_m": 0.8, "aside_sd_m": 0.02, "above_sd_m": 0.03},
    "hazards": ["projectile"],
    "plan": {"minutes_per_try": 3.0, "keepers_wanted": 1},
    "rehearsal": {"subject": "archer", "background": "black"},
    "takes": [
        ("early", {"trigger.set_delay_s": 0.0}, "Nothing in the frame but string."),
        ("late", {"trigger.set_delay_s": 0.02}, "Fletching leaves at the right."),
        ("keep", {}, ""),
        (
            "smear",
            {"lights[0].power": 1 / 32, "lights[1].power": 1 / 32},
            "Tried more light.",
        ),
        ("keep", {}, "Range officer calls the end."),
    ],
}

SKIPPERS: dict[str, Any] = {
    "name": "Rope skippers at noon",
    "motion": {"kind": "rotation", "radius_m": 0.9, "rpm": 150.0, "angle_deg": 90.0},
    "camera": "Full-frame body",
    "lens": {"name": "50 mm", "focal_length_mm": 50.0, "subject_distance_m": 5.0},
    "exposure": {
        "method": "hss",
        "shutter_s": 1 / 5000,
        "f_number": 4.0,
        "iso": 100.0,
        "frames_per_s": 5.0,
    },
    "criterion": {"kind": "print", "divisor": 1500.0},
    "ambient": {"ev100": 15.0, "trail_stops": 3.0, "clear_stops": 5.0},
    "look": {"room": "lit", "room_stops": -1.3},
    "lights": [
        {
            "name": "Held left",
            "strobe": "Monobloc 600 quenched",
            "mode": "speed",
            "power": 1 / 4,
            "distance_m": 2.2,
            "loss_stops": 0.0,
        },
        {
            "name": "Held right",
            "strobe": "Monobloc 600 quenched",
            "mode": "speed",
            "power": 1 / 4,
            "distance_m": 2.6,
            "loss_stops": 0.0,
        },
    ],
    "trigger": {
        "fires": "camera",
        "latency_s": 0.0004,
        "links": [{"kind": "finger", "name": "Finger", "way": "anticipates"}],
    },
    "hazards": ["athlete", "public", "performer"],
    "plan": {"minutes_per_try": 1.0, "keepers_wanted": 4},
    "rehearsal": {"subject": "skipper", "background": "grey"},
}

RIBBON: dict[str, Any] = {
    "name": "Ribbon spiral in bursts",
    "motion": {
        "kind": "steady",
        "speed_m_s": 12.0,
        "angle_deg": 90.0,
        "speed_sd_m_s": 2.0,
    },
    "camera": "Full-frame body",
    "lens": {"name": "85 mm", "focal_length_mm": 85.0, "subject_distance_m": 7.0},
    "exposure": {
        "method": "pulse",
        "shutter_s": 0.005,
        "f_number": 6.3,
        "iso": 400.0,
        "frames_per_s": 10.0,
    },
    "criterion": {"kind": "pixels", "pixels": 3.0},
    "ambient": {"ev100": 4.0, "trail_stops": 3.0, "clear_stops": 5.0},
    "lights": [
        {
            "name": "Left strip",
            "strobe": "Monobloc 600 quenched",
            "mode": "speed",
            "power": 1 / 64,
            "distance_m": 2.6,
            "loss_stops": 1.6,
            "source_size_m": 1.2,
        },
        {
            "name": "Right strip",
            "strobe": "Old voltage monobloc 500",
            "power": 1 / 16,
            "distance_m": 2.6,
            "loss_stops": 1.6,
            "source_size_m": 1.2,
        },
    ],
    "trigger": {
        "fires": "camera",
        "latency_s": 0.0004,
        "links": [
            {
                "kind": "finger",
                "name": "Finger",
                "way": "anticipates",
                "lag_s": 0.0,
                "jitter_s": 0.04,
            }
        ],
    },
    "moment": {"at_s": 0.055, "lasts_s": 0.2},
    "hazards": ["performer"],
    "plan": {"minutes_per_try": 2.0, "keepers_wanted": 2},
    "rehearsal": {"subject": "dancer", "background": "black"},
    "takes": [
        ("smear", {}, "Right side of the ribbon soft, left crisp."),
        ("smear", {"lights[1].power": 1 / 8}, "More power does not change it."),
        ("missed", {}, "Third frame dark."),
    ],
}

SCENES = (LUNGE, RICE, ARROW, SKIPPERS, RIBBON, DROPS, GLASS, MOTHS)
