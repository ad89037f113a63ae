"""Whole scenes played out by plain draws: one world of a plan, and whether each of its margins holds in it.

Laws as docs/science.md states them, written anew. Of the judge are used the figures that the screen shows (each light's
exposure and duration with their doubt, the lags of the chain, the field and its depth), and the shape of a pulse.
"""

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.document.scene import read_scene
from rapzel.core.physics import Physics
from tests.hunt.worlds import G, NINE, OTHER_DOUBT, STEADY_DOUBT

Array = np.ndarray
ROOM, TRAVEL, RECYCLE = 0.3, 0.0, 0.2  # nine in ten: stops, share, share
LONGEST_FLOOR_S = 0.3
DARK_FRAMES, HALF, TENTH, THIRD = 0.05, 2**-0.5, 2**-0.1, 1 / 3
TRIES, FRAMES = 2000, 400


@dataclass
class Plan:
    """A scene and what the screen says of it."""

    document: dict[str, Any]
    facts: Evaluation

    @cached_property
    def physics(self) -> Physics:
        return Physics(read_scene(self.document))

    @property
    def method(self) -> str:
        return str(self.document["exposure"]["method"])

    @property
    def one_window(self) -> bool:
        """Whether the shutter alone lights it: by the room, and through the slit of high-speed sync."""
        return self.method in ("hss", "ambient")

    @cached_property
    def lit(self) -> list[Any]:
        """The lights of the moving part, as the screen shows them."""
        parts = set(map(id, self.physics.on_part))
        both = zip(self.facts.lights, self.physics.lights, strict=True)
        return [shown for shown, one in both if id(one) in parts]

    def state(self, name: str) -> str | None:
        found = [one.state for one in self.facts.margins if one.name == name]
        return found[0] if found else None


def usual_m_s(motion: dict[str, Any]) -> float:
    """Speed at the wanted instant [m/s]."""
    kind = motion["kind"]
    if kind == "fall":
        return math.sqrt(2 * G * motion["height_m"])
    if kind == "leap":
        return math.hypot(motion.get("horizontal_m_s", 0.0), G * motion.get("from_apex_s", 0.0))  # fmt: skip
    if kind == "rotation":
        return float(motion["radius_m"] * motion["rpm"] * math.tau / 60)
    if motion.get("speed_m_s") is not None:
        return float(motion["speed_m_s"])
    return float(motion["distance_m"] / motion["interval_s"])


def path(motion: dict[str, Any], wanted: float, time: Array, extra: Array) -> Array:
    """(across, up, their speeds) of tries `extra` faster, counted from the usual place at the event: 4 x tries."""
    kind, usual = motion["kind"], usual_m_s(motion)
    none = 0 * time * extra
    if kind == "fall":
        since = time + math.sqrt(2 * motion["height_m"] / G) - wanted
        begun = max(math.sqrt(2 * motion["height_m"] / G) - wanted, 0.0)
        falling = np.maximum(since, 0.0)
        rate = 1 + extra / usual
        way = rate * G / 2 * (falling**2 - begun**2)
        return np.array([none, -way, none, rate * G * falling])
    if kind == "leap":
        at = motion.get("from_apex_s", 0.0) - wanted
        since, forward = time + at, motion.get("horizontal_m_s", 0.0) + extra
        sunk = G / 2 * (since**2 - at**2)
        return np.array([forward * time, none - sunk, forward + none, none - G * since])
    if kind == "rotation":
        radius = motion["radius_m"]
        rate = motion["rpm"] * math.tau / 60 * (1 + extra / usual)
        begin = math.radians(motion.get("phase_deg", 0.0))
        turned = begin + rate * time
        across, up = np.sin(turned) - math.sin(begin), math.cos(begin) - np.cos(turned)
        fast = radius * rate
        return np.array([radius * across, radius * up, fast * np.cos(turned), fast * np.sin(turned)])  # fmt: skip
    return np.array([(usual + extra) * time, none, usual + extra + none, none])


