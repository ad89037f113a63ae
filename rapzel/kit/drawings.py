"""A strobe's durations over its power; measured, claimed and estimated are told apart by shape, not colour alone."""

import math

import numpy as np

from rapzel.core.document.gear import Strobe, lowest_power
from rapzel.core.pulse import pulse_at
from rapzel.core.pulse.setting import Durations
from rapzel.core.shared import units
from rapzel.core.strobes.compare import settings_of, sources_of
from rapzel.ui import plot
from rapzel.ui.drawing import Drawing, Svg, linear_scale, log_scale

_LEFT, _RIGHT, _TOP, _BOTTOM = 70.0, 590.0, 24.0, 270.0
_BOX = plot.Box(_LEFT, _RIGHT, _TOP, _BOTTOM)
_LIGHT_BOX = plot.Box(_LEFT, _RIGHT, 16.0, 190.0)
# what the small curves reach
_SPARK_STOPS, _SPARK_S, _SPARK_LIGHT = 9.0, (1e-5, 1e-2), 14.0


def _tables(strobe: Strobe) -> list[tuple[str, Durations]]:
    own: list[tuple[str, Durations]] = (
        [("", strobe.durations)] if strobe.durations else []
    )
    return own + [(mode.name, mode.durations) for mode in strobe.modes]


def draw_spark(strobe: Strobe) -> Svg:
    """A strobe at a glance: t.1 over its power as a line, its light as bars; all strobes on the same scales."""
    svg = Svg(220, 44, f"{strobe.name or 'Strobe'}: t.1 and light over its power")
    # One scale for all strobes, so that the list can be compared at a glance.
    x = linear_scale(-_SPARK_STOPS, 0.0, 2.0, 150.0)
    y = log_scale(*_SPARK_S, 42.0, 2.0)
    light = linear_scale(0.0, _SPARK_LIGHT, 42.0, 2.0)
    # its fastest mode
    source = min(sources_of(strobe), key=lambda one: settings_of(one, 1)[-1].t01_s)
    for point in settings_of(source, 1):
        at, top = x(math.log2(point.power)), light(max(point.light_stops, 0.0))
        # Light as bars below, its time as a line above: both over the same power.
        svg.rect("flash-area", at - 5, top, 10, 42.0 - top)
    low = lowest_power(strobe)
    if low < 1:
        powers = [float(power) for power in np.geomspace(low, 1.0, 24)]
    else:
        powers = [1.0]
    t01 = [pulse_at(strobe.circuit, source.table, power).t01_s for power in powers]
    line = [
        (x(math.log2(power)), y(time)) for power, time in zip(powers, t01, strict=True)
    ]
    svg.polyline("flash-line", line)
    svg.text("quiet", 158, 16, units.format_time(t01[-1]))
    svg.text("quiet", 158, 38, units.format_time(t01[0]))
    return svg


