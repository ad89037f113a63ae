"""Random scenes near those that people begin with, each judged and then played out: how often is a verdict refuted?"""

import copy
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from rapzel.core.evaluate import evaluate
from rapzel.core.shared.errors import CoreError
from tests.hunt.paths import usual_m_s
from tests.hunt.plays import Plan, World

WORLDS = 20
KNOWN = ("measured", "claimed", "estimated")
MOVED = ("speed_m_s", "rpm", "height_m", "rise_m", "horizontal_m_s", "distance_m")


def varied(base: dict[str, Any], rng: np.random.Generator) -> dict[str, Any]:
    """A scene like another one: other speeds, lights, rooms, bodies, better or worse known; near to right."""
    document = copy.deepcopy(base)
    _moved(document, rng)
    _timed(document, rng)
    _lit(document, rng)
    _looked_at(document, rng)
    _set(document, rng)
    facts = evaluate(document)
    # As a plan that somebody has worked on is: the exposure about right, the delay about on time.
    exposure, trigger = document["exposure"], document["trigger"]
    if facts.exposure_offset_stops is not None:
        wanted = float(rng.normal(0, 0.4)) - facts.exposure_offset_stops
        exposure["iso"] = float(np.clip(exposure["iso"] * 2**wanted, 25, 400_000))
    needed = facts.timing.needed_delay_s
    if needed is not None and rng.random() < 0.8:
        trigger["set_delay_s"] = max(needed + float(rng.normal(0, 0.003)), 0.0)
    return document


def _times(rng: np.random.Generator, stops: float) -> float:
    return float(2 ** rng.normal(0, stops))


def _moved(document: dict[str, Any], rng: np.random.Generator) -> None:
    motion = document["motion"]
    for key in MOVED:
        if motion.get(key):
            motion[key] *= _times(rng, 0.6)
    motion.pop("speed_sd_m_s", None)
    if rng.random() < 0.7:
        motion["speed_sd_m_s"] = usual_m_s(motion) * float(rng.uniform(0, 0.3))
    subject = document.setdefault("subject", {})
    subject["extent_m"] = (subject.get("extent_m") or 0.1) * _times(rng, 0.7)
    for key in ("aside_sd_m", "above_sd_m"):
        subject[key] = None
        if rng.random() < 0.7:
            subject[key] = subject["extent_m"] * float(rng.uniform(0, 0.4))


def _timed(document: dict[str, Any], rng: np.random.Generator) -> None:
    moment, trigger = document.setdefault("moment", {}), document["trigger"]
    for key in ("lasts_s", "place_m"):
        if moment.get(key):
            moment[key] *= _times(rng, 1.5)
    known = str(rng.choice(KNOWN))
    for link in trigger["links"]:
        if link.get("lag_s") is not None:
            link["lag_provenance"] = known
    camera = document["camera"]
    camera.pop("lags_s", None)
    camera.update(lag_s=float(rng.uniform(0.02, 0.09)), lag_provenance=known)
    camera["lag_jitter_s"] = float(10 ** rng.uniform(-4, -2))
    trigger["latency_s"] = float(10 ** rng.uniform(-4.5, -3))
    trigger["latency_provenance"] = str(rng.choice(KNOWN))
    if rng.random() < 0.3:
        radio = {
            "kind": "radio",
            "name": "Radio",
            "lag_s": 4e-4,
            "lag_provenance": known,
            "jitter_s": float(10 ** rng.uniform(-5, -3.3)),
        }
        others = [one for one in trigger["links"] if one["kind"] != "radio"]
        trigger["links"] = [*others, radio]


def _lit(document: dict[str, Any], rng: np.random.Generator) -> None:
    known = str(rng.choice(KNOWN))
    for light in document["lights"]:
        strobe = light["strobe"]
        rows = strobe.get("durations") or [{"power": 1 / 64}]
        least = strobe.get("min_power") or min(row["power"] for row in rows)
        power = light["power"] * 2.0 ** rng.integers(-2, 3)
        light["power"] = float(np.clip(power, least, 1))
        light["distance_m"] *= _times(rng, 0.4)
        strobe["guide_provenance"] = str(rng.choice(KNOWN))
        strobe["full_recycle_s"] = strobe.get("full_recycle_s") or 1.0
        strobe["recycle_floor_s"] = [None, 0.05][int(rng.integers(2))]
        tables = [strobe, *strobe.get("modes", [])]
        for row in [row for table in tables for row in table.get("durations", [])]:
            row["provenance"] = known


def _looked_at(document: dict[str, Any], rng: np.random.Generator) -> None:
    pixels = float(rng.uniform(1.5, 15))
    document["criterion"] = {"kind": "pixels", "pixels": pixels}
    if document["ambient"].get("ev100") is not None:
        document["ambient"]["ev100"] += float(rng.normal(0, 3))
    document["look"] = {"room": "black"}
    if rng.random() < 0.25:
        document["look"] = {"room": "lit", "room_stops": float(rng.uniform(-3, 0))}


