"""What a scene's chain means on the set: where things stand, what to try first, what the tries take (§11, §13)."""

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from rapzel.core.document.scene import Scene
from rapzel.core.drops.asked import Drops
from rapzel.core.physics import Physics
from rapzel.core.shared import units
from rapzel.core.trigger.links import Beam, Device, Finger, Sound, Valve
from rapzel.core.trigger.success import tries_for
from rapzel.core.verdict.timely import doubtful

_USUALLY, _NEARLY_ALWAYS = 0.5, 0.95
_LIES = {
    "depth": "along the optical axis",
    "across": "across the frame",
    "up": "upright",
}


def positions(physics: Physics, imperial: bool = False) -> list[tuple[str, str]]:
    """Where each thing of the chain stands, in words; distances from the focus point unless said otherwise."""

    def show(value: float) -> str:
        return units.format_length(value, imperial)

    scene = physics.scene
    # The focus point is what all else is measured from: it is where the picture is right.
    found = [("Camera", f"{show(scene.lens.subject_distance_m)} from the focus point")]
    for link in scene.trigger.links:
        if isinstance(link, Sound):
            found.append(
                (
                    link.name or "Microphone",
                    f"{show(link.distance_m)} from where the sound is made",
                )
            )
        if isinstance(link, Beam):
            if link.lies:
                lies = f", {_LIES[link.lies]}"
            else:
                lies = ""
            if link.length_m is None:
                length = ""
            else:
                length = f", {show(link.length_m)} long"
            found.append(
                (
                    link.name or "Beam",
                    f"cut {show(link.distance_m)} before the focus point{lies}{length}",
                )
            )
            # Placed by the first beam, as it is set up by it.
            if link.second_m is not None:
                found.append(("Second beam", f"{show(link.second_m)} before the first"))
    if scene.drops is not None:
        found += _valves(scene.drops, show)
    return found


def _valves(drops: Drops, show: Callable[[float], str]) -> Iterator[tuple[str, str]]:
    """Where the valves stand, and what of their times is set."""
    yield "Drop valve", f"{show(drops.valve_height_m)} above the liquid"
    if drops.second_valve_height_m is not None:
        yield "Second valve", f"{show(drops.second_valve_height_m)} above the liquid"
    for other in drops.others:
        yield other.name, f"{show(other.height_m)} above the liquid"
    if drops.second_set_s is not None:
        yield (
            "Second drop",
            f"let go {units.format_set_time(drops.second_set_s)} after the first",
        )


def dry_run(scene: Scene) -> list[str]:
    """What to try of this chain before the first take, in order."""
    # In the order of the chain: what fails first is found first.
    steps = [words for link in scene.trigger.links for words in _steps_of(link)]
    # A body that sleeps misses the first event of the evening.
    if scene.trigger.fires == "camera":
        steps.append(
            "Body awake: half-pressed or held awake, manual focus and exposure."
        )
    steps.append(
        "Each light answers by itself, then all at once, and once more after they have slept."
    )
    # The longest of them rules: until then the chain answers nothing.
    deaf = [
        link.lockout_s
        for link in scene.trigger.links
        if isinstance(link, Device) and link.lockout_s
    ]
    if deaf:
        steps.append(
            f"Deaf for {units.format_time(max(deaf))} after each: the lights are recharged by then."
        )
    return steps


def _steps_of(link: object) -> Iterator[str]:
    if isinstance(link, Sound):
        yield "A clap at the place of the event pops the light; steps and voices do not."
    if isinstance(link, Beam):
        yield "Stick test: a stick through the beam at the subject's height, at each place of its way."
    if isinstance(link, Valve):
        yield "One drop alone: the light comes when it is where the plan says."
    if isinstance(link, Finger):
        yield "Three dry presses on a slow action: early or late is told aloud."


