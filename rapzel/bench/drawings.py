"""A trace as a figure of its own: the curve, the brackets of t.5 and t.1, and the same in a table."""

from typing import TYPE_CHECKING

from rapzel.bench.models import ColourRun, Trace
from rapzel.bench.waveform import curve
from rapzel.bench.words import figure_rows
from rapzel.core.shared import units
from rapzel.ui.drawing import Drawing, Scale, Svg, linear_scale, nice_ticks
from rapzel.ui.plot import Box, Plot, or_zero

if TYPE_CHECKING:
    from rapzel.core.trace.measuring.lags import LagResult

_LEFT, _RIGHT, _TOP, _BOTTOM = 60.0, 700.0, 20.0, 300.0
_BOX = Box(_LEFT, _RIGHT, _TOP, _BOTTOM)


def draw_trace(trace: Trace) -> Drawing:
    """The first pop about its pulse; on the whole sweep where nothing could be read."""
    result = trace.result or {}
    # One pop is drawn, as the first is what people look for; the table tells of all.
    pop = result["pops"][0]
    t0, dt, count = result["segments"][0]
    span = _span(pop, t0, dt, count)
    points = curve(trace, 0, result["channel_number"], *span)
    times, levels = points["t"], points["v"]
    svg = Svg(720, 340, f"Light of {trace.name} against time")
    low, high = min(levels), max(levels)
    # A flat line has no height of its own, and still needs an axis.
    room = (high - low) * 0.06 or 1.0
    x, y = _BOX.linear_x(times[0], times[-1]), _BOX.linear_y(low - room, high + room)
    plot = Plot(svg, _BOX, x, y, gap=6.0)
    named = or_zero(units.format_time)
    for tick in nice_ticks(times[-1] - times[0], 5):
        plot.column(times[0] + tick, named(tick))
    # Three levels: a detector's volts mean little, their ratio is read off the brackets.
    for level in (low, (low + high) / 2, high):
        plot.level_name(level, units.format_prefixed(level, result["unit"]))
    svg.polyline(
        "flash-line", [(x(t), y(v)) for t, v in zip(times, levels, strict=True)]
    )
    _brackets(svg, pop, t0, x, y)
    rows: list[tuple[str, ...]] = [tuple(row.values()) for row in figure_rows(result)]
    summary = f"{result['channel']}, {len(result['pops'])} {'pop' if len(result['pops']) == 1 else 'pops'}."
    return Drawing(
        svg, summary, ("Figure", "Value", "", "Uncertainty", "sd over pops"), rows
    )


def draw_histogram(found: "LagResult") -> Drawing:
    """How the lags are spread, in bins."""
    bins = found.histogram()
    svg = Svg(720, 260, "Histogram of the lags")
    low, high = bins[0][0], bins[-1][1]
    # Lags that are all alike make one bin of no width.
    x = linear_scale(low, high if high > low else low + 1e-9, _LEFT, _RIGHT)
    y = linear_scale(0, max(count for _, _, count in bins), 220.0, _TOP)
    for begin, end, count in bins:
        svg.rect(
            "time",
            x(begin) + 1,
            y(count),
            x(end) - x(begin) - 2,
            220.0 - y(count),
            fill_opacity="0.75",
        )
    for at, anchor in ((low, "start"), (high, "end")):
        svg.text("quiet", x(at), 238, units.format_time(at), anchor)
    svg.line("limit", x(found.mean_s), _TOP - 6, x(found.mean_s), 220.0)
    svg.text(
        "limit-text",
        x(found.mean_s) + 6,
        _TOP + 4,
        f"mean {units.format_time(found.mean_s)}",
    )
    rows: list[tuple[str, ...]] = [
        (units.format_time(begin), units.format_time(end), str(count))
        for begin, end, count in bins
    ]
    return Drawing(svg, f"{len(found.lags_s)} lags.", ("From", "To", "Pops"), rows)


