"""A recording's levels over time, with its events and the proposed threshold."""

from rapzel.core.shared import units
from rapzel.core.trace.measuring.loudness import Loudness
from rapzel.ui.drawing import Drawing, Svg, nice_ticks
from rapzel.ui.plot import Box, Plot

_LEFT, _RIGHT, _TOP, _BOTTOM = 176.0, 840.0, 20.0, 120.0
_BOX = Box(_LEFT, _RIGHT, _TOP, _BOTTOM)


def draw_loudness(found: Loudness) -> Drawing:
    """The largest excursion of each stretch, up to the loudest."""
    svg = Svg(900, 150, "Levels of the recording over time.")
    x, y = _BOX.linear_x(0, found.seconds), _BOX.linear_y(0, max(found.peak, 1e-6))
    plot = Plot(svg, _BOX, x, y)
    plot.columns(nice_ticks(found.seconds, 6), units.format_time)
    ends = [
        (x(place * found.level_s), y(level)) for place, level in enumerate(found.levels)
    ]
    svg.polygon("room", [(_LEFT, _BOTTOM), *ends, (_RIGHT, _BOTTOM)])
    if found.threshold is not None:
        at = y(found.threshold)
        svg.line("limit", _LEFT, at, _RIGHT, at)
        svg.text(
            "limit-text",
            _LEFT - 8,
            at + 4,
            f"threshold {units.format_percent(found.threshold)}",
            "end",
        )
    for onset in found.onsets_s[:40]:
        plot.upwards(onset, "time-line", over=6)
    events = f"{found.events} {'event' if found.events == 1 else 'events'}"
    summary = (
        f"{events}, {units.format_number(found.over_db, 2)} dB over the background."
    )
    return Drawing(svg, summary, ("Figure", "Value"), _rows(found))


def _rows(found: Loudness) -> list[tuple[str, ...]]:
    def known(value: float | None) -> str:
        if value is None:
            return "not known"
        return units.format_time(value)

    if found.threshold is None:
        threshold = "none"
    else:
        threshold = f"{found.threshold:.3f} of full scale"
    return [
        ("begins at", units.format_time(found.onset_s)),
        ("over the background", f"{units.format_number(found.over_db, 3)} dB"),
        ("threshold", threshold),
        ("from its beginning to the threshold", known(found.to_threshold_s)),
        ("jitter of that", known(found.jitter_s)),
        (
            "false triggers in the recording",
            "not known" if found.false_triggers is None else str(found.false_triggers),
        ),
        ("loudest of the rest", f"{found.loudest_else:.3f} of full scale"),
    ]
