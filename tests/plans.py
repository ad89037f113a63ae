"""Scene documents that the tests start from; invented, as the demo is."""

from typing import Any

MONOBLOC: dict[str, Any] = {
    "name": "Monobloc 600",
    "circuit": "quenched",
    "energy_ws": 600.0,
    "guide_number_m": 60.0,
    "durations": [
        {"power": 1.0, "t01_s": 0.0045, "t05_s": None, "provenance": "claimed"},
        {"power": 0.00390625, "t01_s": 0.0001, "t05_s": None, "provenance": "measured"},
    ],
    "full_recycle_s": 0.9,
    "recycle_floor_s": 0.0,
    "hss": True,
    "hss_loss_stops": 0.7,
}

# All that differs from try to try is stated, so that what is not known is where a test puts it.
LUNGE: dict[str, Any] = {
    "format": "rapzel.scene",
    "version": 2,
    "name": "Lunge on black",
    "motion": {
        "kind": "steady",
        "speed_m_s": 9.0,
        "speed_sd_m_s": 0.0,
        "angle_deg": 90,
    },
    "subject": {"aside_sd_m": 0.0, "above_sd_m": 0.0},
    "camera": {
        "name": "Full-frame body",
        "sensor_width_mm": 36.0,
        "sensor_height_mm": 24.0,
        "pixels_wide": 6000,
        "pixels_high": 4000,
        "shutter": "focal_plane",
        "sync_speed_s": 0.004,
        "curtain_travel_s": 0.0032,
        "lag_s": 0.055,
        "lag_jitter_s": 0.002,
        "lag_provenance": "measured",
        "lags_s": [0.055, 0.055],  # twice the same: what is tested here is jitter
    },
    "lens": {"focal_length_mm": 50.0, "subject_distance_m": 4.0},
    "exposure": {
        "method": "pulse",
        "shutter_s": 0.005,
        "f_number": 8.0,
        "iso": 200,
        "nd_stops": 0,
    },
    "criterion": {"kind": "pixels", "pixels": 2},
    "ambient": {"ev100": 3.0},
    "lights": [
        {
            "name": "Key",
            "power": 0.0625,
            "distance_m": 2.0,
            "loss_stops": 1.3,
            "on_moving_part": True,
            "strobe": MONOBLOC,
        }
    ],
    "trigger": {
        "fires": "camera",
        "latency_s": 0.0004,
        "links": [],
        "set_delay_s": 0,
    },
}

# A strobe so short that it is an instant to any shutter: a spark, for tests of the row model alone.
INSTANT: dict[str, Any] = {
    "name": "Spark",
    "circuit": "voltage",
    "guide_number_m": 40.0,
    "durations": [{"power": 1.0, "t01_s": 1e-7, "provenance": "estimated"}],
}
