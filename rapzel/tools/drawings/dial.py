"""The path of a dial-in: each try a row, the bracket after it shrinking to what is left."""

import math
from collections.abc import Callable, Sequence

from rapzel.core.shared import units
from rapzel.core.tools.dial_in import DialInAnswered, DialInAsked
from rapzel.core.trigger.dial import Dialled, Knob, Try, dialled_path
from rapzel.ui.drawing import Drawing, Scale, Svg, nice_ticks
from rapzel.ui.plot import Box, Plot

_LEFT, _RIGHT, _TOP, _ROW = 92.0, 690.0, 30.0, 26.0
_MOST = 14  # rows: the last ones
_SIGNS = {
    "early": ("time", "early"),
    "late": ("room", "late"),
    "on": ("limit-area", "on"),
}


def draw_dial(asked: DialInAsked, answer: DialInAnswered) -> Drawing:
    """The tool's path."""
    return draw_path(asked.to_core(), asked.tries(), units.format_set_time)


def draw_path(
    knob: Knob, tries: Sequence[Try], show: Callable[[float], str]
) -> Drawing:
    """Tries from above down, each at its value, with what was known after it. `show` dresses a value."""
    steps = dialled_path(knob, tries)
    begin = max(len(tries) - _MOST, 0)
    rows = list(zip(tries, steps, strict=True))[begin:]
    svg = Svg(720, _TOP + _ROW * max(len(rows), 1) + 40, "The bracket after each try.")
    low, high = _span(knob, rows)
    box = Box(_LEFT, _RIGHT, _TOP - 6, _TOP + _ROW * max(len(rows), 1))
    x = box.linear_x(low, high)
    plot = Plot(svg, box, x, box.linear_y(0, 1))
    # Round steps, counted from nothing and not from the lowest try.
    step = nice_ticks(high - low, 5)[1]
    for place in range(math.ceil(low / step), math.floor(high / step) + 1):
        value = place * step
        plot.column(value, show(round(value, 6)))
    for place, (each, found) in enumerate(rows):
        _row(svg, x, _TOP + _ROW * (place + 0.5), begin + place + 1, each, found)
    if rows and rows[-1][1].next_value is not None:
        following = rows[-1][1].next_value
        plot.upwards(following, "limit")
        svg.text("limit-text", x(following), _TOP - 12, show(following), "middle")
    cells: list[tuple[str, ...]] = [
        (
            str(begin + place),
            show(each.value),
            each.outcome,
            _bracket(knob, found, show),
        )
        for place, (each, found) in enumerate(rows, start=1)
    ]
    return Drawing(
        svg,
        "Where the right value lies after each try.",
        ("Try", "Set", "Came", "It lies"),
        cells,
    )


def _bracket(knob: Knob, found: Dialled, show: Callable[[float], str]) -> str:
    low, high = found.bracket
    if low is None or high is None:
        if low is not None:
            return f"above {show(low)}"
        return f"below {show(high or 0.0)}"
    return f"{show(knob.settable(low))} to {show(knob.settable(high))}"


def _span(knob: Knob, rows: Sequence[tuple[Try, Dialled]]) -> tuple[float, float]:
    """Ends of the axis: all that was tried, and what comes next."""
    values = [each.value for each, _ in rows] + [
        found.next_value for _, found in rows if found.next_value is not None
    ]
    values += [
        end for _, found in rows[-1:] for end in found.bracket if end is not None
    ]
    if not values:
        return 0.0, 1.0
    room = max(
        (max(values) - min(values)) * 0.08, 4 * knob.fine_s / abs(knob.s_per_unit)
    )
    return min(values) - room, max(values) + room


def _row(svg: Svg, x: Scale, y: float, number: int, each: Try, found: Dialled) -> None:
    low, high = found.bracket
    if low is None:
        left = _LEFT
    else:
        left = min(max(x(low), _LEFT), _RIGHT)
    if high is None:
        right = _RIGHT
    else:
        right = min(max(x(high), _LEFT), _RIGHT)
    svg.rect(
        "limit-area" if found.converged else "flash-area",
        left,
        y - 8,
        max(right - left, 2.0),
        16,
    )
    cls, words = _SIGNS[each.outcome]
    svg.text("quiet", _LEFT - 12, y + 4, f"{number}  {words}", "end")
    at = x(each.value)
    if each.outcome == "on":
        svg.circle("flash", at, y, 5.0)
        return
    # points to where it has to go, for values that grow with lateness
    if each.outcome == "early":
        way = 1
    else:
        way = -1
    svg.polygon(cls, [(at - 5 * way, y - 6), (at + 5 * way, y), (at - 5 * way, y + 6)])
