"""The subjects of the rehearsal: a stack of layers each, from back to front, with fine detail on the part that moves.

Each layer has a reflectance and a coverage, and moves with a share of the speed. Shapes are drawn in units of the
subject's own height and scaled by the real magnification.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache, partial

import numpy as np
import numpy.typing as npt

from rapzel.core.document.rehearsed import Rehearsal
from rapzel.core.subjects import cutout, people, things
from rapzel.core.subjects.pen import Layer, NewPen, Pen, Point, View

# reflectance; black velvet returns about 1 % (memory)
BACKGROUNDS = {
    "black": 0.012,
    "grey": 0.18,
    "white": 0.85,
}


@dataclass(frozen=True, slots=True, eq=False)
class Subject:
    """How to draw one subject, its natural height [m] and the place of its fine detail in its own units.

    The height of one's own cut-out is not known: None. Equal to itself only.
    """

    draw: Callable[[View, float], list[Layer]]
    height_m: float | None
    detail: Point
    says: str


def _drawn(
    draw: Callable[[NewPen], list[Layer]], height_m: float, detail: Point, says: str
) -> Subject:
    return Subject(
        lambda view, size_m: draw(lambda: Pen(view, size_m)), height_m, detail, says
    )


SUBJECTS = {
    "figure": _drawn(people.fencer, 1.75, (0.36, 0.178), "a fencer in a lunge; detail: guard, threads and lettering"
    ),
    "dancer": _drawn(people.dancer, 1.7, (0.0, -0.08), "a dancer mid-leap; detail: pleats of the skirt"),
    "turner": _drawn(people.turner, 1.75, (0.33, 0.16), "a dancer in a turn; detail: fingers and the hem's beads"),
    "kicker": _drawn(people.kicker, 1.75, (0.42, 0.20), "a high kick; detail: threads and toes"),
    "runner": _drawn(people.runner, 1.8, (0.22, -0.44), "a sprinter; detail: laces and spikes"),
    "skater": _drawn(people.skater, 1.9, (0.18, -0.36), "a jump on wheels; detail: wheels and deck"),
    "skipper": _drawn(people.skipper, 2.1, (0.0, 0.50), "a rope skipper; detail: the lay of the rope"),
    "racket": _drawn(people.racket, 0.75, (0.26, 0.08), "a racket at the ball; detail: strings and felt"),
    "archer": _drawn(people.archer, 1.6, (-0.22, 0.0), "an arrow leaving the bow; detail: fletching and nock"),
    "wheel": _drawn(things.wheel, 0.30, (0.0, 0.0), "a lettered target with 48 spokes"),
    "machine": _drawn(things.machine, 0.25, (0.0, 0.36), "a gear in its housing; detail: teeth and scale"),
    "drop": _drawn(things.drop, 0.06, (0.0, 0.30), "a splash with a jet and beads"),
    "spray": _drawn(things.spray, 0.8, (0.22, 0.08), "water thrown from a bowl; detail: threads and beads"),
    "glass": _drawn(things.glass, 0.22, (0.10, 0.14), "a glass that breaks; detail: edges of the shards"),
    "balloon": _drawn(things.balloon, 0.30, (-0.32, 0.12), "a balloon that bursts; detail: edges of the skin"),
    "moth": _drawn(things.moth, 0.06, (0.04, 0.34), "a hawk-moth at a flower; detail: veins and scales"),
}  # fmt: skip


@lru_cache(maxsize=8)
def subject_of(rehearsal: Rehearsal) -> Subject:
    """What a scene rehearses with. Raises CutOutError for a cut-out whose picture cannot be read."""
    own = rehearsal.cutout
    if rehearsal.subject != "cutout" or own is None:
        return SUBJECTS[rehearsal.subject]
    if own.moving:
        says = "your cut-out; detail: the part that moves"
    else:
        says = "your cut-out, moving as a whole"
    return Subject(partial(cutout.layers, own), None, cutout.detail_of(own), says)


# A frame of two layers is 10 MB, so only what a person at work comes back to is kept: one frame and its inset.
@lru_cache(maxsize=2)
def layers_of(subject: Subject, size_m: float, view: View) -> tuple[Layer, ...]:
    """The layers of a subject of that height [m] as one view sees them, from back to front."""
    return tuple(subject.draw(view, size_m))


def portrait(kind: str, width: int, height: int) -> npt.NDArray[np.uint8]:
    """A subject on a dark ground, filling the picture, as grey bytes (height × width); for choosing one."""
    view = View(height * 0.82, width, height, centre_x_m=_PORTRAIT_X.get(kind, 0.0))
    picture = np.full((height, width), BACKGROUNDS["black"])
    # Each layer over what is behind it, as far as it covers it.
    for layer in SUBJECTS[kind].draw(view, 1.0):
        picture = picture * (1 - layer.cover) + layer.lit
    return np.asarray(255 * picture ** (1 / 2.2), dtype=np.uint8)


# where the middle of it is
_PORTRAIT_X = {
    "figure": 0.15,
    "spray": -0.05,
    "moth": 0.12,
    "archer": 0.08,
}


def drawn_height_m(
    subject: Subject, asked_m: float | None, field_height_m: float
) -> float:
    """The height at which a subject is drawn [m]: as asked, else its natural one where that suits the frame."""
    if asked_m is not None:
        return asked_m
    natural = subject.height_m
    # Between a speck and a detail: else the size that shows the motion is taken.
    suits = natural is not None and 0.15 <= natural / field_height_m <= 1.2
    if suits and natural is not None:
        return natural
    return 0.6 * field_height_m
