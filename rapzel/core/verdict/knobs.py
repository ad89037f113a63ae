"""What can be dialled in of a scene: each single delay or distance that decides when the light comes (science §14)."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from rapzel.core.document.scene import Scene
from rapzel.core.drops.plan import planned
from rapzel.core.physics import Physics
from rapzel.core.shared import units
from rapzel.core.trigger.dial import Knob
from rapzel.core.trigger.links import Beam, Finger, Sound

_DELAY_STEP_S = 1e-4  # of a unit that does not say its own (memory)
_PLACE_STEP_M = 0.005  # to which a stand is moved (memory)
_FINGER_STEP_S = 0.01  # to which somebody presses sooner on purpose (memory)


@dataclass(frozen=True, slots=True)
class SceneKnob:
    """One of them: its place in the document, its name, what it is set to, and how it moves the light.

    quantity: `delay` or `length`; says: what early and late mean for it.
    """

    path: str
    name: str
    quantity: str
    value: float
    knob: Knob
    says: str = "the light before, or after, its instant"

    def show(self, value: float, imperial: bool = False) -> str:
        """A value of the knob, dressed to its steps."""
        if self.quantity == "length":
            return units.format_length(value, imperial)
        return units.format_set_time(value)


def late_sd_s(physics: Physics) -> float | None:
    """How much tries differ in time [s, sd]: by where the subject is where its speed says so, else by the chain."""
    timing = physics.timing
    speed = physics.trajectory.wanted_speed_m_s
    # Places spread by how fast each comes as well, which the chain's jitter does not know.
    if timing.position_sd_m is not None and speed > 1e-3:
        return timing.position_sd_m / speed
    return timing.jitter_s


def right_within_s(physics: Physics) -> float | None:
    """Half width of the time in which a try looks right [s], by moment and place; None where neither is stated."""
    moment, speed = physics.scene.moment, physics.trajectory.wanted_speed_m_s
    if moment.lasts_s is None:
        widths = []
    else:
        widths = [moment.lasts_s / 2]
    if moment.place_m is not None and speed > 1e-3:
        widths.append(moment.place_m / speed)
    return min(widths, default=None)


def knobs_of(physics: Physics, by_eye: bool = False) -> list[SceneKnob]:
    """Every knob of the scene, what is nearest to the hand first."""
    return [each for each in _knobs(physics, by_eye) if each.knob.s_per_unit]


def _knobs(physics: Physics, by_eye: bool) -> Iterator[SceneKnob]:
    scene = physics.scene
    jitter, right = late_sd_s(physics), right_within_s(physics)
    # A unit that does not say its steps is taken to have those of most.
    step = scene.trigger.resolution_s or _DELAY_STEP_S
    delay = Knob(step, jitter, 1.0, right, 0.0, by_eye=by_eye)
    yield SceneKnob(
        "trigger.set_delay_s", "Flash delay", "delay", scene.trigger.set_delay_s, delay
    )
    yield from _second(scene, step, by_eye)
    for place, link in enumerate(scene.trigger.links):
        if link.id:
            at = f"trigger.links[#{link.id}]"
        else:
            at = f"trigger.links[{place}]"
        if isinstance(link, Sound):
            # A metre further from the sound makes the light later by what sound takes for it.
            slope = 1 / link.speed_m_s
            knob = Knob(_PLACE_STEP_M * slope, jitter, slope, right, 0.01, 50.0, by_eye)
            yield SceneKnob(
                f"{at}.distance_m",
                f"{link.name or link.title}, distance",
                "length",
                link.distance_m,
                knob,
            )
        if isinstance(link, Beam):
            speed = float(physics.trajectory.speed_m_s(0.0))
            if speed > 1e-3:
                # Further upstream is earlier.
                slope = -1 / speed
            else:
                slope = 0.0
            knob = Knob(
                _PLACE_STEP_M * abs(slope), jitter, slope, right, 0.0, 50.0, by_eye
            )
            yield SceneKnob(
                f"{at}.distance_m",
                f"{link.name or link.title}, upstream",
                "length",
                link.distance_m,
                knob,
            )
        if isinstance(link, Finger) and link.way == "anticipates":
            knob = Knob(_FINGER_STEP_S, jitter, -1.0, right, 0.0, 2.0, by_eye)
            yield SceneKnob(
                f"{at}.lead_s",
                f"{link.name or link.title}, lead",
                "delay",
                link.lead_s,
                knob,
            )


def _second(scene: Scene, step_s: float, by_eye: bool) -> Iterator[SceneKnob]:
    """The second release: its drop is early or late for the jet."""
    if scene.drops is None:
        return
    plan = planned(scene.drops)
    value = scene.drops.second_set_s
    if value is None:
        if plan.solved is None:
            value = plan.coarse_second_s
        else:
            value = plan.solved.second_release_s
    if scene.drops.lasts_s is None:
        right = None
    else:
        right = scene.drops.lasts_s / 2
    # By how much a drop comes late for its jet: both of its release and of the jet's height.
    parts = [scene.drops.valve_sd_s]
    if (
        plan.fitted is not None
        and plan.meeting is not None
        and plan.fitted.jet.sd_m is not None
    ):
        parts.append(
            plan.fitted.jet.sd_m / (plan.meeting.rising_m_s + plan.meeting.falling_m_s)
        )
    known = [part for part in parts if part is not None]
    if known:
        jitter = math.hypot(*known)
    else:
        jitter = None
    knob = Knob(step_s, jitter, 1.0, right, 0.0, by_eye=by_eye)
    says = "the second drop before, or after, the jet is there"
    yield SceneKnob("drops.second_set_s", "Second release", "delay", value, knob, says)
