"""What moves, as a trajectory for every kind: place and velocity at each instant about the event (science §3).

A new kind is one class in one file: its fields with their labels, `local`, `formula` and what a new one begins with;
then a line in `KINDS` and in `Motion`. Speeds in m/s, lengths in m, times in s after the event.
"""

from typing import Annotated

from pydantic import Field

from rapzel.core.motion.fall import Fall
from rapzel.core.motion.leap import Leap
from rapzel.core.motion.rotation import Rotation, Swing
from rapzel.core.motion.steady import Measured, Steady
from rapzel.core.motion.trajectory import Axes, Movement, Trajectory

Motion = Annotated[
    Steady | Fall | Leap | Rotation | Swing | Measured, Field(discriminator="kind")
]
KINDS: dict[str, type[Movement]] = {
    "steady": Steady,
    "fall": Fall,
    "leap": Leap,
    "rotation": Rotation,
    "swing": Swing,
    "measured": Measured,
}

__all__ = [
    "KINDS", "Axes", "Fall", "Leap", "Measured", "Motion", "Movement", "Rotation", "Steady", "Swing", "Trajectory",
]  # fmt: skip
