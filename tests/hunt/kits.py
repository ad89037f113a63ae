"""Small kits at random, every combination built as a scene and asked, against what the search counts.

    python -m tests.hunt.kits [kits] [seed]

With lights that stay, long pulses, second curtains, flicker, bursts, and figures that are not known. Wanted: equal
counts, everywhere.
"""

import bisect
import itertools
import sys
from dataclasses import dataclass
from typing import Any

import numpy as np

from rapzel.core.document.gear import Strobe
from rapzel.core.document.places import changed
from rapzel.core.document.scene import read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.search.find import Kit, Search
from rapzel.core.search.limits import read_limits
from rapzel.core.shared.errors import CoreError
from rapzel.core.shared.units import ISO_SPEEDS
from tests.core.search.test_find import OLD, POWERS, SMALL
from tests.plans import LUNGE, MONOBLOC

METHODS = {
    "pulse": "pulse", "hss": "hss", "leaf": "pulse", "global": "pulse", "nd": "pulse", "ambient": "ambient",
    "long_pulse": "long_pulse",
}  # fmt: skip
FILTERS = (1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0)
_EPS = 1e-9


@dataclass
class Case:
    """A scene without its own rig, and the dials and strobes that are tried in it."""

    method: str
    document: dict[str, Any]
    dials: dict[str, list[float]]
    strobes: list[dict[str, Any]]
    most: int  # lights of one kind at once


def case_of(
    rng: np.random.Generator,
) -> tuple[str, dict[str, Any], dict[str, list[float]]]:
    """A method, the scene's values, and the dials that are searched."""
    key = str(rng.choice(list(METHODS)))
    look = str(rng.choice(["black", "black", "lit", "trail"]))
    values: dict[str, Any] = {
        "motion.speed_m_s": float(10 ** rng.uniform(-0.7, 1.0)),
        "criterion.pixels": float(rng.uniform(2, 12)),
        "ambient.ev100": float(rng.uniform(-6, 9)),
        "look": {
            "room": look,
            "room_stops": float(rng.uniform(-3, 0)) if look == "lit" else None,
            "trail_m": 0.06 if look == "trail" else None,
        },
    }
    values["camera.shutter"] = key if key in ("leaf", "global") else "focal_plane"
    if rng.random() < 0.3:
        values["camera.curtain_travel_s"] = None
    if rng.random() < 0.15:
        values["trigger.latency_s"] = None
    if rng.random() < 0.2:
        values["exposure.flash_at"] = "second"
    if rng.random() < 0.3:
        values["ambient.flicker"] = {
            "frequency_hz": 100.0,
            "depth": [0.5, 1.0, None][int(rng.integers(3))],
        }
    if rng.random() < 0.4:
        values["exposure.frames_per_s"] = float(rng.choice([1.0, 5.0, 12.0]))
        values["exposure.burst"] = [None, 6][int(rng.integers(2))]
    if rng.random() < 0.5:
        behind = {
            **MONOBLOC,
            "hss": bool(rng.random() < 0.5),
            "full_recycle_s": [0.9, None][int(rng.integers(2))],
        }
        values["lights"] = [
            {
                "name": "Behind",
                "power": 1 / 16,
                "distance_m": 2.0,
                "on_moving_part": False,
                "strobe": behind,
            }
        ]
    else:
        values["lights"] = []
    pairs = {
        "hss": [(1 / 1600, 1 / 1250), (1 / 640, 1 / 500)],
        "long_pulse": [(1 / 1600, 1 / 1250), (1 / 1000, 1 / 800)],
        "global": [(1 / 12500, 1 / 10000), (1 / 500, 1 / 400)],
        "ambient": [(1 / 1000, 1 / 800), (1 / 125, 1 / 100)],
    }.get(key, [(1 / 200, 1 / 160), (1 / 60, 1 / 50)])
    shutters = pairs[int(rng.integers(len(pairs)))]
    dials = {"shutter": list(shutters), "f": [5.6, 6.3], "iso": [500.0, 640.0]}
    values["exposure.shutter_s"] = shutters[0]
    values["exposure.f_number"], values["exposure.iso"] = 5.6, 500.0
    return key, values, dials


