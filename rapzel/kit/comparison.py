"""Strobes on one plot: light against t.1, each point a setting; and the same as rows and CSV."""

import math
from collections.abc import Sequence

from rapzel.core.document.gear import Strobe
from rapzel.core.shared import units
from rapzel.core.strobes.compare import (
    Offer,
    Point,
    Source,
    front,
    offers,
    settings_of,
    sources_of,
)
from rapzel.ui import plot
from rapzel.ui.drawing import Drawing, Scale, Svg
from rapzel.ui.tables import to_csv

_LEFT, _RIGHT, _TOP, _BOTTOM = 64.0, 740.0, 24.0, 380.0
_BOX = plot.Box(_LEFT, _RIGHT, _TOP, _BOTTOM)
_DASHES = (None, "6 3", "2 3", "8 3 2 3", "1 3", "10 4")
MOST = 6  # sources on one plot, as many as can be told apart

HEADERS = (
    "Strobe",
    "Power",
    "t.1",
    "t.5",
    "GN, ISO 100",
    "Light, stops",
    "Recycle",
    "Known",
    "On the front",
)


def draw_comparison(sources: Sequence[Source], t01_s: float | None) -> Drawing:
    """Light [stops] over t.1 (log) of every setting, the front marked; the wanted t.1 as the limit's line."""
    points = {id(source): settings_of(source) for source in sources}
    every = [point for source in sources for point in points[id(source)]]
    svg = Svg(1100, 430, "Light against t.1 of every setting")
    # Whole decades, so that strobes that are added seldom move the axis.
    low = 10 ** math.floor(math.log10(min(point.t01_s for point in every)))
    high = 10 ** math.ceil(math.log10(max(point.t01_s for point in every)) + 1e-9)
    least, most = min(p.light_stops for p in every), max(p.light_stops for p in every)
    lowest, highest = math.floor(least) - 1, math.ceil(most)
    x, y = _BOX.log_x(low, high), _BOX.linear_y(lowest, highest)
    axes = plot.Plot(svg, _BOX, x, y)
    axes.columns(plot.decades(low, high), units.format_time)
    # Stops are what dials turn; the guide number beside them is what leaflets print.
    axes.levels(range(lowest, highest + 1, 2), plot.guide_number_of_stops)
    svg.text("quiet", _RIGHT, _BOTTOM + 36, "t.1, shorter to the left", "end")
    # The settings for which no other is both shorter and brighter, of any strobe on the plot.
    best = front(every)
    svg.polyline(
        "bracket",
        [(x(p.t01_s), y(p.light_stops)) for p in best],
        stroke_dasharray="1 4",
    )
    for place, source in enumerate(sources):
        # Dashes and numbers tell the curves apart, for whom colours do not.
        _curve(svg, x, y, points[id(source)], best, place)
    # A wanted time off the axis is told by the rows alone.
    if t01_s and low <= t01_s <= high:
        svg.line("limit", x(t01_s), _TOP - 6, x(t01_s), _BOTTOM)
        svg.text("limit-text", x(t01_s) + 6, _TOP + 2, units.format_fraction(t01_s))
    rows = [_row(point, point in best) for point in every]
    summary = "Up is more light, left is shorter. Filled squares are settings that no other beats; rings are beaten."
    return Drawing(svg, summary, HEADERS, rows)


def _curve(
    svg: Svg, x: Scale, y: Scale, points: list[Point], best: list[Point], place: int
) -> None:
    at = [(x(p.t01_s), y(p.light_stops)) for p in points]
    dash = _DASHES[place % len(_DASHES)]
    svg.polyline("flash-range", at, stroke_dasharray=dash)
    for (left, top), point in zip(at, points, strict=True):
        # A square against a ring: seen without colour, and small.
        if point in best:
            svg.rect("flash", left - 4, top - 4, 8, 8)
        else:
            svg.rect("flash-line", left - 3.5, top - 3.5, 7, 7, rx=3.5)
    left, low = at[-1]  # the lowest settings lie furthest apart
    number, legend = str(place + 1), _TOP + 12 + 22 * place
    svg.text("flash-text", left - 8, low + 4, number, "end")
    svg.text("flash-text", _RIGHT + 24, legend, number)
    svg.line(
        "flash-line",
        _RIGHT + 40,
        legend - 4,
        _RIGHT + 74,
        legend - 4,
        stroke_dasharray=dash,
    )
    svg.text("text", _RIGHT + 82, legend, points[0].source.name)


