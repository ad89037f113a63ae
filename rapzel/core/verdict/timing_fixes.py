"""What brings the light to its instant, each with the delay that it then leaves, and the two schools (science §11)."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from rapzel.core.document.places import changed
from rapzel.core.document.scene import Scene, with_values
from rapzel.core.methods import METHODS
from rapzel.core.physics import Physics
from rapzel.core.physics.timing import Timing
from rapzel.core.physics.wanted import trajectory_of
from rapzel.core.possible import possible
from rapzel.core.shared.errors import CoreError
from rapzel.core.shared.steps import settled
from rapzel.core.shared.units import (
    format_length,
    format_percent,
    format_time,
    format_time_within,
)
from rapzel.core.trigger.links import Beam, Finger, Sound
from rapzel.core.verdict.change import Change
from rapzel.core.verdict.timely import ASKED_SHARE, why_not

_MORE = 0.01  # share of tries by which a change has to do better to be called better
_SOONER_S = 1e-4  # by which a light has to be less late to be better
_SAME_S = 1e-6  # a delay that differs by less is the same one
# of its way upstream: where a second beam may stand and still leave time to act
_SECOND_SHARE = 0.75


def settable_s(delay_s: float, resolution_s: float) -> float:
    """The delay that can be set nearest to one [s], not below 0: in steps of the unit's resolution, else of 1 µs."""
    step = resolution_s or 1e-6
    return max(settled(delay_s, step), 0.0)


def with_delay(scene: Scene, values: Mapping[str, Any]) -> dict[str, Any] | None:
    """The values with the set delay that they leave; None where the scene would be impossible.

    Where nothing says when the picture is wanted the delay stays as it is.
    """
    try:
        after = with_values(scene, values)
    except CoreError:
        return None
    needed = Physics(after).needed_delay_s
    if needed is None:
        return dict(values)
    delay = settable_s(needed, after.trigger.resolution_s)
    # A proposal that sets what is set already would be offered for ever.
    if abs(delay - after.trigger.set_delay_s) < _SAME_S:
        return dict(values)
    return {**values, "trigger.set_delay_s": delay}


def timing_changes(scene: Scene, imperial: bool = False) -> Iterator[Change]:
    """Changes of the chain that may close the timing margin, what costs least first."""
    delay = with_delay(scene, {})
    if delay:
        yield Change(
            "timing",
            f"delay {format_time(delay['trigger.set_delay_s'])}",
            tuple(delay.items()),
        )
    for says, values in (*_bodies(scene), *_sensors(scene, imperial), *_others(scene)):
        whole = with_delay(scene, values)
        if whole is not None:
            yield Change("timing", says, tuple(whole.items()))


Proposal = tuple[str, dict[str, Any]]


def _bodies(scene: Scene) -> Iterator[Proposal]:
    """A quicker answer of the body, as far as its figures are known."""
    camera = scene.camera
    if scene.trigger.fires != "camera":
        return
    if camera.asleep:
        yield "body kept awake", {"camera.asleep": False}
    if not camera.mirror_up and camera.mirror_s:
        yield "mirror up", {"camera.mirror_up": True}
    if not camera.electronic_first_curtain and camera.first_curtain_s:
        yield "electronic first curtain", {"camera.electronic_first_curtain": True}


def _late_s(scene: Scene) -> float | None:
    """By how much the light comes too late whatever is set [s]; negative: the delay that is left. None: not known."""
    needed = Physics(scene).needed_delay_s
    if needed is None:
        return None
    return -needed


def _sensors(scene: Scene, imperial: bool) -> Iterator[Proposal]:
    """A microphone nearer, or further off in the place of a delay; a beam further upstream; a second beam."""
    late = _late_s(scene)
    for place, link in enumerate(scene.trigger.links):
        at = f"trigger.links[{place}]"
        if isinstance(link, Sound) and late is not None:
            yield from _microphone(at, link, late, imperial)
        if isinstance(link, Beam):
            yield from _beam(scene, at, link, late, imperial)


def _microphone(
    at: str, sound: Sound, late_s: float, imperial: bool
) -> Iterator[Proposal]:
    """The distance at which the air alone makes the delay; as near as it goes where that is not near enough."""
    # The air is a delay line: the distance at which sound arrives just in time.
    there = sound.distance_m - late_s * sound.speed_m_s
    if there > 50 or abs(there - sound.distance_m) < 0.005:
        return  # nobody has so long a cable, and half a centimetre is no change
    nearer = round(max(there, 0.05), 2)
    if late_s > 0 and nearer < sound.distance_m:
        by = format_length(sound.distance_m - nearer, imperial)
        yield f"microphone {by} closer", {f"{at}.distance_m": nearer}
    elif late_s < 0:
        yield (
            f"microphone at {format_length(nearer, imperial)}, no delay",
            {f"{at}.distance_m": nearer},
        )


def _beam(
    scene: Scene, at: str, beam: Beam, late_s: float | None, imperial: bool
) -> Iterator[Proposal]:
    speed = float(trajectory_of(scene).speed_m_s(0.0))
    if late_s is not None and late_s > 0 and speed > 0:
        # Up to the whole centimetre: a little too early can be waited for, a little too late
        # cannot.
        further = math.ceil(late_s * speed * 100) / 100
        values = {f"{at}.distance_m": round(beam.distance_m + further, 2)}
        if scene.moment.at_s is not None:  # the event comes earlier by as much
            values["moment.at_s"] = scene.moment.at_s + further / speed
        yield f"beam {format_length(further, imperial)} further upstream", values
    # Where all come equally fast a second beam has nothing to measure.
    spread = scene.motion.stated_sd_m_s > 0 and not scene.motion.bent
    if (
        spread
        and beam.second_m is None
        and beam.distance_m > 0
        and scene.moment.at_s is None
    ):
        apart = round(max(_SECOND_SHARE * beam.distance_m, 0.05), 2)
        yield (
            f"a second beam {format_length(apart, imperial)} before it",
            {f"{at}.second_m": apart},
        )


