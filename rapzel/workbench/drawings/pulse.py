"""Light against time: each light relative to its own peak, with the t.5 and t.1 brackets and the freeze limit."""

import math

import numpy as np

from rapzel.core.physics import Lit, Physics
from rapzel.core.pulse.shape import span_s
from rapzel.core.shared import units
from rapzel.ui import plot
from rapzel.ui.drawing import Drawing, Scale, Svg, nice_ticks, text_width

_LEFT, _RIGHT, _TOP, _BOTTOM = 46.0, 414.0, 26.0, 286.0
_BOX = plot.Box(_LEFT, _RIGHT, _TOP, _BOTTOM)
_LEVELS = (0.0, 0.1, 0.5, 1.0)  # of the peak
Box = tuple[float, float, float]  # of a label: left, right, base line
_DASHES = (None, "6 3", "2 3", "8 3 2 3")


def _first_and_last(lit: Lit, level: float) -> tuple[float, float]:
    """When the light first and last is above a level of its peak [s], for placing the bracket."""
    width = lit.pulse.width_s(level)
    # The first rise above a level lies within the width that the level has.
    grid = np.linspace(0, width, 400)
    first = float(grid[int(np.argmax(lit.pulse.intensity(grid) >= level))])
    return first, first + width


def _peak_s(lit: Lit) -> float:
    # Shapes without a rise begin at their peak.
    return float(getattr(lit.pulse, "peak_s", 0.0))


def _length(physics: Physics) -> float:
    widths = [lit.pulse.width_s(0.1) for lit in physics.lights]
    # A third more than the longest, for its tail and its label.
    longest = max(widths) * 1.35
    limit = physics.limit_s
    # The limit is shown while it does not squeeze the pulses to a spike.
    if math.isfinite(limit) and limit < longest * 4:
        return max(longest, limit * 1.15)
    return longest


def draw_pulse(physics: Physics) -> Drawing:
    """The pulse view with its table of t.5, t.1 and light span for each light."""
    svg = Svg(430, 312, "Light against time, each light relative to its own peak.")
    if not physics.lights:
        svg.text("quiet", 215, 150, "No light in this scene yet", "middle")
        return Drawing(svg, "No light in this scene yet.", ("Light",), [])
    length = _length(physics)
    x, y = _BOX.linear_x(0, length), _BOX.linear_y(0, 1)
    axes = plot.Plot(svg, _BOX, x, y)
    axes.levels(_LEVELS, units.format_percent)
    axes.column_names(nice_ticks(length), plot.or_zero(units.format_time))
    times = np.linspace(0, length, 260)
    # The one that decides whether it freezes is filled and named; the others are lines.
    main = physics.slowest or physics.lights[0]
    for place, lit in enumerate(physics.lights):
        heights = lit.pulse.intensity(times).tolist()
        points = [
            (x(time), y(height))
            for time, height in zip(times.tolist(), heights, strict=True)
        ]
        if lit is main:
            svg.polygon("flash-area", [(x(0), y(0)), *points, (x(length), y(0))])
        svg.polyline(
            "flash-line",
            points,
            stroke_dasharray=None if lit is main else _DASHES[place % 4] or "6 3",
        )
    labels: list[Box] = []
    if physics.method.train:
        _plateau(svg, x, y, main)
    else:
        labels = _brackets(svg, x, y, main)
        _name(svg, x, y, main)
    limit = physics.limit_s
    if limit <= length:
        _limit_line(svg, x(limit), labels)
        left = x(limit) + 6 + text_width("limit") > _RIGHT
        svg.text(
            "limit-text",
            x(limit) + (-6 if left else 6),
            _TOP - 10 + 6,
            "limit",
            "end" if left else "start",
        )
    return Drawing(
        svg,
        _summary(physics, main),
        ("Light", "t.5", "t.1", "5–95 % span", "Share", "Known"),
        _rows(physics),
    )


def _limit_line(svg: Svg, at: float, labels: list[Box]) -> None:
    """The line of the freeze limit, broken where a label stands across it."""
    top = _TOP - 8
    # From the top down: the line is broken once for each label.
    for left, right, base in sorted(labels, key=lambda box: box[2]):
        if left < at < right:
            svg.line("limit", at, top, at, base - 13)
            top = base + 4
    svg.line("limit", at, top, at, _BOTTOM)


def _brackets(svg: Svg, x: Scale, y: Scale, lit: Lit) -> list[Box]:
    """Draws t.5 and t.1; returns where their labels stand."""
    labels = []
    for level, name, known in (
        (0.5, "t.5", lit.known.t05_s),
        (0.1, "t.1", lit.known.t01_s),
    ):
        first, last = _first_and_last(lit, level)
        svg.line("bracket", x(first), y(level), x(last), y(level))
        for end in (first, last):
            svg.line("bracket", x(end), y(level) - 4, x(end), y(level) + 4)
        label = f"{name} {units.format_time(known)}"
        width = text_width(label)
        # Beside the bracket where there is room, else on its inner side.
        right = x(last) + 8 + width <= _RIGHT
        at, base = x(last) + 8 if right else x(last) - 6, y(level) - 7
        svg.text("text", at, base, label, "start" if right else "end")
        labels.append((at, at + width, base) if right else (at - width, at, base))
    return labels


def _plateau(svg: Svg, x: Scale, y: Scale, lit: Lit) -> None:
    """A pulse train is one length of light to the picture: no t.5 or t.1 of the discharge applies."""
    length = lit.pulse.width_s(0.5)
    svg.line("bracket", x(0), y(0.5), x(length), y(0.5))
    svg.text(
        "text",
        x(length / 2),
        y(0.5) - 7,
        f"all lights, {units.format_time(length)}",
        "middle",
    )


def _name(svg: Svg, x: Scale, y: Scale, lit: Lit) -> None:
    label = f"{lit.light.called} {units.format_power(lit.light.power)}"
    peak = x(_peak_s(lit))
    right = peak + 12 + text_width(label) <= _RIGHT
    svg.text(
        "flash-text",
        peak + 12 if right else peak - 12,
        y(1) + 14,
        label,
        "start" if right else "end",
    )


def _summary(physics: Physics, main: Lit) -> str:
    known = main.known
    if physics.method.train:
        length = units.format_time(main.pulse.width_s(0.5))
        return f"High-speed sync: constant light for {length}, while the slit crosses the frame; the shutter freezes."
    return (
        f"{main.light.name or 'The light'} is above half its peak for {units.format_time(known.t05_s)} "
        f"and above a tenth for {units.format_time(known.t01_s)}."
    )


def _rows(physics: Physics) -> list[tuple[str, ...]]:
    return [
        (
            lit.light.called,
            units.format_time(lit.known.t05_s),
            units.format_time(lit.known.t01_s),
            units.format_time(span_s(lit.known.shape)),
            units.format_percent(physics.share(lit)),
            f"{lit.known.basis}, ± {units.format_number(lit.known.doubt_stops, 2)} stop",
        )
        for lit in physics.lights
    ]