class World:
    """One way in which a plan may really be."""

    def __init__(self, plan: Plan, rng: np.random.Generator) -> None:
        self.plan, self.rng = plan, rng
        document, facts = plan.document, plan.facts
        motion = document["motion"]
        usual = usual_m_s(motion)
        sd = motion.get("speed_sd_m_s")
        if sd is None:
            remembered = motion["kind"] in ("steady", "leap")
            off = usual * (STEADY_DOUBT if remembered else OTHER_DOUBT) / NINE
            self.own = 0.1 * usual * rng.random()
        else:
            off = self.own = sd * math.sqrt(0.5)
        self.faster = off * rng.standard_normal()
        self.room = ROOM / NINE * rng.standard_normal()
        self.brighter = [one.light_doubt_stops / NINE * rng.standard_normal() for one in plan.lit]  # fmt: skip
        off = [math.log2(one.t01_range_s[1] / one.t01_s) / NINE for one in plan.lit]
        self.longer = [2 ** (sd * rng.standard_normal()) for sd in off]
        lags = math.hypot(0.0, *(one.doubt_s for one in facts.timing.lags))
        self.later = lags / NINE * rng.standard_normal()
        subject = document.get("subject", {})
        widest = (
            0.25 * subject.get("extent_m", 0.0) or 0.05 * facts.framing.field_width_m
        )
        share = rng.random()
        self.ways = [
            widest * share if subject.get(key) is None else subject[key]
            for key in ("aside_sd_m", "above_sd_m")
        ]

    # --- light ---

    def flash_stops(self) -> float | None:
        if not self.plan.lit:
            return None
        pairs = zip(self.plan.lit, self.brighter, strict=True)
        return math.log2(
            sum(2 ** (one.flash_offset_stops + more) for one, more in pairs)
        )

    def room_stops(self) -> float | None:
        level = self.plan.facts.ambient_offset_stops
        return None if level is None else level + self.room

    def light(self) -> bool:
        parts = [
            one for one in (self.flash_stops(), self.room_stops()) if one is not None
        ]
        return abs(math.log2(sum(2**one for one in parts))) <= THIRD

    def ambient(self) -> bool:
        level, look = self.room_stops(), self.plan.document["look"]
        if level is None:
            return True
        if look["room"] == "black":
            return level <= -self.plan.physics.scene.ambient.black_stops
        return look.get("room_stops") is None or abs(level - look["room_stops"]) <= 0.5

    def ghost(self) -> bool:
        """Not asked of wanted trails and streaks."""
        level, flash = self.room_stops(), self.flash_stops()
        criterion = (
            self.plan.facts.framing.criterion_m / self.plan.facts.framing.pixel_pitch_m
        )
        if (
            self.plan.one_window
            or level is None
            or self.plan.facts.ambient_smear_px <= criterion
        ):
            return True
        return (
            flash is not None
            and flash - level >= self.plan.physics.scene.ambient.clear_stops
        )

    # --- freeze ---

    def lasting_s(self) -> float:
        """How long the light lasts that an eighth of the picture or more is drawn by."""
        if self.plan.one_window:
            return float(self.plan.document["exposure"]["shutter_s"])
        given = [
            (self._cut(one, longer), 2 ** (one.flash_offset_stops + more))
            for one, longer, more in zip(
                self.plan.lit, self.longer, self.brighter, strict=True
            )
        ]
        whole = sum(light for _, light in given)
        together = 0.0
        for lasts, light in sorted(given, reverse=True):
            together += light
            if together >= whole / 8:
                return lasts
        return given[0][0]

    def _cut(self, light: Any, longer: float) -> float:
        """How long a light lasts whose pulse is so many times longer [s]: no longer than the shutter lets it."""
        if light.stopping_s < 0.99 * light.t01_s:
            return float(light.stopping_s)
        return float(
            min(light.t01_s * longer, self.plan.document["exposure"]["shutter_s"])
        )

    def freeze(self) -> bool:
        motion, facts = self.plan.document["motion"], self.plan.facts
        usual = usual_m_s(motion)
        # Judged at mean + 1 sd of all tries where a spread is stated.
        judged = usual + (motion.get("speed_sd_m_s") or 0.0)
        real = judged if motion.get("speed_sd_m_s") else usual + self.faster + self.own
        if not facts.freeze_limit_s:
            return True
        return self.lasting_s() * real / judged <= facts.freeze_limit_s

    # --- timing ---

    def landing(self) -> float:
        """Share of the tries that land."""
        plan, rng, facts = self.plan, self.rng, self.plan.facts
        motion, moment, frame = (
            plan.document["motion"],
            plan.document["moment"],
            facts.framing,
        )
        wanted = facts.timing.wanted_s or 0.0
        time = facts.timing.flash_after_event_s + self.later + np.zeros(TRIES)
        for lag in facts.timing.lags:
            sd = lag.jitter_s or 0.0
            even = rng.uniform(-1, 1, TRIES) * math.sqrt(3)
            time += sd * (even if lag.uniform else rng.standard_normal(TRIES))
        extra = self.faster + self.own * rng.standard_normal(TRIES)
        none = np.zeros(1)
        there = path(motion, wanted, none + wanted, none)[:, 0]
        across, up, fast, rising = path(motion, wanted, time, extra)
        across, up = across - there[0], up - there[1]
        size = math.hypot(there[2], there[3]) or 1.0
        upright = motion["kind"] == "fall"
        aside, above = (sd * rng.standard_normal(TRIES) for sd in self.ways)
        # A fall goes off its way to the left and right, and to and fro; all else up and down, and to and fro.
        across, up, depth = (
            (across + aside, up, above) if upright else (across, up + above, aside)
        )
        half = plan.document.get("subject", {}).get("extent_m", 0.0) / 2
        wide = np.abs(across) + half * abs(there[2]) / size <= frame.field_width_m / 2
        high = np.abs(up) + half * abs(there[3]) / size <= frame.field_height_m / 2
        away = plan.physics.frame.distance_m - depth
        far = math.inf if frame.depth_far_m is None else frame.depth_far_m
        sharp = (away >= frame.depth_near_m) & (away <= far)
        speed = np.hypot(fast, rising)
        slow = speed * facts.magnification * self.lasting_s() <= frame.criterion_m
        good = wide & high & sharp & slow
        if moment.get("lasts_s"):
            good &= np.abs(time - wanted) <= moment["lasts_s"] / 2
        if moment.get("place_m"):
            good &= np.sqrt(across**2 + up**2 + depth**2) <= moment["place_m"]
        beams = [
            one for one in plan.document["trigger"]["links"] if one["kind"] == "beam"
        ]
        if beams:
            # Along the optical axis: missed by what passes over or under it, and beyond its ends.
            gap, place = (aside, above) if upright else (above, aside)
            thick, length = (
                plan.document["subject"].get("thick_m"),
                beams[0].get("length_m"),
            )
            good &= np.abs(gap) <= (math.inf if thick is None else thick / 2)
            good &= np.abs(place) <= (math.inf if length is None else length / 2)
        return float(np.mean(good)) * (1.0 if facts.timing.share_heard is None else facts.timing.share_heard)  # fmt: skip

    # --- sync ---

    def sync(self) -> bool:
        """Whether every row of nearly every frame sees the light; asked of pulses that meet an opening."""
        physics, rng = self.plan.physics, self.rng
        trigger, curves = physics.scene.trigger, physics.curves
        travel = physics.travel_s
        if travel is None:
            travel = rng.random() * physics.scene.camera.sync_speed_s
        travel_sd = physics.scene.camera.curtain_travel_sd_s or 0.0
        travel = (
            max(travel + travel_sd / NINE * rng.standard_normal(), 0.0)
            if travel
            else 0.0
        )
        jitter = trigger.contact_jitter_s
        if jitter is None:
            jitter = 0.0005 * rng.random()
        late = trigger.contact_doubt_s / NINE * rng.standard_normal()
        draws = rng.standard_normal(FRAMES)
        if trigger.contact_even:
            draws = rng.uniform(-1, 1, FRAMES) * math.sqrt(3)
        # However much it jumps about, no light comes before its contact.
        soonest = -max((trigger.contact_to_light_s or 0.0) + late, 0.0)
        jumps = np.concatenate([[0.0], np.maximum(jitter * draws, soonest)])
        rows = np.linspace(0, 1, 21)[None, :] if travel else np.zeros((1, 1))
        opens = curves.opening.offset_s + rows * travel - late - jumps[:, None]
        got, whole, usual, each = 0.0, 0.0, 0.0, np.ones(len(jumps))
        for flash, longer in zip(curves.flashes, self.longer, strict=True):
            own = self._between(flash, opens, longer)
            # Curtains must leave every light its own: a weak one may be alone on a part of the subject.
            each = np.minimum(each, np.min(own, axis=1))
            got, whole = got + flash.weight * own, whole + flash.weight
            usual += flash.weight * self._between(flash, opens[:1] + late, longer)
        if travel:
            dark = np.mean(each[1:] < HALF)
            return bool(each[0] >= TENTH - 1e-3 and dark <= DARK_FRAMES + 0.02)
        # Pulses that are longer than told are cut in all frames: that is the exposure's, and not the trigger's.
        planned = float(curves.by_row.max())
        best = (
            float(np.min(usual))
            / whole
            * physics.best_possible_share
            / max(planned, 1e-9)
        )
        dark = np.mean(got[1:] / whole < best * HALF)
        return bool(best > 1e-3 and dark <= DARK_FRAMES + 0.02)

    def _between(self, flash: Any, opens: Array, longer: float) -> Array:
        """Share of a light that comes while rows are open, its pulse so many times longer."""
        begin = (opens - flash.start_s) / longer
        end = begin + self.plan.physics.scene.exposure.shutter_s / longer
        return flash.pulse.cumulative(end) - flash.pulse.cumulative(begin)

    # --- pace ---

    def pace(self) -> bool:
        """Whether the lights keep the rate that is asked, for the burst or for ever."""
        exposure, rng = self.plan.document["exposure"], self.rng
        asked, burst = exposure.get("frames_per_s"), exposure.get("burst") or 400
        if self.plan.physics.pace.frame_s > 1.005 / asked:
            return False
        for light in self.plan.document["lights"]:
            strobe = light["strobe"]
            turns = light.get("count", 1) if light.get("in_turn") else 1
            full = strobe["full_recycle_s"] * (
                1 + RECYCLE / NINE * rng.standard_normal()
            )
            floor = strobe.get("recycle_floor_s")
            floor = LONGEST_FLOOR_S * rng.random() if floor is None else floor
            between = turns / asked
            stored, taken = 1.0, light["power"]
            for _ in range(math.ceil(burst / turns)):
                # A tenth of a stop short is not seen.
                if stored < taken * 2**-0.1:
                    return False
                stored -= min(taken, stored)
                if between < floor:
                    return False
                stored = min(stored + (between - floor) / full, 1.0)
        return True