def right(facts: Any, look: str) -> bool:
    """Whether a set-up holds by the best guess, and nothing of it is unknown."""
    for one in facts.margins:
        # How fast the lights keep up is asked only where somebody asks for a rate.
        if one.name == "timing" or (
            one.name == "pace" and facts.pace.asked_fps is None
        ):
            continue
        if one.state in ("fails", "unknown") and one.name not in ("light", "freeze"):
            return False
        # What only may hold is no hit: the best guess has to.
        if one.leans:
            return False
        if one.name == "freeze" and one.value is not None and one.value < -_EPS:
            return False
        if one.name == "light" and (one.value is None or abs(one.value) > 1 / 3 + _EPS):
            return False
        wanted = look == "trail"
        if one.name == "ghost" and not wanted and (one.value or 0.0) < -_EPS:
            return False
    return True


def speeds_near(case: Case) -> list[float]:
    """Two ISO marks at which some of the rigs are about right, so that there is something to count."""
    key, document, middle = case.method, case.document, case.strobes[0]
    power = POWERS[middle["name"]][len(POWERS[middle["name"]]) // 2]
    light = {"name": "x", "power": power, "distance_m": 2.0, "strobe": middle}
    lights = [] if key == "ambient" else [light, *document["lights"]]
    exposure = {**document["exposure"], "method": METHODS[key]}
    try:
        facts = evaluate({**document, "exposure": exposure, "lights": lights})
    except CoreError:
        return list(ISO_SPEEDS[6:8])
    off = facts.exposure_offset_stops
    wanted = exposure["iso"] * 2 ** -(0.0 if off is None else off)
    at = min(bisect.bisect(ISO_SPEEDS, wanted), len(ISO_SPEEDS) - 1)
    return [ISO_SPEEDS[max(at - 1, 0)], ISO_SPEEDS[max(at, 1)]]


def enumerated(case: Case) -> int:
    """How many combinations are right, each built and asked."""
    key, document = case.method, case.document
    slit = key in ("hss", "long_pulse", "ambient")
    filters = FILTERS if key == "nd" else (0.0, *FILTERS) if slit else (0.0,)
    count = 0
    alone: list[list[tuple[dict[str, Any], float]]] = [
        [(one, power)] * many
        for one in case.strobes
        for power in POWERS[one["name"]]
        for many in range(1, case.most + 1)
    ]
    for shutter, f_number, iso, nd in itertools.product(*case.dials.values(), filters):
        for rig in [[]] if key == "ambient" else alone:
            lights = [
                {"name": "x", "power": power, "distance_m": 2.0, "strobe": one}
                for one, power in rig
            ]
            exposure = {
                **document["exposure"],
                "method": METHODS[key],
                "shutter_s": shutter,
                "f_number": f_number,
                "iso": iso,
                "nd_stops": nd,
            }
            kept = [] if key == "ambient" else document["lights"]
            built = {**document, "exposure": exposure, "lights": [*lights, *kept]}
            try:
                count += right(evaluate(built), document["look"]["room"])
            except CoreError:
                continue
    return count


def hunt(kits: int, seed: int = 1) -> tuple[list[str], int]:
    """What the search counts otherwise than plain enumeration does, in words; and how many hits there were.

    Goes on until so many kits had a hit: in most random scenes nothing works, which is compared too.
    """
    rng, wrong, hits, with_hits, number = np.random.default_rng(seed), [], 0, 0, 0
    while with_hits < kits and number < 20 * kits:
        number += 1
        key, values, dials = case_of(rng)
        most = int(rng.integers(1, 3))
        strobes = [SMALL, OLD][: int(rng.integers(1, 3))]
        case = Case(key, changed(LUNGE, values), dials, strobes, most)
        dials["iso"] = speeds_near(case)
        found, plain = searched(case), enumerated(case)
        hits += plain
        with_hits += plain > 0
        if found != plain:
            told = f"kit {number} by {key}: {found} found, {plain} by enumeration"
            wrong.append(f"{told}; {values}")
    return wrong, hits


def searched(case: Case) -> int:
    """How many hits the search counts within those dials."""
    shutters = case.dials["shutter"]
    limits = read_limits(
        {
            "methods": [case.method],
            "iso": case.dials["iso"],
            "f_number": [5.6, 6.3],
            "distance_m": [2.0, 2.0],
            "lights": case.most,
            "shutter_s": [min(shutters), max(shutters)],
        }
    )
    models = tuple(Strobe.model_validate(one) for one in case.strobes)
    scene = read_scene(case.document)
    return Search(scene, Kit(models), limits, mixed=False).run().hit_count


if __name__ == "__main__":
    asked = [int(one) for one in sys.argv[1:3]]
    lines, total = hunt(asked[0] if asked else 20, asked[1] if len(asked) > 1 else 1)
    print("\n".join(lines) or "as many as by enumeration, in all of them")
    print(f"{total} hits")
