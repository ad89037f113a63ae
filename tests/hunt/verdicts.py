"""Random scenes, each judged and then played out in worlds of its own: how often is a verdict refuted?

    python -m tests.hunt.verdicts [scenes] [seed]

Wanted: of margins that pass at most 1 % of worlds do not hold, of those that fail at most 3 % hold, and stated 90 %
ranges of the share that lands hold in 87 to 93 %.
"""

import copy
import sys
from collections import Counter
from typing import Any

import numpy as np

from rapzel.core.evaluate import evaluate
from rapzel.core.shared.errors import CoreError
from tests.hunt.worlds import frozen, lag_of, landing, world_of
from tests.plans import LUNGE, MONOBLOC

WORLDS = 30


def scene_of(rng: np.random.Generator) -> dict[str, Any]:
    """A scene as somebody might have it: a finger, a microphone or a unit, near on time, more or less well known."""
    document = copy.deepcopy(LUNGE)
    known = rng.choice(["measured", "claimed", "estimated"])
    speed = float(10 ** rng.uniform(-0.3, 1.5))
    if rng.random() < 0.3:
        height = float(10 ** rng.uniform(-1, 0.2))
        document["motion"] = {"kind": "fall", "height_m": height}
    else:
        document["motion"] = {"kind": "steady", "speed_m_s": speed}
    if rng.random() < 0.6:
        document["motion"]["speed_sd_m_s"] = speed * float(rng.uniform(0, 0.2))
    subject = {"extent_m": float(rng.uniform(0.0, 0.8))}
    if rng.random() < 0.6:
        subject.update(aside_sd_m=0.05 * rng.random(), above_sd_m=0.05 * rng.random())
    document["subject"] = subject
    table = [{**row, "provenance": str(known)} for row in MONOBLOC["durations"]]
    document["lights"][0].update(
        power=float(2 ** rng.uniform(-8, -4)), strobe={**MONOBLOC, "durations": table}
    )
    document["lens"] = {"focal_length_mm": 50.0, "subject_distance_m": float(rng.uniform(2, 6))}  # fmt: skip
    document["criterion"] = {"kind": "pixels", "pixels": float(rng.uniform(2, 12))}
    camera = document["camera"]
    camera.pop("lags_s")
    camera.update(lag_provenance=str(known), lag_s=float(rng.uniform(0.02, 0.09)))
    camera["lag_jitter_s"] = float(10 ** rng.uniform(-4, -2))
    links = {
        "finger": {"kind": "finger", "way": "anticipates", "lead_s": 0.0},
        "sound": {"kind": "sound", "lag_s": 2e-4, "jitter_s": 1e-4, "distance_m": 0.5},
        "device": {"kind": "device", "lag_s": 0.01, "jitter_s": 5e-4},
    }
    document["trigger"]["links"] = [links[str(rng.choice(list(links)))]]
    if rng.random() < 0.5:
        document["trigger"]["fires"] = "flash"
        document["exposure"].update(method="open_shutter", shutter_s=1.0)
    total, _, _ = lag_of(document)
    late = float(rng.normal(0, 0.004))
    document["trigger"]["set_delay_s"] = max(0.15 - total + late, 0.0)
    document["moment"] = {"at_s": 0.15}
    if document["motion"]["kind"] == "fall":
        wanted = float(np.sqrt(2 * document["motion"]["height_m"] / 9.80665))
        document["moment"]["at_s"] = wanted
        document["trigger"]["set_delay_s"] = max(wanted - total + late, 0.0)
    if rng.random() < 0.7:
        document["moment"]["lasts_s"] = float(10 ** rng.uniform(-2.5, -0.7))
    else:
        document["moment"]["place_m"] = float(10 ** rng.uniform(-2, -0.3))
    return document


def hunt(scenes: int, seed: int = 1) -> dict[str, Any]:
    """Counts of worlds by margin and verdict, those that refute it, and how often stated ranges hold."""
    rng = np.random.default_rng(seed)
    worlds: Counter[str] = Counter()
    refuted: Counter[str] = Counter()
    inside = ranges = 0
    for _ in range(scenes):
        document = scene_of(rng)
        try:
            facts = evaluate(document)
        except CoreError:
            continue
        doubt = float(np.log2(facts.lights[0].t01_range_s[1] / facts.lights[0].t01_s))
        states = {one.name: one.state for one in facts.margins}
        low, high = facts.timing.share_low, facts.timing.share_high
        for _ in range(WORLDS):
            world = world_of(document, doubt, facts.framing.field_width_m, rng)
            share = landing(document, facts, world)
            holds = {"timing": share >= 0.5, "freeze": frozen(document, facts, world)}
            for name, held in holds.items():
                worlds[f"{name} {states[name]}"] += 1
                wrong = held == (states[name] == "fails")
                refuted[f"{name} {states[name]}"] += wrong
            if low is not None and high is not None and high - low > 0.05:
                ranges += 1
                inside += low <= share <= high
    return {
        "refuted": {key: refuted[key] / worlds[key] for key in sorted(worlds)},
        "worlds": dict(worlds),
        "ranges": ranges,
        "ranges hold": inside / max(ranges, 1),
    }


if __name__ == "__main__":
    asked = [int(one) for one in sys.argv[1:3]]
    found = hunt(asked[0] if asked else 300, asked[1] if len(asked) > 1 else 1)
    for key, rate in found["refuted"].items():
        print(f"{key:20} {rate:7.2%} of {found['worlds'][key]} worlds")
    print(f"stated ranges of the share that lands hold in {found['ranges hold']:.1%}")