def _set(document: dict[str, Any], rng: np.random.Generator) -> None:
    """Another shutter where a pulse meets it, and a rate that is asked for or none."""
    exposure, camera = document["exposure"], document["camera"]
    if exposure["method"] == "pulse" and rng.random() < 0.2:
        exposure["method"] = str(rng.choice(["hss", "ambient"]))
        camera["shutter"] = "focal_plane"
        exposure["shutter_s"] = float(1 / rng.choice([500, 1000, 2000, 4000]))
    if exposure["method"] == "pulse":
        kinds = ["focal_plane", "focal_plane", "leaf", "global"]
        camera["shutter"] = str(rng.choice(kinds))
        shutters = [1 / 60, 1 / 125, 1 / 160, 1 / 200, 1 / 250]
        if camera["shutter"] != "focal_plane":
            shutters += [1 / 500, 1 / 1000, 1 / 2000]
        if camera["shutter"] == "global":
            shutters += [1 / 5000, 1 / 20000]
        exposure["shutter_s"] = float(rng.choice(shutters))
    if rng.random() < 0.4:
        exposure["frames_per_s"] = float(rng.uniform(0.5, 10))
        exposure["burst"] = [None, 5, 15][int(rng.integers(3))]


@dataclass
class Tally:
    """Worlds of each margin and state, and those in which it holds; how often stated ranges do."""

    worlds: Counter[tuple[str, str]] = field(default_factory=Counter)
    held: Counter[tuple[str, str]] = field(default_factory=Counter)
    ranges: int = 0
    inside: int = 0
    refused: int = 0
    worst: list[tuple[float, str, dict[str, Any]]] = field(default_factory=list)

    def add(self, name: str, state: str, held: int, document: dict[str, Any]) -> None:
        """What became of a margin in the worlds of one scene; scenes that many of them refute are kept."""
        self.worlds[name, state] += WORLDS
        self.held[name, state] += held
        wrong = held if state == "fails" else WORLDS - held
        if state in ("passes", "fails") and wrong > WORLDS / 4:
            self.worst.append((wrong / WORLDS, f"{name} {state}", document))

    def refuted(self, name: str, state: str) -> float:
        """Share of the worlds of passes that do not hold, of fails that do [0 … 1]."""
        worlds, held = self.worlds[name, state], self.held[name, state]
        if not worlds:
            return 0.0
        return held / worlds if state == "fails" else 1 - held / worlds

    def lines(self) -> list[str]:
        lines = []
        for (name, state), count in sorted(self.worlds.items()):
            wrong = "hold" if state == "fails" else "do not hold"
            rate = self.refuted(name, state)
            lines.append(f"{name:8} {state:8} {rate:7.2%} of {count} worlds {wrong}")
        share = f"{self.inside_share:.1%} of {self.ranges}"
        return [*lines, f"stated ranges of the share that lands hold in {share}"]

    @property
    def inside_share(self) -> float:
        return self.inside / max(self.ranges, 1)


def _asked(plan: Plan) -> dict[str, Callable[[World], bool]]:
    """How each margin of a plan is played out, where the plan judges it."""
    asked = {
        "light": World.light,
        "room": World.ambient,
        "ghost": World.ghost,
        "freeze": World.freeze,
    }
    if plan.method == "pulse" and plan.lit:
        asked["sync"] = World.sync
    if plan.document["exposure"].get("frames_per_s") and plan.method != "ambient":
        asked["pace"] = World.pace
    return {
        name: holds
        for name, holds in asked.items()
        if plan.state(name) not in (None, "unknown")
    }


def play(document: dict[str, Any], tally: Tally, rng: np.random.Generator) -> None:
    """Judges a scene and plays it out in worlds of its own."""
    plan = Plan(document, evaluate(document))
    asked = _asked(plan)
    low, high = plan.facts.timing.share_low, plan.facts.timing.share_high
    lands = plan.state("timing") in ("passes", "fails", "unsure") and low is not None
    names = [*asked, "timing"] if lands else [*asked]
    held: Counter[str] = Counter()
    for _ in range(WORLDS):
        world = World(plan, rng)
        for name, holds in asked.items():
            held[name] += holds(world)
        if lands:
            share = world.landing()
            held["timing"] += share >= 0.5
            if high - low > 0.05:
                tally.ranges += 1
                tally.inside += low <= share <= high
    for name in names:
        tally.add(name, str(plan.state(name)), held[name], document)


def hunt(bases: list[dict[str, Any]], scenes: int, seed: int = 1) -> Tally:
    """Scenes like those in turn; what cannot be judged at all (a set-up that is refused) is passed over."""
    rng, tally = np.random.default_rng(seed), Tally()
    for number in range(scenes):
        try:
            document = varied(bases[number % len(bases)], rng)
            play(document, tally, rng)
        except CoreError:
            tally.refused += 1
    return tally
