"""Random exposures, each judged and then played out: lights stronger or weaker than told, rooms brighter or darker.

    python -m tests.hunt.exposures [scenes] [seed]

Wanted: of margins that pass at most 1 % of worlds do not hold, of those that fail at most 3 % hold.
"""

import copy
import math
import sys
from collections import Counter
from typing import Any

import numpy as np

from rapzel.core.evaluate import evaluate
from rapzel.core.shared.errors import CoreError
from tests.plans import LUNGE, MONOBLOC

WORLDS = 60
NINE = 1.645
# How far figures may be off, nine in ten [stops]: docs/science.md §5, §6.
GUIDE = {"measured": 0.1, "claimed": 0.5, "estimated": 1.0}
DIAL, ROOM, MODIFIER, BACKDROP = 0.15, 0.3, 0.15, 0.5


def scene_of(rng: np.random.Generator) -> dict[str, Any]:
    """A pulse or high-speed sync, one light or two, in a room of any light and look."""
    document = copy.deepcopy(LUNGE)
    document["motion"]["speed_m_s"] = float(10 ** rng.uniform(-0.5, 1.3))
    document["ambient"] = {"ev100": float(rng.uniform(-3, 13))}
    look = str(rng.choice(["black", "black", "lit"]))
    stops = float(rng.uniform(-3, 0)) if look == "lit" else None
    document["look"] = {"room": look, "room_stops": stops, "trail_m": None}
    lights = []
    for name in ("Key", "Fill")[: int(rng.integers(1, 3))]:
        strobe = {**MONOBLOC, "guide_provenance": str(rng.choice(list(GUIDE)))}
        strobe["name"] = f"{name} {strobe['guide_provenance']}"
        lights.append(
            {
                "name": name,
                "power": float(2 ** rng.uniform(-8, 0)),
                "distance_m": float(rng.uniform(1, 5)),
                "loss_stops": float(rng.choice([0.0, 1.3, 2.5])),
                "source_size_m": 0.6,
                "strobe": strobe,
            }
        )
    document["lights"] = lights
    document["exposure"].update(
        f_number=float(rng.choice([2.8, 4, 5.6, 8, 11])),
        iso=float(rng.choice([100, 200, 400, 800])),
        shutter_s=float(rng.choice([1 / 200, 1 / 125, 1 / 60])),
    )
    # Near to right, as a plan that somebody has worked on is.
    facts = evaluate(document)
    off = facts.exposure_offset_stops or 0.0
    wanted = float(rng.normal(0, 0.6))
    document["exposure"]["iso"] = min(
        max(document["exposure"]["iso"] * 2 ** (wanted - off), 25.0), 400_000.0
    )
    return document


def holds_in(
    document: dict[str, Any], facts: Any, rng: np.random.Generator
) -> dict[str, bool]:
    """Whether light, room and ghost hold in one world; offsets are added up from each light's own."""
    flash = 0.0
    for light, result in zip(document["lights"], facts.lights, strict=True):
        known = light["strobe"]["guide_provenance"]
        sd = math.hypot(GUIDE[known], DIAL, MODIFIER * light["loss_stops"]) / NINE
        flash += 2 ** (result.flash_offset_stops + sd * rng.standard_normal())
    room = facts.ambient_offset_stops + ROOM / NINE * rng.standard_normal()
    together = math.log2(flash + 2**room)
    look, under = document["look"], math.log2(flash) - room
    held = {"light": abs(together) <= 1 / 3}
    if look["room"] == "black":
        held["room"] = room <= -5
        trails = facts.ambient_smear_px > 2
        held["ghost"] = not trails or under >= 5
    else:
        held["room"] = abs(room - look["room_stops"]) <= 0.5
    return held


def hunt(scenes: int, seed: int = 1) -> tuple[Counter[str], Counter[str]]:
    """(worlds, and those that refute the verdict) by margin and state."""
    rng = np.random.default_rng(seed)
    worlds: Counter[str] = Counter()
    refuted: Counter[str] = Counter()
    for _ in range(scenes):
        try:
            document = scene_of(rng)
            facts = evaluate(document)
        except CoreError:
            continue
        states = {one.name: one.state for one in facts.margins}
        for _ in range(WORLDS):
            for name, held in holds_in(document, facts, rng).items():
                worlds[f"{name} {states[name]}"] += 1
                refuted[f"{name} {states[name]}"] += held == (states[name] == "fails")
    return worlds, refuted


if __name__ == "__main__":
    asked = [int(one) for one in sys.argv[1:3]]
    told, wrong = hunt(asked[0] if asked else 300, asked[1] if len(asked) > 1 else 1)
    for key in sorted(told):
        print(f"{key:16} {wrong[key] / told[key]:7.2%} of {told[key]} worlds")
