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
from tests.hunt.paths import Array, path, usual_m_s
from tests.hunt.worlds import NINE, OTHER_DOUBT, STEADY_DOUBT

# How far they may be off, nine in ten: the room [stops], a recycle time [share].
ROOM_STOPS, RECYCLE_SHARE = 0.3, 0.2
# Of figures that nobody has measured, the most that they may be.
LONGEST_FLOOR_S, MOST_JITTER_S = 0.3, 0.0005
HALF_STOP, TENTH_STOP = 2**-0.5, 2**-0.1
RIGHT_STOPS, ROOM_RIGHT_STOPS = 1 / 3, 0.5
DARK_FRAMES = 0.05
TRIES, FRAMES, FOREVER = 2000, 400, 400


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


class World:
    """One way in which a plan may really be."""

    def __init__(self, plan: Plan, rng: np.random.Generator) -> None:
        self.plan, self.rng = plan, rng
        self._draw_speed()
        self._draw_light()
        self._draw_ways()

    def _draw_speed(self) -> None:
        """How much faster all tries are than told [m/s], and how much one differs from the next."""
        motion = self.plan.document["motion"]
        usual = usual_m_s(motion)
        sd = motion.get("speed_sd_m_s")
        if sd is None:
            remembered = motion["kind"] in ("steady", "leap")
            doubt = STEADY_DOUBT if remembered else OTHER_DOUBT
            off = usual * doubt / NINE
            self.own = 0.1 * usual * self.rng.random()
        else:
            off = self.own = sd * math.sqrt(0.5)
        self.faster = off * self.rng.standard_normal()

    def _draw_light(self) -> None:
        """How much brighter room and lights are [stops], how many times longer pulses, how much later the chain [s]."""
        facts, lit = self.plan.facts, self.plan.lit
        self.room = ROOM_STOPS * self._nine_in_ten()
        self.brighter = [one.light_doubt_stops * self._nine_in_ten() for one in lit]
        doubts = [math.log2(one.t01_range_s[1] / one.t01_s) for one in lit]
        self.longer = [2 ** (doubt * self._nine_in_ten()) for doubt in doubts]
        lags = math.hypot(0.0, *(one.doubt_s for one in facts.timing.lags))
        self.later = lags * self._nine_in_ten()

    def _draw_ways(self) -> None:
        """How far tries come to the side of the usual way and above it: spreads [m]; anything usual where not told."""
        subject, field = self.plan.document.get("subject", {}), self.plan.facts.framing
        most = 0.25 * subject.get("extent_m", 0.0) or 0.05 * field.field_width_m
        untold = most * self.rng.random()
        told = [subject.get(key) for key in ("aside_sd_m", "above_sd_m")]
        self.ways = [untold if sd is None else sd for sd in told]

    def _nine_in_ten(self) -> float:
        """A draw that is within ±1 nine times in ten."""
        return float(self.rng.standard_normal() / NINE)

    # --- light ---

    def flash_stops(self) -> float | None:
        """The flash against correct, all lights of the moving part together."""
        if not self.plan.lit:
            return None
        whole = 0.0
        for one, more in zip(self.plan.lit, self.brighter, strict=True):
            whole += 2 ** (one.flash_offset_stops + more)
        return math.log2(whole)

    def room_stops(self) -> float | None:
        level = self.plan.facts.ambient_offset_stops
        return None if level is None else level + self.room

    def light(self) -> bool:
        parts = [self.flash_stops(), self.room_stops()]
        whole = sum(2**one for one in parts if one is not None)
        return abs(math.log2(whole)) <= RIGHT_STOPS

    def ambient(self) -> bool:
        level, look = self.room_stops(), self.plan.document["look"]
        if level is None:
            return True
        if look["room"] == "black":
            return level <= -self.plan.physics.scene.ambient.black_stops
        wanted = look.get("room_stops")
        return wanted is None or abs(level - wanted) <= ROOM_RIGHT_STOPS

    def ghost(self) -> bool:
        """Not asked of wanted trails and streaks."""
        level, flash = self.room_stops(), self.flash_stops()
        if self.plan.one_window or level is None:
            return True
        field = self.plan.facts.framing
        criterion_px = field.criterion_m / field.pixel_pitch_m
        if self.plan.facts.ambient_smear_px <= criterion_px:
            return True
        clear = self.plan.physics.scene.ambient.clear_stops
        return flash is not None and flash - level >= clear

    # --- freeze ---

    def lasting_s(self) -> float:
        """How long the light lasts that an eighth of the picture or more is drawn by."""
        if self.plan.one_window:
            return float(self.plan.document["exposure"]["shutter_s"])
        drawn = zip(self.plan.lit, self.longer, self.brighter, strict=True)
        given = [
            (self._cut(one, longer), 2 ** (one.flash_offset_stops + more))
            for one, longer, more in drawn
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
        shutter = self.plan.document["exposure"]["shutter_s"]
        return float(min(light.t01_s * longer, shutter))

    def freeze(self) -> bool:
        """Judged at a standard deviation above the mean of all tries where a spread is told, else at the speed told."""
        motion, limit = self.plan.document["motion"], self.plan.facts.freeze_limit_s
        if not limit:
            return True
        if motion.get("speed_sd_m_s"):
            return self.lasting_s() <= limit
        usual = usual_m_s(motion)
        real = usual + self.faster + self.own
        return self.lasting_s() * real / usual <= limit

    # --- timing ---

    def landing(self) -> float:
        """Share of the tries that land."""
        plan, facts = self.plan, self.plan.facts
        motion, field = plan.document["motion"], facts.framing
        wanted = facts.timing.wanted_s or 0.0
        time = self._instants()
        extra = self.faster + self.own * self.rng.standard_normal(TRIES)
        none = np.zeros(1)
        there = path(motion, wanted, none + wanted, none)[:, 0]
        across, up, fast, rising = path(motion, wanted, time, extra)
        aside, above = (sd * self.rng.standard_normal(TRIES) for sd in self.ways)
        # A fall goes off its way to the left and right, and to and fro; all else up and down, and to and fro.
        upright = motion["kind"] == "fall"
        across = across - there[0] + (aside if upright else 0.0)
        up = up - there[1] + (0.0 if upright else above)
        depth = above if upright else aside
        good = self._framed(across, up, depth, there)
        speed = np.hypot(fast, rising)
        smear_m = speed * facts.magnification * self.lasting_s()
        good &= smear_m <= field.criterion_m
        moment = plan.document["moment"]
        if moment.get("lasts_s"):
            good &= np.abs(time - wanted) <= moment["lasts_s"] / 2
        if moment.get("place_m"):
            good &= np.sqrt(across**2 + up**2 + depth**2) <= moment["place_m"]
        # Along the optical axis a beam is missed by what passes over or under it, and beyond its ends.
        gap, place = (aside, above) if upright else (above, aside)
        good &= self._sensed(gap, place)
        heard = facts.timing.share_heard
        return float(np.mean(good)) * (1.0 if heard is None else heard)

    def _instants(self) -> Array:
        """When the light comes in each try, after the event [s]."""
        timing, rng = self.plan.facts.timing, self.rng
        time = np.full(TRIES, timing.flash_after_event_s + self.later)
        for lag in timing.lags:
            if lag.uniform:
                draws = rng.uniform(-1, 1, TRIES) * math.sqrt(3)
            else:
                draws = rng.standard_normal(TRIES)
            time += (lag.jitter_s or 0.0) * draws
        return time

    def _framed(self, across: Array, up: Array, depth: Array, there: Array) -> Array:
        """Which tries have the whole subject in the picture, and sharp."""
        field, physics = self.plan.facts.framing, self.plan.physics
        half = self.plan.document.get("subject", {}).get("extent_m", 0.0) / 2
        size = math.hypot(there[2], there[3]) or 1.0
        wide = np.abs(across) + half * abs(there[2]) / size
        high = np.abs(up) + half * abs(there[3]) / size
        inside = (wide <= field.field_width_m / 2) & (high <= field.field_height_m / 2)
        away = physics.frame.distance_m - depth
        far = math.inf if field.depth_far_m is None else field.depth_far_m
        return inside & (away >= field.depth_near_m) & (away <= far)

    def _sensed(self, gap: Array, place: Array) -> Array:
        """Which tries break a beam; all where there is none."""
        links = self.plan.document["trigger"]["links"]
        beam = next((one for one in links if one["kind"] == "beam"), None)
        if beam is None:
            return np.ones(TRIES, bool)
        thick = self.plan.document["subject"].get("thick_m") or math.inf
        length = beam.get("length_m") or math.inf
        return (np.abs(gap) <= thick / 2) & (np.abs(place) <= length / 2)

    # --- sync ---

    def sync(self) -> bool:
        """Whether every row of nearly every frame sees the light; asked of pulses that meet an opening."""
        curves, travel = self.plan.physics.curves, self._travel_s()
        late = self.plan.physics.scene.trigger.contact_doubt_s * self._nine_in_ten()
        # The first frame is one that does not jump.
        jumps = np.concatenate([[0.0], self._jumps(late)])
        rows = np.linspace(0, 1, 21)[None, :] if travel else np.zeros((1, 1))
        opens = curves.opening.offset_s + rows * travel - late - jumps[:, None]
        if travel:
            return self._curtains_hold(opens)
        return self._opening_holds(opens, late)

    def _travel_s(self) -> float:
        """The curtain's travel [s]; where nobody knows it, anything up to the sync speed."""
        travel, camera = self.plan.physics.travel_s, self.plan.physics.scene.camera
        if travel is None:
            travel = self.rng.random() * camera.sync_speed_s
        off = (camera.curtain_travel_sd_s or 0.0) * self._nine_in_ten()
        return max(travel + off, 0.0) if travel else 0.0

    def _jumps(self, late: float) -> Array:
        """How much later than usual the light comes in each frame [s]: never before its contact."""
        trigger = self.plan.physics.scene.trigger
        jitter = trigger.contact_jitter_s
        if jitter is None:
            jitter = MOST_JITTER_S * self.rng.random()
        draws = self.rng.standard_normal(FRAMES)
        if trigger.contact_even:
            draws = self.rng.uniform(-1, 1, FRAMES) * math.sqrt(3)
        soonest = -max((trigger.contact_to_light_s or 0.0) + late, 0.0)
        return np.maximum(jitter * draws, soonest)

    def _curtains_hold(self, opens: Array) -> bool:
        """Curtains must leave every light its own: a weak one may be alone on a part of the subject."""
        each = np.ones(len(opens))
        for flash, longer in self._flashes():
            own = self._between(flash, opens, longer)
            each = np.minimum(each, np.min(own, axis=1))
        dark = np.mean(each[1:] < HALF_STOP)
        # 400 frames tell a share to within two in a hundred.
        return bool(each[0] >= TENTH_STOP - 1e-3 and dark <= DARK_FRAMES + 0.02)

    def _opening_holds(self, opens: Array, late: float) -> bool:
        """What opens at once must keep, in nearly every frame, what it could keep at its best."""
        physics = self.plan.physics
        got, whole, usual = np.zeros(len(opens)), 0.0, 0.0
        for flash, longer in self._flashes():
            whole += flash.weight
            got += flash.weight * self._between(flash, opens, longer)[:, 0]
            unmoved = self._between(flash, opens[:1] + late, longer)
            usual += flash.weight * float(unmoved[0, 0])
        # Pulses that are longer than told are cut in all frames: that is the exposure's, and not the trigger's.
        planned = max(float(physics.curves.by_row.max()), 1e-9)
        best = usual / whole * physics.best_possible_share / planned
        dark = np.mean(got[1:] / whole < best * HALF_STOP)
        return bool(best > 1e-3 and dark <= DARK_FRAMES + 0.02)

    def _flashes(self) -> list[tuple[Any, float]]:
        return list(zip(self.plan.physics.curves.flashes, self.longer, strict=True))

    def _between(self, flash: Any, opens: Array, longer: float) -> Array:
        """Share of a light that comes while rows are open, its pulse so many times longer."""
        begin = (opens - flash.start_s) / longer
        end = begin + self.plan.physics.scene.exposure.shutter_s / longer
        return np.asarray(flash.pulse.cumulative(end) - flash.pulse.cumulative(begin))

    # --- pace ---

    def pace(self) -> bool:
        """Whether the lights keep the rate that is asked, for the burst or for ever."""
        exposure = self.plan.document["exposure"]
        asked, burst = exposure["frames_per_s"], exposure.get("burst") or FOREVER
        # A rate is held as it is shown: nobody counts half a percent of a frame.
        if self.plan.physics.pace.frame_s > 1.005 / asked:
            return False
        lights = self.plan.document["lights"]
        return all(self._keeps_up(light, asked, burst) for light in lights)

    def _keeps_up(self, light: dict[str, Any], asked: float, burst: int) -> bool:
        """Pop by pop: what the reservoir holds, what is taken, what comes back in between."""
        strobe = light["strobe"]
        turns = light.get("count", 1) if light.get("in_turn") else 1
        off = RECYCLE_SHARE * self._nine_in_ten()
        full = strobe["full_recycle_s"] * (1 + off)
        floor = strobe.get("recycle_floor_s")
        if floor is None:
            floor = LONGEST_FLOOR_S * self.rng.random()
        between = turns / asked
        stored = 1.0
        for _ in range(math.ceil(burst / turns)):
            # A tenth of a stop short is not seen.
            if stored < light["power"] * TENTH_STOP or between < floor:
                return False
            stored -= min(light["power"], stored)
            stored = min(stored + (between - floor) / full, 1.0)
        return True
