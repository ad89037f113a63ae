"""Small drawings of the other tools: a flight's arc, what a second beam buys, the wake-up of a watch."""

from rapzel.core.shared import units
from rapzel.core.tools import flight, speedometer, watch
from rapzel.ui.drawing import Drawing, Svg, linear_scale, nice_ticks
from rapzel.ui.plot import SHARES, Box, Plot

_LEFT, _RIGHT, _TOP, _BOTTOM = 60.0, 600.0, 30.0, 270.0
_BOX = Box(_LEFT, _RIGHT, _TOP, _BOTTOM)


def draw_flight(asked: flight.FlightAsked, answer: flight.FlightAnswered) -> Drawing:
    """Height over time, with the place that is wanted and the event."""
    way = flight.flight_of(asked)
    svg = Svg(640, 312, "Height over time.")
    # The wanted height is on the axis also where nothing gets there.
    top = max(float(way.height_m.max()), asked.wanted_m, 1e-3) * 1.08
    x, y = _BOX.linear_x(0, way.lands_s * 1.05), _BOX.linear_y(0, top)
    plot = Plot(svg, _BOX, x, y)
    plot.columns(nice_ticks(way.lands_s * 1.05, 5), units.format_time)
    plot.levels(nice_ticks(top, 4), units.format_length)
    points = zip(way.time_s, way.height_m, strict=True)
    svg.polyline(
        "time-line", [(x(float(time)), y(float(height))) for time, height in points]
    )
    if answer.wanted_s is not None:
        height = way.at(answer.wanted_s)[1]
        plot.upwards(answer.wanted_s, "limit")
        svg.circle("flash", x(answer.wanted_s), y(height), 5.0)
        # Near the right edge the words stand on the other side of the line.
        if x(answer.wanted_s) < _RIGHT - 120:
            anchor = "start"
        else:
            anchor = "end"
        svg.text(
            "flash-text",
            x(answer.wanted_s) + (8 if anchor == "start" else -8),
            _TOP + 12,
            f"wanted {units.format_time(answer.wanted_s)}",
            anchor,
        )
    if asked.event == "impact":
        event = way.lands_s
    else:
        event = 0.0
    svg.text("time-text", x(event), _TOP - 10, asked.event, "end" if event else "start")
    rows = [
        (
            units.format_time(time),
            *map(units.format_length, (height, along)),
            units.format_speed(speed),
        )
        # Every fifth row: a table to read, the file has all of them.
        for time, along, height, speed in flight.table(asked)[1][::5]
    ]
    summary = f"It lands after {units.format_time(way.lands_s)}."
    return Drawing(
        svg, summary, ("After the release", "Height", "Along", "Speed"), rows
    )


def draw_speedometer(
    asked: speedometer.SpeedometerAsked, answer: speedometer.SpeedometerAnswered
) -> Drawing:
    """The share within the place over how far the beams stand apart, against one beam."""
    header, rows = speedometer.table(asked)
    svg = Svg(640, 312, "Share within the place over the distance between the beams.")
    # Beams stand from centimetres to metres apart: a logarithm shows both.
    x, y = _BOX.log_x(rows[0][0], rows[-1][0]), _BOX.linear_y(0, 1)
    plot = Plot(svg, _BOX, x, y)
    plot.levels(SHARES, units.format_percent)
    for name, label, cls in (
        ("share_one", "one beam", "room"),
        ("share_two", "two beams", "time"),
    ):
        column = header.index(name)
        svg.polyline(f"{cls}-line", [(x(row[0]), y(row[column])) for row in rows])
        svg.text(
            # Near the right end, where the two curves are apart.
            f"{cls}-text",
            x(rows[-9][0]),
            y(rows[-9][column]) - 8,
            label,
            "middle",
        )
    plot.upwards(asked.apart_m, "bracket", under=6)
    svg.text(
        "text",
        x(asked.apart_m),
        _BOTTOM + 22,
        f"{units.format_length(asked.apart_m)} apart",
        "middle",
    )
    cells = [
        (
            units.format_length(row[0]),
            *(units.format_length(each) for each in row[1:3]),
            *(units.format_percent(each) for each in row[3:]),
        )
        for row in rows[::5]
    ]
    headers = ("Apart", "Spread, one beam", "Spread, two", "Share, one", "Share, two")
    return Drawing(
        svg,
        "Beams too close together measure the speed badly; far apart they need room.",
        headers,
        cells,
    )


def draw_watch(asked: watch.WatchAsked, answer: watch.WatchAnswered) -> Drawing:
    """The wake-up: frames that are dark, the first lit one, and how many visitors are still there."""
    rows = watch.table(asked)[1]
    svg = Svg(
        640,
        312,
        "From the first signal to the first lit frame, and who is still there.",
    )
    x, y = _BOX.linear_x(0, rows[-1][0]), linear_scale(0, 1, _BOTTOM - 40, _TOP)
    plot = Plot(svg, _BOX, x, y)
    plot.levels(SHARES[::2], units.format_percent)
    svg.polyline("time-line", [(x(row[0]), y(row[1])) for row in rows])
    svg.text("time-text", _RIGHT, _TOP - 10, "visitors still there", "end")
    svg.rect("open", x(0), _BOTTOM - 26, max(x(answer.hold_s) - x(0), 2), 14)
    svg.text("quiet", _LEFT - 8, _BOTTOM - 15, "held", "end")
    # Sixty frames fill the axis; more would be a solid bar.
    for place in range(min(answer.frames_needed, 60)):
        at = place * asked.frame_gap_s
        # Lit and dark frames differ by shape of fill and colour, and by the line between them.
        lit = place >= answer.dark_frames
        svg.rect("flash" if lit else "frame-dark", x(at) - 3, _BOTTOM - 30, 6.0, 22.0)
    svg.line("limit", x(answer.hold_s), _TOP, x(answer.hold_s), _BOTTOM - 32)
    words = f"lit from {units.format_time(answer.hold_s)}"
    svg.text("limit-text", min(x(answer.hold_s) + 6, _RIGHT - 90), _TOP + 14, words)
    plot.column_names(nice_ticks(rows[-1][0], 6), units.format_time, below=10)
    cells: list[tuple[str, ...]] = [
        (name, _nights(value), _span(answer, name))
        for name, value in answer.nights.items()
    ]
    there = units.format_percent(answer.p_still_there)
    summary = (
        f"{answer.dark_frames} dark, then lit; {there} of the visitors are still there."
    )
    return Drawing(svg, summary, ("Device", "Nights", "With the cells' doubt"), cells)


def _nights(value: float | None) -> str:
    if value is None:
        return "takes nothing by its figures"
    return units.format_number(value, 2)


def _span(answer: watch.WatchAnswered, name: str) -> str:
    if name not in answer.nights_range:
        return "not known"
    low, high = answer.nights_range[name]
    return f"{units.format_number(low, 2)} to {units.format_number(high, 2)}"
