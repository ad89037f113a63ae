"""Plans whose knobs are dialled in by the tests: a glass that is heard, and two drops that meet."""

from rapzel.core.document.places import changed
from tests.plans import LUNGE

DELAY = "trigger.set_delay_s"
GLASS = changed(LUNGE, {
    "exposure.method": "open_shutter", "exposure.shutter_s": 1.0, "motion.speed_m_s": 6.0, "motion.speed_sd_m_s": 0.5,
    "moment": {"at_s": 0.0054, "lasts_s": 0.003},
    "trigger": {
        "fires": "flash", "latency_s": 0.0001, "set_delay_s": 0.003, "links": [
            {
                "kind": "sound", "id": "sound", "name": "Microphone", "lag_s": 0.0003, "jitter_s": 0.0001,
                "distance_m": 0.5,
            },
            {
                "kind": "device", "id": "unit", "name": "Unit", "lag_s": 0.0002, "jitter_s": 0.00005,
                "resolution_s": 0.0001,
            },
        ],
    },
})  # fmt: skip
DROPS = changed(GLASS, {
    "motion": {"kind": "fall", "height_m": 0.25}, "moment": {"at_s": 0.3633, "place_m": 0.008},
    "drops": {
        "valve_height_m": 0.3, "diameter_m": 0.004, "jet": {"launch_s": 0.31, "speed_m_s": 1.2}, "meet_height_m": 0.05,
    },
    "trigger": {"fires": "flash", "latency_s": 0.0, "set_delay_s": 0.3633, "links": []},
})  # fmt: skip
