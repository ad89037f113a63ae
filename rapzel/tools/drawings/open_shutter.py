"""Chances of none, one and several pops over the time for which the shutter stands open."""

from rapzel.core.shared import units
from rapzel.core.tools.open_shutter import OpenShutterAnswered, OpenShutterAsked, table
from rapzel.ui.drawing import Drawing, Scale, Svg
from rapzel.ui.plot import SHARES, Box, Plot

_LEFT, _RIGHT, _TOP, _BOTTOM = 56.0, 600.0, 34.0, 270.0
_BOX = Box(_LEFT, _RIGHT, _TOP, _BOTTOM)
_CURVES = (("p_none", "none", "room-line", "room-text"), ("p_one", "one", "flash-line", "flash-text"),
           ("p_several", "several", "time-line", "time-text"))  # fmt: skip


def draw_open_shutter(asked: OpenShutterAsked, answer: OpenShutterAnswered) -> Drawing:
    """Three curves over a logarithmic axis, with the asked and the best opening marked."""
    header, rows = table(asked)
    svg = Svg(640, 312, "Chances over the time for which the shutter stands open.")
    # The asked opening is on the axis, also where it is far from the best.
    low, high = min(rows[0][0], asked.open_s * 0.8), rows[-1][0]
    x, y = _BOX.log_x(low, high), _BOX.linear_y(0, 1)
    Plot(svg, _BOX, x, y).levels(SHARES, units.format_percent)
    for name, label, line, text in _CURVES:
        column = header.index(name)
        svg.polyline(line, [(x(row[0]), y(row[column])) for row in rows])
        _label(svg, x, y, rows, column, label, text)
    _marks(svg, x, asked, answer)
    cells = [
        (units.format_time(row[0]), *(units.format_percent(value) for value in row[1:]))
        for row in rows[::8]
    ]
    headers = ("Open for", "None", "One", "Several", "Tolerated")
    return Drawing(
        svg, "One pop is likeliest where the curve of one is highest.", headers, cells
    )


def _label(
    svg: Svg,
    x: Scale,
    y: Scale,
    rows: list[list[float]],
    column: int,
    label: str,
    cls: str,
) -> None:
    """The name of a curve where it is far from the others: none at the left, several at the right, one at its top."""
    if label == "one":
        row = max(rows, key=lambda each: each[column])
        svg.text(cls, x(row[0]), y(row[column]) - 8, label, "middle")
        return
    if label == "none":
        row = rows[4]
    else:
        row = rows[-8]
    svg.text(cls, x(row[0]), y(row[column]) - 8, label, "middle")


def _marks(
    svg: Svg, x: Scale, asked: OpenShutterAsked, answer: OpenShutterAnswered
) -> None:
    best, own = x(answer.best_open_s), x(asked.open_s)
    svg.line("limit", best, _TOP - 8, best, _BOTTOM)
    svg.text(
        "limit-text",
        best,
        _TOP - 14,
        f"best {units.format_time(answer.best_open_s)}",
        "middle",
    )
    svg.line("bracket", own, _TOP, own, _BOTTOM + 6)
    # A label at the edge is turned inwards, where it is not cut.
    if _LEFT + 40 < own < _RIGHT - 40:
        anchor = "middle"
    elif own <= _LEFT + 40:
        anchor = "start"
    else:
        anchor = "end"
    svg.text(
        "text", own, _BOTTOM + 22, f"open {units.format_time(asked.open_s)}", anchor
    )
    if answer.longest_open_s is not None:
        end = x(answer.longest_open_s)
        svg.line("room-line", end, _TOP, end, _BOTTOM, stroke_dasharray="2 4")
        words = f"room trails from {units.format_time(answer.longest_open_s)}"
        svg.text("room-text", min(end, _RIGHT - 60), _BOTTOM + 38, words, "middle")
