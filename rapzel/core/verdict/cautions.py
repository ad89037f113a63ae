"""Cautions that a scene calls for (science §16). Never a substitute for local rules or licensed people."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

from rapzel.core.document.scene import Scene
from rapzel.core.physics.wanted import trajectory_of
from rapzel.core.shared import constants
from rapzel.core.shared.units import format_length

# repeated flashing that can trigger seizures; threshold as in WCAG 2.3.1
SEIZURE_HZ = 3.0
# Nearer than that a full pop is unpleasant, and a modifier may be knocked (common practice).
_NEAR_M = 1.0
# What flies about, by the caution that speaks of it.
_FLIES = {"glass": "a shard", "projectile": "what is shot"}
_TABLE_M = 1.0  # where nobody says how high it breaks, or is shot from (a choice)


@dataclass(frozen=True, slots=True)
class Caution:
    """What to mind, under a short heading."""

    key: str
    heading: str
    says: str


def _hazard(name: str) -> Callable[[Scene], bool]:
    return lambda scene: name in scene.hazards


def _repeated(scene: Scene) -> bool:
    rate = scene.exposure.frames_per_s
    return bool(scene.lights) and rate is not None and rate >= SEIZURE_HZ


def _burst(scene: Scene) -> bool:
    return bool(scene.lights) and (scene.exposure.frames_per_s or 0) >= 1


# In the order of the sheet: what every set needs first, what the day adds after it.
RULES: tuple[tuple[Callable[[Scene], bool], Caution], ...] = (
    (
        lambda scene: bool(scene.lights),
        Caution(
            "voltage",
            "High voltage",
            "Never open a flash or its capacitors, charged or not.",
        ),
    ),
    (
        lambda scene: bool(scene.lights),
        Caution(
            "stands",
            "Stands and cables",
            "Weight the stands, tape the cables, keep both out of the way people walk.",
        ),
    ),
    (
        _hazard("water"),
        Caution(
            "water",
            "Liquids or powder near mains",
            "Residual-current protection on every circuit, covers on the lights, dry hands, battery lights where "
            "possible.",
        ),
    ),
    (
        _hazard("glass"),
        Caution(
            "glass",
            "Broken glass",
            "Eye protection for everybody, a shield in front of the lens, sweep between tries.",
        ),
    ),
    (
        _hazard("projectile"),
        Caution(
            "projectile",
            "Anything shot or thrown hard",
            "Bows, airguns and the like only on a range, under its officer and local law; eye protection, shields, "
            "nobody in front of the line.",
        ),
    ),
    (
        _hazard("athlete"),
        Caution(
            "athlete",
            "Flash and athletes",
            "Ask the organiser: many sports forbid flash. A flash in the eyes at the wrong instant causes falls.",
        ),
    ),
    (
        _hazard("performer"),
        Caution(
            "performer",
            "Jumping and falling",
            "Mats, a warm-up, an agreed limit of tries; the performer may stop at any time.",
        ),
    ),
    (
        _hazard("public"),
        Caution(
            "public",
            "A public floor",
            "Lights on battery and held by a helper where the floor stays open; no stand near learners.",
        ),
    ),
    (
        _hazard("animal"),
        Caution(
            "animal",
            "Animals",
            "Distance, low power, few pops; stop at signs of distress. Protected species, nests and roosts need a "
            "licence; caves and roosts have bad air.",
        ),
    ),
    (
        _hazard("unattended"),
        Caution(
            "unattended",
            "Left alone",
            "Nothing that can tip, heat up or get wet stays switched on without somebody near.",
        ),
    ),
    (
        _hazard("hot"),
        Caution(
            "hot",
            "Heat and flame",
            "Hot wax, flames and lamps: clear the table, have a cover and water at hand, ventilate.",
        ),
    ),
    (
        _repeated,
        Caution(
            "seizure",
            "Repeated flashing",
            "Three or more flashes a second can trigger seizures: warn everybody present, ask, and stop when asked.",
        ),
    ),
    (
        _burst,
        Caution(
            "heat",
            "Tightly packed bursts",
            "Keep to the lights' limit of pops a minute and let them cool.",
        ),
    ),
    (
        lambda scene: (
            # What falls through a splash has no face; whoever holds it is cautioned by the other
            # rules.
            any(light.distance_m < _NEAR_M for light in scene.lights)
            and scene.motion.kind != "fall"
        ),
        Caution(
            "eyes",
            "Close to faces",
            "Never fire near open eyes; a light within a metre of a face needs its consent.",
        ),
    ),
)


def cautions_for(scene: Scene) -> list[Caution]:
    """The cautions that apply to a scene, in a fixed order."""
    found = [caution for applies, caution in RULES if applies(scene)]
    return [
        _with_reach(caution, scene) if caution.key in _FLIES else caution
        for caution in found
    ]


def _with_reach(caution: Caution, scene: Scene) -> Caution:
    """The caution of what flies about with how far it may fly; as it is where nothing moves."""
    reach = danger_m(scene)
    if reach is None:
        return caution
    far, what = format_length(reach), _FLIES[caution.key]
    height = scene.subject.height_m
    above = "a table" if height is None else format_length(height)
    says = (
        f"{caution.says} At this speed {what} may land {far} away, thrown from {above} without the air that slows it: "
        "nobody unprotected nearer than that."
    )
    return replace(caution, says=says)


def danger_m(scene: Scene) -> float | None:
    """How far what moves may fly from where it starts, at the most [m]; None where nothing moves.

    The best angle from a height h without air: R = v / g · √(v² + 2 g h). The speed is taken two deviations faster.
    Source: the parabola of safety.
    """
    usual = trajectory_of(scene).wanted_speed_m_s
    spread = scene.motion.speed_sd_m_s
    if spread is None:
        spread = constants.UNSAID_SPEEDS * usual
    fastest = usual + 2 * spread
    if fastest <= 0:
        return None
    height = scene.subject.height_m
    if height is None:
        height = _TABLE_M
    falls = fastest**2 + 2 * constants.GRAVITY_M_S2 * height
    return fastest / constants.GRAVITY_M_S2 * math.sqrt(falls)
