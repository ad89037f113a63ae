"""The parts of a scene that say when its light comes and where that finds the subject."""

from typing import NamedTuple

from rapzel.core.document.gear import Camera
from rapzel.core.document.scene import Moment, Scene, Subject, Trigger
from rapzel.core.motion import Motion


class Timed(NamedTuple):
    """The parts of a scene that its tries depend on, besides method and framing: nothing else draws them anew."""

    motion: Motion
    subject: Subject
    moment: Moment
    trigger: Trigger
    camera: Camera
    # from the first curtain's contact until the flash is fired [s]: of the second curtain
    second_curtain_s: float = 0.0


def timed(scene: Scene, second_curtain_s: float = 0.0) -> Timed:
    """What the timing of a scene depends on."""
    return Timed(
        scene.motion,
        scene.subject,
        scene.moment,
        scene.trigger,
        scene.camera,
        second_curtain_s,
    )
