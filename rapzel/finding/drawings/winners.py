"""Which method has the most light left: room light across, speed upwards, the scene marked in it."""

import math
from collections.abc import Iterator

import numpy as np

from rapzel.core.search.reserve import Chart
from rapzel.core.shared import units
from rapzel.ui.drawing import Drawing, Scale, Svg, text_width
from rapzel.ui.plot import Box, Plot

_WIDTH, _HEIGHT = 560.0, 250.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 84.0, 548.0, 12.0, 204.0  # left: room for “0.00308 m/s”
_BOX = Box(_LEFT, _RIGHT, _TOP, _BOTTOM)
# What a room of that light is like (common practice).
_PLACES = (
    (-2, "night street"),
    (4, "dim hall"),
    (8, "sports hall"),
    (12, "open shade"),
    (15, "sun"),
)
SHORT = {
    "pulse": "short pulse", "nd": "pulse + ND", "hss": "high-speed sync", "leaf": "leaf shutter",
    "long_pulse": "long pulse", "global": "global shutter", "open_shutter": "open shutter",
    "ambient": "fast shutter alone",
}  # fmt: skip
_NOTHING = "nothing works"
_TINTS = {
    "nd": "limit-area", "open_shutter": "limit-area", "hss": "room", "long_pulse": "room",
    "ambient": "room",
}  # fmt: skip
_TINT = "flash-area"  # of a pulse; names and lines tell apart what has one tint
_TABLE_ROWS = 5


def draw_winners(
    chart: Chart, here: tuple[float, float], imperial: bool = False
) -> Drawing:
    """The chart of winners; `here` is the scene's room light [EV, −∞ in the dark] and speed [m/s]."""
    svg = Svg(
        _WIDTH,
        _HEIGHT,
        "The method with the most light left, over room light and speed.",
    )
    # Each computed point is a cell about it, so that half a cell is added on all sides.
    half_ev = (chart.evs[1] - chart.evs[0]) / 2
    ratio = math.sqrt(chart.speeds_m_s[1] / chart.speeds_m_s[0])
    x = _BOX.linear_x(chart.evs[0] - half_ev, chart.evs[-1] + half_ev)
    y = _BOX.log_y(chart.speeds_m_s[0] / ratio, chart.speeds_m_s[-1] * ratio)
    # Runs of a winner are one rectangle: thousands of cells would be megabytes of page.
    _cells(svg, chart, x, y, half_ev, ratio)
    _borders(svg, chart)
    _names(svg, chart, x, y)
    _axes(Plot(svg, _BOX, x, y), here[1], imperial)
    _scene(svg, chart, here, x, y)
    return Drawing(svg, _summary(chart, here, imperial), *_table(chart, imperial))


def _name(chart: Chart, winner: int) -> str:
    if winner < 0:
        return _NOTHING
    return SHORT[chart.keys[winner]]


def _cells(
    svg: Svg, chart: Chart, x: Scale, y: Scale, half_ev: float, ratio: float
) -> None:
    """Runs of one winner, row by row."""
    for row, speed in enumerate(chart.speeds_m_s):
        top, bottom = y(speed * ratio), y(speed / ratio)
        for begin, end, winner in _runs(chart.winners[row]):
            if winner < 0:
                continue
            left, right = x(chart.evs[begin] - half_ev), x(chart.evs[end] + half_ev)
            tint = _TINTS.get(chart.keys[winner], _TINT)
            svg.rect(tint, left, top, right - left, bottom - top)


def _runs(
    row: "np.ndarray[tuple[int], np.dtype[np.int64]]",
) -> Iterator[tuple[int, int, int]]:
    """(first, last, winner) of each stretch of equals."""
    begin = 0
    for place in range(1, len(row) + 1):
        if place == len(row) or row[place] != row[begin]:
            yield begin, place - 1, int(row[begin])
            begin = place


def _borders(svg: Svg, chart: Chart) -> None:
    """A line wherever one winner meets another."""
    rows, columns = chart.winners.shape
    wide, high = (_RIGHT - _LEFT) / columns, (_BOTTOM - _TOP) / rows
    for row, column in zip(*np.nonzero(np.diff(chart.winners, axis=1)), strict=True):
        # Borders are drawn as well, for whom two tints look alike.
        across = _LEFT + wide * (column + 1)
        svg.line(
            "bracket", across, _BOTTOM - high * row, across, _BOTTOM - high * (row + 1)
        )
    for row, column in zip(*np.nonzero(np.diff(chart.winners, axis=0)), strict=True):
        up = _BOTTOM - high * (row + 1)
        svg.line("bracket", _LEFT + wide * column, up, _LEFT + wide * (column + 1), up)


