"""Drawn test subjects for the rehearsal: our own shapes, with fine detail on the part that moves.

A subject is a stack of layers from back to front. Each layer has a reflectance and a coverage, and moves with a share
of the speed. Shapes are drawn in units of the subject's own height and scaled by the real magnification.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

from rapzel.core.rehearsal.pen import Layer, Pen, Point, View

BACKGROUNDS = {
    "black": 0.012,
    "grey": 0.18,
    "white": 0.85,
}  # reflectance; black velvet returns about 1 % (memory)


def _figure(new_pen: Callable[[], Pen]) -> list[Layer]:
    """A fencer in a lunge: the body follows, the sword arm is the fast part."""
    body = new_pen()
    body.line([(-0.10, -0.06), (-0.26, -0.26), (-0.44, -0.46)], 0.085, 0.62)
    body.line([(0.00, -0.08), (0.20, -0.18), (0.22, -0.46)], 0.095, 0.68)
    body.line([(-0.47, -0.475), (-0.36, -0.475)], 0.045, 0.5)
    body.line([(0.20, -0.475), (0.33, -0.475)], 0.045, 0.5)
    body.line([(-0.08, 0.20), (-0.26, 0.24), (-0.38, 0.33)], 0.062, 0.66)
    body.polygon([(-0.13, -0.09), (0.05, -0.11), (0.09, 0.22), (-0.09, 0.25)], 0.74)
    for fold in range(5):
        x = -0.10 + fold * 0.04
        body.line([(x, -0.07), (x + 0.02, 0.20)], 0.006, 0.5)
    body.disc((0.03, 0.345), 0.082, 0.30, 1.15)
    for bar in range(-4, 5):
        tall = 0.094 * math.sqrt(1 - (bar / 4.8) ** 2)
        wide = 0.082 * math.sqrt(1 - (bar / 4.8) ** 2)
        body.line(
            [(0.03 + bar * 0.017, 0.345 - tall), (0.03 + bar * 0.017, 0.345 + tall)], 0.002, 0.13
        )
        body.line(
            [(0.03 - wide, 0.345 + bar * 0.0196), (0.03 + wide, 0.345 + bar * 0.0196)], 0.002, 0.13
        )
    arm = new_pen()
    arm.line([(0.05, 0.18), (0.20, 0.155), (0.355, 0.175)], 0.062, 0.74)
    arm.letters("RAPZEL 7", (0.235, 0.163), 0.026, 0.12)
    for thread in range(9):
        arm.line([(0.30 + thread * 0.007, 0.148), (0.303 + thread * 0.007, 0.192)], 0.0012, 0.4)
    arm.disc((0.385, 0.178), 0.042, 0.55)
    for spoke in range(24):
        angle = math.tau * spoke / 24
        arm.line(
            [(0.385, 0.178), (0.385 + 0.040 * math.cos(angle), 0.178 + 0.040 * math.sin(angle))],
            0.0012,
            0.16,
        )
    arm.ring((0.385, 0.178), 0.042, 0.004, 0.86)
    arm.line([(0.385, 0.178), (0.82, 0.215)], 0.0055, 0.8)
    arm.disc((0.823, 0.215), 0.006, 0.9)
    return [body.layer(0.3), arm.layer(1.0)]


def _wheel(new_pen: Callable[[], Pen]) -> list[Layer]:
    """A lettered target with spokes of four widths on a rod; all of it moves."""
    wheel = new_pen()
    wheel.line([(0.0, -0.46), (0.0, -0.9)], 0.02, 0.35)
    wheel.disc((0.0, 0.0), 0.46, 0.08)
    wheel.ring((0.0, 0.0), 0.46, 0.03, 0.85)
    for spoke in range(48):
        angle = math.tau * spoke / 48
        inner, outer = 0.10, 0.42
        ends = [(r * math.cos(angle), r * math.sin(angle)) for r in (inner, outer)]
        wheel.line(ends, 0.002 * 2 ** (spoke % 4), 0.85)
    wheel.disc((0.0, 0.0), 0.13, 0.82)
    wheel.letters("RAPZEL", (0.0, 0.03), 0.055, 0.05)
    wheel.letters("1 2 4 8", (0.0, -0.04), 0.045, 0.05)
    return [wheel.layer(1.0)]


def _drop(new_pen: Callable[[], Pen]) -> list[Layer]:
    """A crown of splash with a jet and beads above still liquid; what is above the surface moves."""
    still = new_pen()
    still.polygon([(-9.0, -0.3), (9.0, -0.3), (9.0, -3.0), (-9.0, -3.0)], 0.16)
    for wave in range(7):
        still.ring((0.0, -0.5), 0.42 + 0.2 * wave, 0.006, 0.4, flatten=0.16)
    splash = new_pen()
    splash.polygon([(-0.30, -0.5), (-0.36, -0.16), (0.36, -0.16), (0.30, -0.5)], 0.45)
    for tooth in range(11):
        x = -0.36 + tooth * 0.072
        height = -0.16 + 0.10 * (1 - (tooth - 5) ** 2 / 40) + 0.03 * (-1) ** tooth
        splash.line([(x, -0.18), (x * 1.06, height)], 0.016, 0.62)
        splash.disc((x * 1.09, height + 0.03), 0.014, 0.88)
    splash.line([(0.0, -0.30), (0.0, 0.26)], 0.035, 0.7)
    splash.disc((0.0, 0.33), 0.062, 0.75)
    splash.disc((-0.02, 0.352), 0.014, 0.98)
    for bead in range(5):
        splash.disc((0.02 * math.sin(bead * 2.1), 0.43 + bead * 0.024), 0.006, 0.9)
    return [still.layer(0.0), splash.layer(1.0)]


@dataclass(frozen=True, slots=True)
class Subject:
    """How to draw one subject, its natural height [m] and the place of its fine detail in its own units."""

    draw: Callable[[Callable[[], Pen]], list[Layer]]
    height_m: float
    detail: Point
    says: str


SUBJECTS = {
    "figure": Subject(
        _figure, 1.75, (0.36, 0.178), "a fencer in a lunge; detail: guard, threads and lettering"
    ),
    "wheel": Subject(_wheel, 0.30, (0.0, 0.0), "a lettered target with 48 spokes"),
    "drop": Subject(_drop, 0.06, (0.0, 0.30), "a splash with a jet and beads"),
}


# A frame of two layers is 10 MB, so only what a person at work comes back to is kept: one frame and its inset.
@lru_cache(maxsize=2)
def layers_of(kind: str, size_m: float, view: View) -> tuple[Layer, ...]:
    """The layers of a subject of that height [m] as one view sees them, from back to front."""
    return tuple(SUBJECTS[kind].draw(lambda: Pen(view, size_m)))


def drawn_height_m(kind: str, asked_m: float | None, field_height_m: float) -> float:
    """The height at which a subject is drawn [m]: as asked, else its natural one where that suits the frame."""
    if asked_m is not None:
        return asked_m
    natural = SUBJECTS[kind].height_m
    return natural if 0.15 <= natural / field_height_m <= 1.2 else 0.6 * field_height_m