def _others(scene: Scene) -> Iterator[Proposal]:
    """People who anticipate, a picture at the apex, the flash fired directly."""
    for place, link in enumerate(scene.trigger.links):
        at = f"trigger.links[{place}]"
        if isinstance(link, Finger) and link.way == "reacts":
            # Figures of somebody who reacts say nothing of the same person who anticipates.
            own = {
                f"{at}.way": "anticipates",
                f"{at}.lag_s": None,
                f"{at}.jitter_s": None,
            }
            yield "anticipate instead of react", own
        if isinstance(link, Finger) and link.look_s > 0:
            yield "look past the finder", {f"{at}.look_s": 0.0}
    if scene.trigger.fires == "camera":
        yield "open shutter, trigger fires the flash", school_values(scene, "flash")
    if scene.motion.kind == "leap" and scene.motion.from_apex_s > 0:
        yield "caught at the apex", {"motion.from_apex_s": 0.0}


# --- the two schools ---

SCHOOLS = {
    "camera": "The trigger fires the camera, which fires the flash",
    "flash": "The shutter stands open, the trigger fires the flash",
}


def school_values(scene: Scene, fires: str) -> dict[str, Any]:
    """The values that make a scene one of the other school; none where it is of that one already."""
    if scene.trigger.fires == fires:
        return {}
    document = scene.to_document()
    if fires == "flash":
        there = METHODS["open_shutter"].recipe(document)
    # opened anew for every try: as long as the sync speed asks, not as long as it stood open
    else:
        once = changed(document, {"exposure.shutter_s": scene.camera.sync_speed_s})
        there = METHODS["pulse"].recipe(once)
    return {
        "exposure.method": there["exposure"]["method"],
        "exposure.shutter_s": there["exposure"]["shutter_s"],
        "trigger.fires": fires,
    }


@dataclass(frozen=True, slots=True)
class ChainOutcome:
    """What a chain comes to, in words and figures; `problem` where the scene would be impossible."""

    says: str
    timing: Timing | None
    problem: str = ""

    @property
    def lands(self) -> float | None:
        """Share of tries that land, else of those that stay in the frame; None where not known."""
        timing = self.timing
        if timing is None or timing.shares is None:
            return None
        if timing.judged:
            return timing.share
        return timing.shares.in_frame


def outcome_of(timing: Timing) -> ChainOutcome:
    """When the light comes, how far that is off, and how often it lands, in one line."""
    if timing.flash_after_event_s is None:
        return ChainOutcome(f"not known: {', '.join(timing.unknown)}", timing)
    when = format_time_within(timing.flash_after_event_s, timing.jitter_s)
    parts = [f"light {when} after the event"]
    if timing.noticeably_late_s:
        parts.append(f"{format_time(timing.too_late_s)} too late at best")
    elif timing.needed_delay_s is not None and not timing.metered:
        parts.append(f"delay {format_time(timing.needed_delay_s)} is right")
    if timing.share is not None:
        if timing.share < ASKED_SHARE:
            why = f", {why_not(timing)}"
        else:
            why = ""
        parts.append(f"{format_percent(timing.share)} land{why}")
    elif timing.shares is not None:
        parts.append(f"{format_percent(timing.shares.in_frame)} stay in the frame")
    return ChainOutcome(", ".join(parts), timing)


def outcome_with(scene: Scene, values: Mapping[str, Any]) -> ChainOutcome:
    """The chain's outcome after a change of the scene."""
    try:
        after = possible(with_values(scene, values))
    except CoreError as error:
        return ChainOutcome("", None, str(error))
    return outcome_of(Physics(after).timing)


@dataclass(frozen=True, slots=True)
class Fix:
    """A change of the chain with what it would come to."""

    change: Change
    outcome: ChainOutcome
    better: bool  # more tries land than now, or the light is less late


def fixes(physics: Physics, imperial: bool = False) -> list[Fix]:
    """Every change of the chain that is possible, with its numbers; what lands most comes first."""
    scene, now, found = physics.scene, outcome_of(physics.timing), []
    for change in timing_changes(scene, imperial):
        outcome = outcome_with(scene, dict(change.values))
        if outcome.timing is not None:
            found.append(Fix(change, outcome, _is_better(outcome, now)))
    return sorted(
        found, key=lambda fix: (-(fix.outcome.lands or 0.0), _late_of(fix.outcome))
    )


def _late_of(outcome: ChainOutcome) -> float:
    if outcome.timing:
        return outcome.timing.too_late_s
    return math.inf


def _is_better(outcome: ChainOutcome, now: ChainOutcome) -> bool:
    """Whether more land, or as many of a light that is less late."""
    # Shares of drawn tries differ by chance in the third digit.
    gain = (outcome.lands or 0.0) - (now.lands or 0.0)
    return gain > _MORE or (
        gain > -_MORE and _late_of(outcome) < _late_of(now) - _SOONER_S
    )


def schools(physics: Physics) -> dict[str, ChainOutcome]:
    """Both schools by what the trigger fires, each with the delay that it leaves; the chosen one as it is set."""
    found = {}
    for fires in SCHOOLS:
        values = school_values(physics.scene, fires)
        if not values:
            found[fires] = outcome_of(physics.timing)
            continue
        with_it = with_delay(physics.scene, values)
        found[fires] = outcome_with(
            physics.scene, values if with_it is None else with_it
        )
    return found