def draw_durations(strobe: Strobe) -> Drawing:
    """t.1 and t.5 against power for every mode, and a table in whole stops."""
    svg = Svg(620, 310, f"Durations of {strobe.name or 'the strobe'} over its power.")
    low = lowest_power(strobe)
    if low < 1:
        powers = np.geomspace(low, 1.0, 40)
    else:
        powers = np.array([1.0])
    curves = [
        (name, table, [pulse_at(strobe.circuit, table, float(p)) for p in powers])
        for name, table in _tables(strobe)
    ]
    # t.5 is the shorter of the two, t.1 the longer: together they span the axis.
    shortest = min(known.t05_s for _, _, curve in curves for known in curve)
    longest = max(known.t01_s for _, _, curve in curves for known in curve)
    decades = (
        10 ** math.floor(math.log10(shortest)),
        10 ** math.ceil(math.log10(longest) + 1e-9),
    )
    x = _BOX.linear_x(min(math.log2(low), -1.0), 0.0)
    y = _BOX.log_y(decades[0], decades[1])
    axes = plot.Plot(svg, _BOX, x, y)
    axes.levels(plot.decades(*decades), units.format_time)
    axes.columns(plot.whole_stops_down(low), plot.power_of_stops)
    for place, (name, table, curve) in enumerate(curves):
        if place == 0:
            dash = None
        else:
            dash = "6 3"
        places = [x(math.log2(float(p))) for p in powers]
        svg.polyline(
            "flash-line",
            [(at, y(k.t01_s)) for at, k in zip(places, curve, strict=True)],
            stroke_dasharray=dash,
        )
        svg.polyline(
            "flash-range",
            [(at, y(k.t05_s)) for at, k in zip(places, curve, strict=True)],
            stroke_dasharray=dash,
        )
        svg.text(
            "flash-text", places[0] + 4, y(curve[0].t01_s) - 8, f"t.1 {name}".strip()
        )
        begin = y(curve[0].t05_s)
        # not among the numbers of the axis
        if begin + 20 < _BOTTOM:
            label = begin + 16
        else:
            label = begin - 8
        svg.text("quiet", places[0] + 4, label, f"t.5 {name}".strip())
        for setting in table:
            # Points are what was said, lines what is made of it: one sees where nothing was said.
            for width in (setting.t01_s, setting.t05_s):
                if width is not None:
                    _point(
                        svg, x(math.log2(setting.power)), y(width), setting.provenance
                    )
    rows = [
        _row(strobe, name, table, stop)
        for name, table in _tables(strobe)
        for stop in range(math.floor(-math.log2(low) + 1e-6) + 1)
    ]
    summary = "Discs are measured, squares claimed, rings estimated; lines are what the circuit makes of them."
    return Drawing(svg, summary, ("Power", "Mode", "t.5", "t.1", "Known"), rows)


def draw_light(strobe: Strobe) -> Drawing:
    """Guide number against power for every mode; a measured setting is a disc, the dial's promise a dotted line."""
    low = lowest_power(strobe)
    svg = Svg(620, 230, f"Light of {strobe.name or 'the strobe'} over its power.")
    sources = sources_of(strobe)
    curves = [(source, settings_of(source, 3)) for source in sources]
    # Thirds of a stop, as dials go.
    stops = [point.light_stops for _, curve in curves for point in curve]
    least, most = math.floor(min(stops)), math.ceil(max(stops))
    x, y = (
        _LIGHT_BOX.linear_x(min(math.log2(low), -1.0), 0.0),
        _LIGHT_BOX.linear_y(least, most),
    )
    axes = plot.Plot(svg, _LIGHT_BOX, x, y)
    axes.levels(range(least, most + 1, 2), plot.guide_number_of_stops)
    axes.column_names(plot.whole_stops_down(low), plot.power_of_stops)
    rows: list[tuple[str, ...]] = []
    for place, (source, curve) in enumerate(curves):
        at = [(x(math.log2(point.power)), y(point.light_stops)) for point in curve]
        svg.polyline("flash-line", at, stroke_dasharray=None if place == 0 else "6 3")
        for setting in source.table:
            if setting.light_stops is not None:
                power = math.log2(setting.power)
                _point(
                    svg,
                    x(power),
                    # Stops of light against a guide number of 1, so that strobes share an axis.
                    y(2 * math.log2(strobe.guide_number_m) + setting.light_stops),
                    "measured",
                )
        rows += [
            (
                source.mode or "–",
                units.format_power(p.power),
                f"{units.format_number(p.guide_number_m)} m",
            )
            # (whole stops are enough to read)
            for p in curve[::3]
        ]
    summary = "Guide number at ISO 100 against power. Discs were measured; elsewhere the dial is taken at its word."
    return Drawing(svg, summary, ("Mode", "Power", "GN"), rows)


def _point(svg: Svg, x: float, y: float, provenance: str) -> None:
    if provenance == "claimed":
        svg.rect("flash", x - 4, y - 4, 8, 8)
    elif provenance == "measured":
        svg.rect("flash", x - 5, y - 5, 10, 10, rx=5)
    else:
        svg.rect("flash-line", x - 4.5, y - 4.5, 9, 9, rx=4.5)


def _row(strobe: Strobe, name: str, table: Durations, stop: int) -> tuple[str, ...]:
    known = pulse_at(strobe.circuit, table, 2.0**-stop)
    shown = [units.format_time(known.t05_s), units.format_time(known.t01_s)]
    return (
        units.format_power(2.0**-stop),
        name or "–",
        *shown,
        f"{known.provenance}: {known.basis}",
    )
