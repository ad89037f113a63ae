"""A scene as planned, and with the subject a third slower and a third faster: what blur would come of it."""

from dataclasses import dataclass
from typing import Any

from rapzel.core.document.scene import Scene, with_values
from rapzel.core.motion import Motion
from rapzel.core.physics import Physics
from rapzel.core.shared.errors import DocumentError
from rapzel.core.shared.units import format_number

THIRD = 1 / 3
# what it is called, and by what the speed is changed
SPEEDS = (
    ("A third slower", 1 - THIRD),
    ("As planned", 1.0),
    ("A third faster", 1 + THIRD),
)


@dataclass(frozen=True)
class AtSpeed:
    """A scene at another speed of its subject. physics: None where no scene may be that fast."""

    title: str
    planned: bool
    physics: Physics | None

    @property
    def speed(self) -> float | None:
        """At the wanted instant [m/s]."""
        return self.physics.trajectory.wanted_speed_m_s if self.physics else None

    @property
    def smear_px(self) -> float | None:
        """None without light on the part that moves."""
        if self.physics is None or self.physics.stopping_s is None:
            return None
        frame = self.physics.frame
        return frame.smear_px(self.physics.stopping_s, self.physics.centred)

    @property
    def too_much(self) -> bool:
        """Whether the smear is longer than is allowed."""
        smear = self.smear_px
        if self.physics is None or smear is None:
            return False
        return smear > self.physics.frame.criterion_px

    @property
    def says(self) -> str:
        """The smear in words."""
        smear = self.smear_px
        if smear is None:
            return "no light"
        length = f"{format_number(smear, 2)} px"
        return f"{length}, too much" if self.too_much else length


def _faster(motion: Motion, by: float) -> dict[str, Any]:
    """What of a motion has to change for it to be so many times as fast, its spread with it."""
    # Speeds of what falls or swings go with the root of a length (science §3).
    names = {
        "steady": {"speed_m_s": by},
        "measured": {"speed_m_s": by, "distance_m": by},
        "rotation": {"rpm": by},
        "swing": {"length_m": by * by},
        "fall": {"height_m": by * by, "terminal_m_s": by},
        "leap": {"horizontal_m_s": by, "from_apex_s": by},
    }[motion.kind]
    values = {}
    for name, factor in {**names, "speed_sd_m_s": by}.items():
        value = getattr(motion, name, None)
        if value is not None:
            values[f"motion.{name}"] = value * factor
    return values


def at_speed(scene: Scene, by: float) -> Scene:
    """The scene with its subject so many times as fast. Raises DocumentError where no motion is that fast."""
    return with_values(scene, _faster(scene.motion, by))


def at_speeds(physics: Physics) -> list[AtSpeed]:
    """The scene at each of `SPEEDS`, slowest first."""
    found = []
    for title, by in SPEEDS:
        planned = by == 1
        other: Physics | None = physics
        if not planned:
            other = _physics_at(physics.scene, by)
        found.append(AtSpeed(title, planned, other))
    return found


def _physics_at(scene: Scene, by: float) -> Physics | None:
    try:
        return Physics(at_speed(scene, by))
    except DocumentError:
        return None
