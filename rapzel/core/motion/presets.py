"""Usual speeds of body parts and props, to begin with where nothing has been measured (science §3)."""

from collections.abc import Mapping
from dataclasses import dataclass

from rapzel.core.shared.constants import NINE_IN_TEN_SD
from rapzel.core.shared.errors import OutOfRange, require_positive
from rapzel.core.shared.part import Hazard


@dataclass(frozen=True, slots=True)
class UsualSpeed:
    """How fast something commonly moves [m/s]: a range, the figure to begin with, and where both come from."""

    name: str
    low_m_s: float
    usual_m_s: float
    high_m_s: float
    source: str = "memory"
    hazards: tuple[Hazard, ...] = ()  # that come with it, for the cautions

    def __post_init__(self) -> None:
        require_positive(low_m_s=self.low_m_s)
        if not self.low_m_s <= self.usual_m_s <= self.high_m_s:
            raise OutOfRange(
                "usual_m_s",
                self.usual_m_s,
                f"between {self.low_m_s:g} and {self.high_m_s:g}",
            )

    @property
    def sd_m_s(self) -> float:
        """The range as a standard deviation [m/s], to two digits: nine in ten lie within the range."""
        half = (self.high_m_s - self.low_m_s) / 2
        return float(f"{half / NINE_IN_TEN_SD:.2g}")

    @property
    def says(self) -> str:
        """The name with its range, as a list offers it."""
        return f"{self.name}, {self.low_m_s:g}–{self.high_m_s:g} m/s ({self.source})"


USUAL_SPEEDS = (
    UsualSpeed("Turning dancer's hand", 2, 4, 7, hazards=("performer",)),
    UsualSpeed("Flicked hair", 3, 5, 8),
    UsualSpeed("Runner's body", 4, 7, 10, hazards=("athlete",)),
    UsualSpeed("Runner's swinging foot", 8, 13, 20, hazards=("athlete",)),
    UsualSpeed("Kicking foot", 12, 18, 25, hazards=("athlete",)),
    UsualSpeed("Boxer's fist", 5, 8, 12, hazards=("athlete",)),
    UsualSpeed("Fencer's hand", 4, 8, 10, hazards=("athlete",)),
    UsualSpeed("Blade tip", 10, 18, 30, hazards=("athlete",)),
    UsualSpeed("Racket head", 20, 32, 50, hazards=("athlete",)),
    UsualSpeed("Thrown ball", 12, 25, 45, hazards=("projectile",)),
    UsualSpeed("Arrow from a bow", 40, 55, 75, hazards=("projectile",)),
    UsualSpeed("Splash and droplets", 1, 3, 6, hazards=("water",)),
    UsualSpeed("Glass shards", 3, 10, 30, hazards=("glass",)),
    UsualSpeed("Moth's wing tip", 2, 4, 8, hazards=("animal",)),
)
# How long parts of grown people are [m], as a trail is told by them; common practice.
BODY_M: Mapping[str, float] = {
    "hand": 0.19,
    "foot": 0.26,
    "forearm": 0.45,
    "arm": 0.7,
    "leg": 0.9,
}
RULE_OF_THUMB = "swung hands and feet want roughly 1/5000–1/6000 s"  # common practice
