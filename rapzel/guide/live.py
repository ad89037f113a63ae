"""The live scene of the first page: a turn lit by two strobes of the starter kit, with speed and power to drag.

A turn, because any instant of it makes the picture: what is left to ask is how fast, how short and how bright.

Both go in steps, so that there are only so many scenes, and each is answered and drawn once for everybody.
"""

import copy
import math
from functools import lru_cache
from typing import Any

from rapzel.core.document.places import Document, changed
from rapzel.core.shared import units
from rapzel.finding.motions import BEGINNINGS
from rapzel.kit.services import starter_document
from rapzel.shoots.services import NEW_SCENE
from rapzel.workbench.answer import Answer, answered

SPEEDS_M_S = (1, 1.5, 2, 2.5, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16)
POWER_STEPS = 25  # thirds of a stop, from full power down to 1/256
AT_FIRST = (14, 9)  # 13 m/s, at an eighth of full power: bright enough, and smeared
_RADIUS_M = 0.7  # of the hand about the body
_STROBE = "Monobloc 600 quenched"
_BODY = "Full-frame body"
_ANY_INSTANT = {"at_s": 0.0, "lasts_s": 1.0}


def power_at(step: int) -> float:
    """The share of full power so many thirds of a stop down."""
    return float(2.0 ** (-step / 3))


def _named(kind: str, name: str) -> dict[str, Any]:
    """A piece of the starter kit as a scene holds it: without the notes that the kit keeps."""
    found = next(one for one in starter_document()[kind] if one["name"] == name)
    return {key: value for key, value in found.items() if key != "notes"}


def _light(name: str, role: str, distance_m: float) -> Document:
    strobe = _named("strobes", _STROBE)
    return {
        "name": name,
        "role": role,
        "strobe": strobe,
        "mode": strobe["modes"][0]["name"],
        "power": 1.0,
        "distance_m": distance_m,
    }


@lru_cache(maxsize=1)
def _scene() -> Document:
    """The turn as one begins it, lit and in a hall whose lamps are dimmed."""
    scene = copy.deepcopy(NEW_SCENE)
    scene["camera"] = {
        **scene["camera"],
        **_named("cameras", _BODY),
    }
    scene = changed(scene, BEGINNINGS["turn"].values())
    scene["lights"] = [_light("Key", "key", 2.0), _light("Rim", "rim", 3.0)]
    stands = {
        "ambient": {"ev100": 2.0},
        "moment": _ANY_INSTANT,
        "exposure.iso": 100.0,
        "exposure.f_number": 11.0,
        # Pressed ahead by what the camera takes, so that the dancer stands in her place.
        "trigger.links[0].lead_s": 0.055,
    }
    return changed(scene, stands)


def live_answer(speed: int, power: int) -> Answer:
    """The answer for a step of speed and a step of power, kept for the next who asks for the same."""
    turns_a_minute = SPEEDS_M_S[speed] / (2 * math.pi * _RADIUS_M) * 60
    values = {
        "motion.rpm": turns_a_minute,
        "motion.speed_sd_m_s": SPEEDS_M_S[speed] * 0.1,
        "lights[0].power": power_at(power),
        "lights[1].power": power_at(power),
    }
    return answered(changed(_scene(), values))


def says(speed: int, power: int) -> tuple[str, str]:
    """Speed and power as they are written beside their sliders."""
    return (
        units.format_speed(float(SPEEDS_M_S[speed])),
        units.format_power(power_at(power)),
    )