def draw_colours(run: ColourRun) -> Drawing:
    """ΔE00 of each pop to the mean as bars, those beyond the tolerance marked by shape and colour; with a table."""
    frames = (run.result or {})["frames"]
    svg = Svg(720, 250, "Colour difference of each pop to the mean")
    # The tolerance is always on the axis, also where all pops are far below it.
    most = max([run.tolerance * 1.3, *(frame["delta_e00"] for frame in frames)])
    # room for the two lines above the tallest bar
    y = linear_scale(0, most, 210.0, _TOP + 24)
    # with more, the words run into each other
    few = len(frames) <= 24
    step = (_RIGHT - _LEFT) / len(frames)
    for number, frame in enumerate(frames):
        left, top = _LEFT + number * step, y(frame["delta_e00"])
        svg.rect(
            "refused" if frame["beyond"] else "flash",
            left + step * 0.15,
            top,
            step * 0.7,
            210.0 - top,
        )
        if few:
            above = [("quiet", f"{frame['delta_e00']:.1f}")]
        else:
            above = []
        above += [("refused-text", "beyond")] if frame["beyond"] else []
        for place, (cls, text) in enumerate(above):
            svg.text(cls, left + step / 2, top - 4 - 14 * place, text, "middle")
        if few:
            if frame["power"]:
                shown = units.format_power(frame["power"])
            else:
                shown = str(number + 1)
            svg.text("quiet", left + step / 2, 228, shown, "middle")
    svg.line("limit", _LEFT, y(run.tolerance), _RIGHT, y(run.tolerance))
    svg.text(
        "limit-text",
        _RIGHT,
        y(run.tolerance) - 5,
        f"tolerance ΔE00 {run.tolerance:g}",
        "end",
    )
    rows: list[tuple[str, ...]] = [
        (
            frame["name"],
            units.format_power(frame["power"]) if frame["power"] else "–",
            f"{frame['cct_k']:.0f} K",
            f"{frame['duv']:+.4f}".replace("-", units.MINUS),
            f"{frame['delta_e00']:.2f}",
            f"{frame['mired_shift']:+.1f}".replace("-", units.MINUS),
            units.format_stops(frame["exposure_stops"]),
            "beyond" if frame["beyond"] else "",
        )
        for frame in frames
    ]
    strays = sum(frame["beyond"] for frame in frames)
    spread = units.format_number((run.result or {})["spread_stops"], 2)
    beyond = f"{strays} of {len(frames)} pops lie beyond the tolerance"
    summary = (
        f"Bars are ΔE00 to the mean; {beyond}; exposure spreads over {spread} stops."
    )
    return Drawing(
        svg,
        summary,
        ("Frame", "Power", "CCT", "Duv", "ΔE00", "Mired", "Exposure, stops", ""),
        rows,
    )


def _span(
    pop: dict, t0: float, dt: float, count: int
) -> tuple[float | None, float | None]:
    first, last = pop["first01_s"], pop["last01_s"]
    # A pulse that could not be bracketed is shown in its whole sweep.
    if first is None or last is None:
        return None, None
    # A quarter of its length before it, and as much again behind it, where tails are.
    return t0 + first - 0.25 * (last - first), t0 + min(
        last + 1.2 * (last - first), dt * count
    )


def _brackets(svg: Svg, pop: dict, t0: float, x: Scale, y: Scale) -> None:
    for level, name in ((0.5, "05"), (0.1, "01")):
        first, last, width = (
            pop[f"first{name}_s"],
            pop[f"last{name}_s"],
            pop[f"t{name}_s"],
        )
        if first is None or last is None or width is None:
            continue
        # Some detectors pull their output down with light.
        if pop["inverted"]:
            sign = -1.0
        else:
            sign = 1.0
        at = y(pop["baseline"] + sign * level * pop["peak"])
        left, right = x(t0 + first), x(t0 + last)
        svg.line("bracket", left, at, right, at)
        for end in (left, right):
            svg.line("bracket", end, at - 4, end, at + 4)
        svg.text(
            "text", right + 8, at - 5, f"t.{level * 10:.0f} {units.format_time(width)}"
        )
