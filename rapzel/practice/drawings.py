"""A finger over the days: its bias with the interval that holds it, and its spread."""

from collections.abc import Sequence

from django.utils.timezone import localtime

from rapzel.core.shared import units
from rapzel.practice.models import Drill
from rapzel.ui.drawing import Drawing, Svg, nice_ticks
from rapzel.ui.plot import Box, Plot

_LEFT, _RIGHT, _TOP, _BOTTOM = 90.0, 610.0, 24.0, 190.0
_BOX = Box(_LEFT, _RIGHT, _TOP, _BOTTOM)
_MOST = 30  # drills that are drawn


def draw_trend(drills: Sequence[Drill]) -> Drawing:
    """The drills from the oldest to the newest: a dot for the bias, a line for its interval, a bar for the spread."""
    shown = list(reversed(drills[:_MOST]))
    svg = Svg(640, 236, "Bias and spread of your finger over the days.")
    reach = max(0.02, *(abs(d.result.bias_s) + d.result.spread_s for d in shown)) * 1.15
    x, y = _BOX.linear_x(-0.5, len(shown) - 0.5), _BOX.linear_y(-reach, reach)
    plot = Plot(svg, _BOX, x, y, gap=6.0)
    ticks = nice_ticks(reach, 2)
    for level in [*(-tick for tick in reversed(ticks[1:])), *ticks]:
        if level:
            words = (
                f"{units.format_time(abs(level))} {'late' if level > 0 else 'early'}"
            )
            plot.level(level, words)
        else:
            plot.level(level, "on time", "limit")
    for place, drill in enumerate(shown):
        result, at = drill.result, x(place)
        high, low = (
            y(result.bias_s + result.spread_s),
            y(result.bias_s - result.spread_s),
        )
        svg.rect("time", at - 6, high, 12.0, low - high, fill_opacity="0.25")
        svg.line("time-line", at, y(result.bias_low_s), at, y(result.bias_high_s))
        svg.circle("time", at, y(result.bias_s), 4.0)
        if len(shown) < 9 or place % (len(shown) // 5) == 0:
            plot.column_name(place, f"{localtime(drill.at):%-d %b}", below=20)
    svg.text(
        "quiet",
        _LEFT,
        _BOTTOM + 38,
        "dot: bias, line: within which it is nine times of ten, bar: spread",
    )
    rows: list[tuple[str, ...]] = [
        (
            f"{localtime(drill.at):%Y-%m-%d %H:%M}",
            drill.get_what_display().split(":")[0],
            units.format_time(drill.result.bias_s),
            units.format_time(drill.result.spread_s),
            str(drill.result.counted),
        )
        for drill in shown
    ]
    return Drawing(
        svg, _trend(shown), ("When", "Drill", "Bias", "Spread", "Tries counted"), rows
    )


def _trend(shown: Sequence[Drill]) -> str:
    first, last = shown[0].result, shown[-1].result
    if len(shown) < 3:
        return "A trend shows after three drills."
    if last.spread_high_s < first.spread_low_s:
        return "The spread has become narrower than its doubt: practice pays."
    return "The spread is what it was, as far as its doubt lets one say."
