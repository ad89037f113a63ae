"""Drops from the side at one instant, as a camera with a light behind them would see them: greys, at the frame's scale.

Where things stand is computed; how they look is drawn: a drop with its dark rim, a jet that narrows, the liquid below.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from PIL import Image, ImageDraw

Grey = npt.NDArray[np.uint8]
_SPREADS_M_S, _WIDEST_M = 0.9, 0.025  # of the sheet of a meeting (memory)
_FINER = 3  # drawn so much larger and then scaled down, for smooth edges
_BACK_TOP, _BACK_LOW, _LIQUID, _RIM, _CORE, _TICK = 34, 74, 22, 14, 168, 120


@dataclass(frozen=True, slots=True)
class SideView:
    """What stands in the frame. Lengths in metres, heights above the liquid; jet 0 where none stands."""

    frame_width_m: float
    frame_height_m: float
    above_m: float  # of the frame, above the liquid
    jet_m: float
    foot_m: float  # half width of the jet at the liquid
    drops: Sequence[tuple[float, float]]  # height of the middle, diameter
    crater_m: float = 0.0  # half width of a cavity's mouth
    # height of a meeting, and how long ago it was [s]
    splash: tuple[float, float] | None = None


def drawn(view: SideView, width: int = 960) -> Grey:
    """The picture, height × width, 8 bits of grey, with a tick each centimetre at its left edge."""
    wide = width * _FINER
    px = wide / view.frame_width_m
    high = max(round(view.frame_height_m * px), 1)
    level = view.above_m * px
    ramp = np.linspace(_BACK_TOP, _BACK_LOW, high)[:, None].repeat(wide, axis=1)
    image = Image.fromarray(ramp.astype(np.uint8))
    pen = ImageDraw.Draw(image)
    middle = wide / 2
    pen.rectangle((0, level, wide, high), fill=_LIQUID)
    pen.line((0, level, wide, level), fill=_CORE, width=_FINER)
    if view.crater_m:
        half = view.crater_m * px
        pen.ellipse(
            (middle - half, level - half * 0.25, middle + half, level + half * 0.9),
            fill=_RIM,
        )
    _jet(pen, view, middle, level, px)
    if view.splash:
        _splash(pen, view, middle, level - view.splash[0] * px, px)
    for height, diameter in view.drops:
        _drop(pen, middle, level - height * px, diameter / 2 * px)
    _ticks(pen, level, px, high)
    size = (width, max(round(high / _FINER), 1))
    return np.asarray(image.resize(size, Image.Resampling.BOX))


def _jet(
    pen: ImageDraw.ImageDraw, view: SideView, middle: float, level: float, px: float
) -> None:
    if view.jet_m <= 0:
        return
    foot, top = view.foot_m * px, level - view.jet_m * px
    tip = foot * 0.4
    shares = np.linspace(0, 1, 24)
    # wide at its foot, slender above
    half = tip + (foot * 1.6 - tip) * (1 - shares) ** 3
    heights = level - shares * (level - top)
    for grow, shade in ((1.0, _RIM), (0.55, _CORE)):
        left = [
            (middle - each * grow, y) for each, y in zip(half, heights, strict=True)
        ]
        right = [
            (middle + each * grow, y) for each, y in zip(half, heights, strict=True)
        ]
        pen.polygon([*left, *reversed(right)], fill=shade)
    _drop(pen, middle, top + tip, tip)


def _splash(
    pen: ImageDraw.ImageDraw, view: SideView, middle: float, y: float, px: float
) -> None:
    """The sheet that a meeting throws out, a sign for its age: a disc that widens and sinks at its rim."""
    assert view.splash is not None
    # How a sheet spreads is not computed; its age is, and that is all it is drawn from.
    age = view.splash[1]
    half = (view.foot_m + min(age * _SPREADS_M_S, _WIDEST_M)) * px
    sinks = min(4.9 * age**2, 0.01) * px
    thin = max(view.foot_m * px * 0.5, 2 * _FINER)
    for grow, shade in ((1.0, _RIM), (0.6, _CORE)):
        body = thin * grow
        pen.polygon(
            [
                (middle - half, y + sinks),
                (middle - half * 0.5, y - body),
                (middle, y - body * 1.6),
                (middle + half * 0.5, y - body),
                (middle + half, y + sinks),
                (middle + half * 0.5, y + body * 0.4),
                (middle, y + body),
                (middle - half * 0.5, y + body * 0.4),
            ],
            fill=shade,
        )
    for side in (-1, 1):
        _drop(pen, middle + side * half, y + sinks, thin * 0.8)


def _drop(pen: ImageDraw.ImageDraw, x: float, y: float, radius: float) -> None:
    """A drop before a light: dark at its rim, bright within, a small highlight."""
    for share, shade in ((1.0, _RIM), (0.72, _CORE), (0.3, 225)):
        if share < 0.5:
            off = radius * 0.22
        else:
            off = 0.0
        part = radius * share
        pen.ellipse(
            (x - off - part, y - off - part, x - off + part, y - off + part), fill=shade
        )


def _ticks(pen: ImageDraw.ImageDraw, level: float, px: float, high: int) -> None:
    """A centimetre rule at the left edge, counted from the liquid; every fifth is longer."""
    step = 0.01
    # Ticks that would touch are told by every fifth of them.
    while step * px < 12 * _FINER:
        step *= 5
    for place in range(int(level / (step * px)) + 1):
        y = level - place * step * px
        length = (26 if place % 5 == 0 else 14) * _FINER
        pen.line((0, y, length, y), fill=_TICK, width=_FINER)
