"""The colours of pops as swatches, and their path in the u′v′ diagram beside the black body's line."""

from statistics import fmean
from typing import Any

from rapzel.bench.models import ColourRun
from rapzel.core.light.tint import Tint, chroma, planck_uv, swatch
from rapzel.core.shared import units
from rapzel.ui.drawing import Drawing, Svg
from rapzel.ui.plot import Box, Plot

ENLARGED = 5.0  # times, on request
_BOX = Box(left=60.0, right=420.0, top=20.0, bottom=300.0)
_ASPECT = 1.28  # of the box: a step of u′ is as long as one of v′
_MARGIN = 0.004  # of u′ and v′ about the colours
_HOT, _COLD, _STEP = 12_000, 2500, 250


def _frames(run: ColourRun) -> list[dict[str, Any]]:
    return list((run.result or {})["frames"])


def _tint(frame: dict[str, Any]) -> Tint:
    return Tint(frame["cct_k"], frame["duv"])


def _mean(frames: list[dict[str, Any]]) -> Tint:
    """The mean colour, in mired and Duv."""
    mired = fmean(1e6 / frame["cct_k"] for frame in frames)
    return Tint(1e6 / mired, fmean(frame["duv"] for frame in frames))


def _name(frame: dict[str, Any], number: int) -> str:
    if frame["power"]:
        return units.format_power(frame["power"])
    return str(number + 1)


def draw_swatches(run: ColourRun, enlarged: float = 1.0) -> Drawing:
    """A grey card in the light of each pop, white balance at their mean."""
    frames = _frames(run)
    white, wide = _mean(frames), 680.0 / len(frames)
    if enlarged != 1:
        times = f", differences {enlarged:g} times"
    else:
        times = ""
    svg = Svg(720, 84, f"A grey card in the light of each pop{times}")
    rows: list[tuple[str, ...]] = []
    for number, frame in enumerate(frames):
        colour = swatch(_tint(frame), white, enlarged)
        svg.rect("swatch", 20 + number * wide, 8, wide, 52, fill=colour)
        if len(frames) <= 24:
            svg.text(
                "quiet", 20 + (number + 0.5) * wide, 76, _name(frame, number), "middle"
            )
        rows.append((_name(frame, number), colour))
    summary = f"Each pop beside the others, as a camera balanced to their mean shows a grey card{times}."
    return Drawing(svg, summary, ("Pop", "Colour"), rows)


def draw_path(run: ColourRun) -> Drawing:
    """The pops in u′v′ in their order, with the black body's line."""
    frames = _frames(run)
    points = [chroma(_tint(frame)) for frame in frames]
    svg = Svg(440, 340, "The pops' colours in the u′v′ diagram")
    us, vs = [u for u, _ in points], [v for _, v in points]
    # The larger spread decides for both, so that the diagram is not stretched.
    half = max(max(us) - min(us), max(vs) - min(vs)) / 2 + _MARGIN
    middle_u, middle_v = (max(us) + min(us)) / 2, (max(vs) + min(vs)) / 2
    wide = half * _ASPECT
    x = _BOX.linear_x(middle_u - wide, middle_u + wide)
    y = _BOX.linear_y(middle_v - half, middle_v + half)
    plot = Plot(svg, _BOX, x, y, gap=6.0)
    _black_body(plot)
    svg.polyline("bracket", [(x(u), y(v)) for u, v in points], fill="none")
    white = _mean(frames)
    for number, ((u, v), frame) in enumerate(zip(points, frames, strict=True)):
        colour = swatch(_tint(frame), white, ENLARGED)
        svg.circle("swatch", x(u), y(v), 6.0, fill=colour)
        if number in (0, len(points) - 1):
            svg.text("quiet", x(u) + 9, y(v) + 4, _name(frame, number))
    plot.lower_edge()
    plot.left_edge()
    for share in (0.1, 0.9):
        u = middle_u + wide * (2 * share - 1)
        v = middle_v + half * (2 * share - 1)
        plot.column_name(u, f"{u:.3f}", below=17.0)
        plot.level_name(v, f"{v:.3f}")
    plot.corner_names("u′", "v′")
    rows: list[tuple[str, ...]] = [
        (_name(frame, number), f"{u:.4f}", f"{v:.4f}")
        for number, ((u, v), frame) in enumerate(zip(points, frames, strict=True))
    ]
    summary = "Path of the pops in their order; the dashed line is the black body, green lies above it."
    return Drawing(svg, summary, ("Pop", "u′", "v′"), rows)


def _black_body(plot: Plot) -> None:
    """The black body's line as far as it lies within the box."""
    inside = []
    for cct_k in range(_COLD, _HOT, _STEP):
        u, v = planck_uv(float(cct_k))
        at_x, at_y = plot.x(u), plot.y(1.5 * v)  # v′ of 1976 is 1.5 times the v of 1960
        if _BOX.left <= at_x <= _BOX.right and _BOX.top <= at_y <= _BOX.bottom:
            inside.append((at_x, at_y))
    if len(inside) > 1:
        plot.svg.polyline("limit", inside)
        plot.svg.text(
            "limit-text", inside[0][0] - 4, inside[0][1] - 6, "black body", "end"
        )
