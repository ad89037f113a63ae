"""The subjects of the rehearsal: a stack of layers each, from back to front, with fine detail on the part that moves.

Each layer has a reflectance and a coverage, and moves with a share of the speed. Shapes are drawn in units of the
subject's own height and scaled by the real magnification.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from rapzel.core.rehearsal.pen import Layer, NewPen, Pen, Point, View
from rapzel.core.rehearsal.subjects import people, things

BACKGROUNDS = {
    "black": 0.012,
    "grey": 0.18,
    "white": 0.85,
}  # reflectance; black velvet returns about 1 % (memory)


@dataclass(frozen=True, slots=True)
class Subject:
    """How to draw one subject, its natural height [m] and the place of its fine detail in its own units."""

    draw: Callable[[NewPen], list[Layer]]
    height_m: float
    detail: Point
    says: str


SUBJECTS = {
    "figure": Subject(
        people.fencer, 1.75, (0.36, 0.178), "a fencer in a lunge; detail: guard, threads and lettering"
    ),
    "dancer": Subject(people.dancer, 1.7, (0.0, -0.08), "a dancer mid-leap; detail: pleats of the skirt"),
    "kicker": Subject(people.kicker, 1.75, (0.42, 0.20), "a high kick; detail: threads and toes"),
    "runner": Subject(people.runner, 1.8, (0.22, -0.44), "a sprinter; detail: laces and spikes"),
    "skater": Subject(people.skater, 1.9, (0.18, -0.36), "a jump on wheels; detail: wheels and deck"),
    "skipper": Subject(people.skipper, 2.1, (0.0, 0.50), "a rope skipper; detail: the lay of the rope"),
    "racket": Subject(people.racket, 0.75, (0.26, 0.08), "a racket at the ball; detail: strings and felt"),
    "archer": Subject(people.archer, 1.6, (-0.22, 0.0), "an arrow leaving the bow; detail: fletching and nock"),
    "wheel": Subject(things.wheel, 0.30, (0.0, 0.0), "a lettered target with 48 spokes"),
    "machine": Subject(things.machine, 0.25, (0.0, 0.36), "a gear in its housing; detail: teeth and scale"),
    "drop": Subject(things.drop, 0.06, (0.0, 0.30), "a splash with a jet and beads"),
    "spray": Subject(things.spray, 0.8, (0.22, 0.08), "water thrown from a bowl; detail: threads and beads"),
    "glass": Subject(things.glass, 0.22, (0.10, 0.14), "a glass that breaks; detail: edges of the shards"),
    "balloon": Subject(things.balloon, 0.30, (-0.32, 0.12), "a balloon that bursts; detail: edges of the skin"),
    "moth": Subject(things.moth, 0.06, (0.04, 0.34), "a hawk-moth at a flower; detail: veins and scales"),
}  # fmt: skip


# A frame of two layers is 10 MB, so only what a person at work comes back to is kept: one frame and its inset.
@lru_cache(maxsize=2)
def layers_of(kind: str, size_m: float, view: View) -> tuple[Layer, ...]:
    """The layers of a subject of that height [m] as one view sees them, from back to front."""
    return tuple(SUBJECTS[kind].draw(lambda: Pen(view, size_m)))


def portrait(kind: str, width: int, height: int) -> npt.NDArray[np.uint8]:
    """A subject on a dark ground, filling the picture, as grey bytes (height × width); for choosing one."""
    view = View(height * 0.82, width, height, centre_x_m=_PORTRAIT_X.get(kind, 0.0))
    picture = np.full((height, width), BACKGROUNDS["black"])
    for layer in SUBJECTS[kind].draw(lambda: Pen(view, 1.0)):
        picture = picture * (1 - layer.cover) + layer.lit
    return np.asarray(255 * picture ** (1 / 2.2), dtype=np.uint8)


_PORTRAIT_X = {
    "figure": 0.15,
    "spray": -0.05,
    "moth": 0.12,
    "archer": 0.08,
}  # where the middle of it is


def drawn_height_m(kind: str, asked_m: float | None, field_height_m: float) -> float:
    """The height at which a subject is drawn [m]: as asked, else its natural one where that suits the frame."""
    if asked_m is not None:
        return asked_m
    natural = SUBJECTS[kind].height_m
    return natural if 0.15 <= natural / field_height_m <= 1.2 else 0.6 * field_height_m