def _row(point: Point, on_front: bool) -> tuple[str, ...]:
    if point.recycle_s is None:
        recycle = "–"
    else:
        recycle = units.format_time(point.recycle_s)
    return (
        point.source.name,
        units.format_power(point.power),
        units.format_time(point.t01_s),
        units.format_time(point.t05_s),
        units.format_number(point.guide_number_m),
        units.format_stops(point.light_stops),
        recycle,
        f"{point.provenance}: {point.basis}",
        "yes" if on_front else "",
    )


def step_rows(strobe: Strobe, per_stop: int) -> list[tuple[str, ...]]:
    """Every setting of every mode, `per_stop` steps to a stop, with colour where it was measured."""
    rows: list[tuple[str, ...]] = []
    for source in sources_of(strobe):
        for point in settings_of(source, per_stop):
            if point.pops_a_charge is None:
                pops = "–"
            else:
                pops = units.format_number(point.pops_a_charge)
            known = next(
                (
                    row
                    for row in source.table
                    # Half a percent: a power read from a table is never quite two to a third.
                    if abs(row.power / point.power - 1) < 0.005
                ),
                None,
            )
            if known and known.cct_k:
                colour = f"{known.cct_k:.0f} K"
            else:
                colour = "–"
            rows.append(
                (
                    source.mode or "–",
                    units.format_power(point.power),
                    units.format_time(point.t01_s),
                    units.format_time(point.t05_s),
                    units.format_number(point.guide_number_m),
                    "–"
                    if point.recycle_s is None
                    else units.format_time(point.recycle_s),
                    pops,
                    colour,
                    f"{point.provenance}: {point.basis}",
                )
            )
    return rows


def offer_rows(rows: Sequence[Offer]) -> list[dict[str, str]]:
    """What each source offers at the wanted t.1, dressed for the page."""
    shown = []
    for row in rows:
        point = row.point
        # It is listed all the same, or one would look for it in vain.
        if point is None or row.behind_stops is None:
            shown.append({"name": row.source.name, "none": "never so short"})
            continue
        recycle, rate = point.recycle_s, point.frames_per_s
        shown.append(
            {
                "name": row.source.name,
                "power": units.format_power(point.power),
                "t01": units.format_time(point.t01_s),
                "light": f"GN {units.format_number(point.guide_number_m)}",
                # Nearer than a twentieth of a stop two strobes give the same.
                "behind": "the most"
                if row.behind_stops < 0.05
                else units.format_stops(-row.behind_stops),
                "recycle": "–" if recycle is None else units.format_time(recycle),
                "rate": "–" if rate is None else units.format_number(rate, 2),
                "lights": str(row.lights_needed),
                "price": "–"
                if row.price_per_light is None
                else units.format_number(row.price_per_light),
                "known": point.provenance,
            }
        )
    return shown


COLUMNS = ("strobe", "mode", "power", "t01_s", "t05_s", "guide_number_m", "light_stops", "recycle_s", "provenance",
           "at_t01_s")  # fmt: skip


def comparison_csv(sources: Sequence[Source], t01_s: float | None) -> str:
    """Every setting in whole stops, SI; with a wanted t.1 also what each source offers there."""
    every: list[tuple[Point, float | None]] = [
        (point, None) for source in sources for point in settings_of(source)
    ]
    if t01_s:
        every += [(row.point, t01_s) for row in offers(sources, t01_s) if row.point]
    rows = (
        (
            point.source.strobe.name,
            point.source.mode,
            point.power,
            point.t01_s,
            point.t05_s,
            point.guide_number_m,
            point.light_stops,
            point.recycle_s,
            point.provenance,
            wanted,
        )
        for point, wanted in every
    )
    return to_csv(COLUMNS, rows)
