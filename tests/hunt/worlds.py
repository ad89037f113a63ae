"""Worlds of a scene, played out by plain draws: what is doubtful once a world, what jitters once a try.

Laws as docs/science.md states them. Written anew, from handbook formulas: nothing of the judge is used but the figures
that it was asked with, the pulse's best guess and the shape of a light.
"""

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from tests.hunt.paths import G, usual_m_s

NINE = 1.645
LAG = {"measured": 0.02, "claimed": 0.15, "estimated": 0.3, None: 0.15}
FINGER = {"reacts": (0.20, 0.03, 0.04), "anticipates": (0.0, 0.04, 0.03)}
STEADY_DOUBT, OTHER_DOUBT = 0.2, 0.05


@dataclass
class World:
    """One way in which a plan may really be."""

    rng: np.random.Generator
    lag_off_s: float
    speed_off: float  # times the usual
    own_sd_m_s: float
    longer: float  # times the told duration
    ways_m: tuple[float, float]


def lag_of(document: dict[str, Any]) -> tuple[float, list[tuple[float, bool]], float]:
    """(sum of lags [s], jitters (sd [s], whether even), how far the sum may be off, nine in ten [s])."""
    trigger, camera = document["trigger"], document["camera"]
    total, off, jitters = 0.0, [], []
    for link in trigger["links"]:
        if link["kind"] == "finger":
            lag, jitter, doubt = FINGER[link["way"]]
            total += lag - link.get("lead_s", 0.0)
            jitters.append((jitter, False))
            off.append(doubt)
            continue
        lag = link["lag_s"]
        off.append(lag * LAG[link.get("lag_provenance")])
        if link["kind"] == "sound":
            air = link["distance_m"] / (331.3 * math.sqrt(1 + 20 / 273.15))
            lag += air
            off.append(0.02 * air)
        total += lag
        jitters.append((link["jitter_s"], False))
    if trigger["fires"] == "camera":
        total += camera["lag_s"]
        jitters.append((camera["lag_jitter_s"], False))
        off.append(camera["lag_s"] * LAG[camera.get("lag_provenance")])
    total += trigger["latency_s"]
    off.append(trigger["latency_s"] * LAG[None])
    return total, jitters, math.hypot(*off)


def world_of(
    document: dict[str, Any],
    doubt_stops: float,
    field_m: float,
    rng: np.random.Generator,
) -> World:
    """One world. doubt_stops: of the pulse's duration."""
    motion, subject = document["motion"], document["subject"]
    usual = usual_m_s(motion)
    sd = motion.get("speed_sd_m_s")
    if sd is None:
        doubt = STEADY_DOUBT if motion["kind"] == "steady" else OTHER_DOUBT
        off, own = usual * doubt / NINE, rng.random() * 0.1 * usual
    else:
        off, own = sd * math.sqrt(0.5), sd * math.sqrt(0.5)
    widest = subject.get("extent_m", 0.0) * 0.25 or field_m * 0.05
    share = rng.random()
    ways = tuple(
        widest * share if subject.get(key) is None else subject[key]
        for key in ("aside_sd_m", "above_sd_m")
    )
    _, _, lag_off = lag_of(document)
    return World(
        rng,
        lag_off / NINE * rng.standard_normal(),
        1 + off / usual * rng.standard_normal() if usual else 1.0,
        own,
        2 ** (doubt_stops / NINE * rng.standard_normal()),
        (ways[0], ways[1]),
    )


def landing(document: dict[str, Any], facts: Any, world: World, tries: int = 4000) -> float:  # fmt: skip
    """Share of the tries of a world that land: in frame, in focus, slow enough, in the moment."""
    rng, motion, moment = world.rng, document["motion"], document["moment"]
    total, jitters, _ = lag_of(document)
    time = total + document["trigger"]["set_delay_s"] + world.lag_off_s
    time = time + sum(sd * rng.standard_normal(tries) for sd, _ in jitters)
    wanted, usual = moment["at_s"], usual_m_s(motion)
    speed = usual * world.speed_off + world.own_sd_m_s * rng.standard_normal(tries)
    if motion["kind"] == "fall":
        # From rest, and faster or slower by as much as its speed is at the wanted instant.
        falling = np.maximum(time, 0.0)
        rate = speed / usual
        along = G / 2 * falling**2 * rate - motion["height_m"]
        velocity = G * falling * rate
    else:
        along = speed * time - usual * wanted
        velocity = speed + 0 * time
    aside = world.ways_m[0] * rng.standard_normal(tries)
    above = world.ways_m[1] * rng.standard_normal(tries)
    half = document["subject"].get("extent_m", 0.0) / 2
    frame = facts.framing
    if motion["kind"] == "fall":
        wide = np.abs(aside) <= frame.field_width_m / 2
        high = np.abs(along) + half <= frame.field_height_m / 2
        depth = above
    else:
        wide = np.abs(along) + half <= frame.field_width_m / 2
        high = np.abs(above) <= frame.field_height_m / 2
        depth = aside
    away = document["lens"]["subject_distance_m"] - depth
    far = math.inf if frame.depth_far_m is None else frame.depth_far_m
    sharp = (away >= frame.depth_near_m) & (away <= far)
    lasts = facts.stopping_s * world.longer
    slow = np.abs(velocity) * facts.magnification * lasts <= frame.criterion_m
    good = wide & high & sharp & slow
    if moment.get("lasts_s"):
        good = good & (np.abs(time - wanted) <= moment["lasts_s"] / 2)
    if moment.get("place_m"):
        good = good & (np.sqrt(along**2 + aside**2 + above**2) <= moment["place_m"])
    return float(np.mean(good))


def frozen(document: dict[str, Any], facts: Any, world: World) -> bool:
    """Whether the light of a world stops the motion at mean + 1 sd, as the freeze is judged."""
    motion, usual = document["motion"], usual_m_s(document["motion"])
    judged = usual + (motion.get("speed_sd_m_s") or 0.0)
    if motion.get("speed_sd_m_s") is None:
        judged = usual * world.speed_off + world.own_sd_m_s
    lasts = facts.stopping_s * world.longer
    return judged * facts.magnification * lasts <= facts.framing.criterion_m
