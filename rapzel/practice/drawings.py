"""A finger over the days: its bias with the interval that holds it, and its spread."""

from collections.abc import Sequence

from rapzel.core.shared import units
from rapzel.practice.models import Drill
from rapzel.ui.drawing import Drawing, Svg, linear_scale, nice_ticks

_LEFT, _RIGHT, _TOP, _BOTTOM = 90.0, 610.0, 24.0, 190.0
_MOST = 30  # drills that are drawn


def draw_trend(drills: Sequence[Drill]) -> Drawing:
    """The drills from the oldest to the newest: a dot for the bias, a line for its interval, a bar for the spread."""
    shown = list(reversed(drills[:_MOST]))
    svg = Svg(640, 236, "Bias and spread of your finger over the days.")
    reach = max(0.02, *(abs(d.result.bias_s) + d.result.spread_s for d in shown)) * 1.15
    y = linear_scale(-reach, reach, _BOTTOM, _TOP)
    x = linear_scale(-0.5, len(shown) - 0.5, _LEFT, _RIGHT)
    ticks = nice_ticks(reach, 2)
    for level in [*(-tick for tick in reversed(ticks[1:])), *ticks]:
        svg.line("grid" if level else "limit", _LEFT, y(level), _RIGHT, y(level))
        if level:
            words = f"{units.format_time(abs(level))} {'late' if level > 0 else 'early'}"
        else:
            words = "on time"
        svg.text("quiet", _LEFT - 6, y(level) + 4, words, "end")
    for place, drill in enumerate(shown):
        result, at = drill.result, x(place)
        high, low = y(result.bias_s + result.spread_s), y(result.bias_s - result.spread_s)
        svg.rect("time", at - 6, high, 12.0, low - high, fill_opacity="0.25")
        svg.line("time-line", at, y(result.bias_low_s), at, y(result.bias_high_s))
        svg.circle("time", at, y(result.bias_s), 4.0)
        if len(shown) < 9 or place % (len(shown) // 5) == 0:
            svg.text("quiet", at, _BOTTOM + 20, f"{drill.at:%-d %b}", "middle")
    svg.text(
        "quiet",
        _LEFT,
        _BOTTOM + 38,
        "dot: bias, line: within which it is nine times of ten, bar: spread",
    )
    rows: list[tuple[str, ...]] = [
        (
            f"{drill.at:%Y-%m-%d %H:%M}",
            drill.get_what_display().split(":")[0],
            units.format_time(drill.result.bias_s),
            units.format_time(drill.result.spread_s),
            str(drill.result.counted),
        )
        for drill in shown
    ]
    return Drawing(svg, _trend(shown), ("When", "Drill", "Bias", "Spread", "Tries counted"), rows)


def _trend(shown: Sequence[Drill]) -> str:
    first, last = shown[0].result, shown[-1].result
    if len(shown) < 3:
        return "A trend shows after three drills."
    if last.spread_high_s < first.spread_low_s:
        return "The spread has become narrower than its doubt: practice pays."
    return "The spread is what it was, as far as its doubt lets one say."