def _names(svg: Svg, chart: Chart, x: Scale, y: Scale) -> None:
    """Each winner's name in the longest stretch that it has, where it fits."""
    for winner in np.unique(chart.winners):
        stretches = [
            (end - begin, -abs(row - chart.winners.shape[0] / 2), row, begin, end)
            for row in range(chart.winners.shape[0])
            for begin, end, one in _runs(chart.winners[row])
            if one == winner
        ]
        longest = max(stretches)[0]
        # Of the stretches that are nearly as long the middle one: a name amid its area.
        alike = [one for one in stretches if one[0] >= 0.8 * longest]
        _, _, row, begin, end = alike[len(alike) // 2]
        name = _name(chart, int(winner))
        left, right = x(chart.evs[begin]), x(chart.evs[end])
        if right - left > text_width(name) * 0.8:
            if winner < 0:
                cls = "quiet"
            else:
                cls = "text"
            svg.text(
                cls, (left + right) / 2, y(chart.speeds_m_s[row]) + 4, name, "middle"
            )


def _axes(plot: Plot, usual_m_s: float, imperial: bool) -> None:
    plot.left_edge()
    plot.lower_edge()
    for ev in range(-2, 17, 2):
        plot.mark_below(ev, f"{ev:d}".replace("-", "−"), below=17)
    plot.svg.text("quiet", _LEFT - 8, _BOTTOM + 17, "EV", "end")
    for ev, place in _PLACES:
        plot.column_name(ev, place, below=34)
    # The scene's own speed is the middle of the chart.
    for factor in (1 / 4, 1, 4):
        speed = usual_m_s * factor
        plot.svg.line("axis", _LEFT - 4, plot.y(speed), _LEFT, plot.y(speed))
        plot.level_name(speed, units.format_speed(speed, imperial))


def _scene(
    svg: Svg, chart: Chart, here: tuple[float, float], x: Scale, y: Scale
) -> None:
    """A cross where the scene is; at the left edge for a dark room."""
    ev100, speed = here
    # A dark room has no EV to stand at: its cross stands at the left edge.
    across, up = x(min(max(ev100, float(chart.evs[0])), float(chart.evs[-1]))), y(speed)
    svg.line("time-line", across - 7, up, across + 7, up)
    svg.line("time-line", across, up - 7, across, up + 7)
    label = "this scene"
    fits = across + 9 + text_width(label) < _RIGHT
    svg.text(
        "time-text",
        across + (9 if fits else -9),
        up - 6,
        label,
        "start" if fits else "end",
    )


def _summary(chart: Chart, here: tuple[float, float], imperial: bool) -> str:
    ev100, speed = here
    if math.isfinite(ev100):
        room = f"EV {units.format_number(ev100, 2)}"
    else:
        room = "a dark room"
    # Nearest by ratio, as the axis goes.
    row = int(np.argmin(np.abs(np.log(chart.speeds_m_s / speed))))
    if math.isfinite(ev100):
        column = int(np.argmin(np.abs(chart.evs - ev100)))
    else:
        column = 0
    name = _name(chart, int(chart.winners[row, column]))
    return f"At {units.format_speed(speed, imperial)} in {room}: {name}."


def _table(
    chart: Chart, imperial: bool
) -> tuple[tuple[str, ...], list[tuple[str, ...]]]:
    """The same for some of the speeds: the winner from one EV to the next."""
    rows: list[tuple[str, ...]] = []
    for row in (
        np.linspace(len(chart.speeds_m_s) - 1, 0, _TABLE_ROWS).round().astype(int)
    ):
        stretches = [
            f"{_name(chart, winner)} EV {units.format_number(float(chart.evs[begin]), 2)} to "
            f"{units.format_number(float(chart.evs[end]), 2)}"
            for begin, end, winner in _runs(chart.winners[row])
        ]
        speed = units.format_speed(float(chart.speeds_m_s[row]), imperial)
        rows.append((speed, "; ".join(stretches)))
    return ("Speed", "Winner by room light"), rows