@dataclass(frozen=True, slots=True)
class Expected:
    """Tries for the wanted keepers: on half of all days by timing alone, and how many to plan for.

    best, worst: tries on nineteen of twenty days if what is doubtful in the plan turns out well, or badly; worst is
    None where then it hardly ever lands. floor: what practice takes before anybody has tried, and why.
    """

    keepers: int
    half: int
    best: int
    worst: int | None
    floor: int
    floor_says: str
    doubtful: str
    minutes_per_try: float
    uses_up: str

    @property
    def most(self) -> int:
        """Tries to plan for."""
        if self.worst is None:
            return max(self.half, self.best, self.floor)
        return max(self.worst, self.floor)

    @property
    def says(self) -> str:
        """In words, with the time and what is used up."""
        wanted = f"{self.keepers} {'keeper' if self.keepers == 1 else 'keepers'}"
        text = f"{wanted}: by timing alone {_tries(self.half)} on half of all days, {self._nearly_always}"
        if self.floor >= self.most:
            text += f". {self.floor_says}"
        time = units.format_minutes(self.most * self.minutes_per_try)
        text += f". Plan for {_tries(self.most)}, {time}"
        if self.uses_up:
            return f"{text}; bring {self.most} times {self.uses_up}."
        return f"{text}."

    @property
    def _nearly_always(self) -> str:
        """How many tries on nineteen days of twenty, with the range that the plan's doubt gives."""
        if self.worst is None:
            return f"{self.best} or more on nineteen of twenty: first {self.doubtful}, or dial it in"
        if self.worst > self.best:
            return f"{self.best} to {self.worst} on nineteen of twenty"
        return f"{self.best} on nineteen of twenty"


def _tries(count: int) -> str:
    return f"{count} {'try' if count == 1 else 'tries'}"


# Before anybody has tried; common practice.
_WITH_A_PERFORMER, _BREAKING = 12, 20
_ALIVE = {"athlete", "performer", "animal"}


def _floor_of(scene: Scene) -> tuple[int, str]:
    """What practice takes whatever the timing says, and why; 0 where nothing speaks for it. Common practice."""
    if scene.plan.uses_up:
        return _BREAKING, "About twenty things are broken for one picture"
    by_hand = any(isinstance(link, Finger) for link in scene.trigger.links)
    if by_hand or _ALIVE & set(scene.hazards):
        return (
            _WITH_A_PERFORMER,
            "Ten to fifteen tries pass before photographer and performer share a rhythm",
        )
    return 0, ""


def expected(physics: Physics) -> Expected | None:
    """What the wanted keepers take; None where no moment says what one is, or where it hardly ever lands."""
    timing, plan = physics.timing, physics.scene.plan
    if timing.share is None or timing.shares is None:
        return None
    half = tries_for(timing.share, _USUALLY, plan.keepers_wanted)
    best = tries_for(timing.shares.high, _NEARLY_ALWAYS, plan.keepers_wanted)
    if half is None or best is None:
        return None
    floor, floor_says = _floor_of(physics.scene)
    return Expected(
        keepers=plan.keepers_wanted,
        half=half,
        best=best,
        worst=tries_for(timing.shares.low, _NEARLY_ALWAYS, plan.keepers_wanted),
        floor=floor,
        floor_says=floor_says,
        doubtful=doubtful(timing) or "find what is doubtful",
        minutes_per_try=plan.minutes_per_try,
        uses_up=plan.uses_up,
    )


def batteries(scene: Scene, tries: int) -> list[tuple[str, str]]:
    """What so many tries take of each light's charge; not known where its kit does not say."""
    found = []
    for light in scene.lights:
        # Not every maker says it, and nobody should be told that a charge is enough.
        full = light.strobe.battery_pops
        if full is None:
            found.append((light.called, "pops of a charge not known"))
            continue
        # As in `pops_of_a_charge`: the charge goes with the energy of a pop.
        pops = full / light.power
        share = tries / pops
        charges = math.ceil(share - 1e-9)
        # Below one charge a share is the better figure: it says what is left.
        if charges > 1:
            needs = f"{charges} charges"
        else:
            needs = f"{units.format_percent(share)} of a charge"
        found.append((light.called, f"{tries} pops, {needs}"))
    return found
