"""A beam to scale: from above and from the side, with the camera's field, the sharp slab, the ways and their spread."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from rapzel.core.motion.trajectory import Axes
from rapzel.core.shared import units
from rapzel.core.subjects.pen import clipped_polygon
from rapzel.core.tools.beam import BeamAnswered, BeamAsked, beam_line, way_of
from rapzel.core.trigger.crossing import added, scaled, sideways
from rapzel.ui.drawing import Drawing, Place, Svg, handle, places_between
from rapzel.ui.plot import length_bar

_WIDTH, _HEIGHT, _GAP = 430.0, 236.0, 24.0
_UNKNOWN_LENGTH = 1.1  # times the field, for a beam of unknown length
Point = tuple[float, float]
# Which input of the tool a handle writes to; the page of a scene gives paths of the scene instead.
KEYS = {
    "upstream": "upstream_m", "length": "length_m", "focus": "focus_m", "turned": "turned_deg",
}  # fmt: skip


@dataclass(frozen=True)
class View:
    """One projection at true scale: metres across and up the drawing, from the wanted place."""

    left: float
    px_per_m: float
    middle: Point  # of the drawing, where the wanted place is
    flat: Callable[[Axes], Point]

    def at(self, place: Axes) -> Point:
        x, y = self.flat(place)
        return self.middle[0] + x * self.px_per_m, self.middle[1] - y * self.px_per_m


def _above(place: Axes) -> Point:
    """From above: across to the right, towards the camera downwards."""
    return float(place.across), -float(place.towards)


def _aside(place: Axes) -> Point:
    """From the side: away from the camera to the right, up upwards."""
    return -float(place.towards), float(place.up)


def draw_beam(asked: BeamAsked, answer: BeamAnswered, keys: Mapping[str, str] = KEYS) -> Drawing:
    """Plan and side view with handles: the beam, the slab that is sharp, the ways, and the subject at the light."""
    svg = Svg(
        2 * _WIDTH + _GAP,
        _HEIGHT + 28,
        "Beam, camera and ways to scale, from above and from the side.",
    )
    scale = _px_per_m(asked, answer)
    plan = View(0.0, scale, _middle(0.0, asked, scale, plan=True), _above)
    side = View(_WIDTH + _GAP, scale, _middle(_WIDTH + _GAP, asked, scale, plan=False), _aside)
    for view, name in ((plan, "from above"), (side, "from the side")):
        svg.text("quiet", view.left + 4, 14, name)
        _slab(svg, asked, view)
        _ways(svg, asked, answer, view)
        _beam(svg, asked, answer, view)
    _handles(svg, asked, plan, keys)
    _ruler(svg, scale)
    return Drawing(svg, _summary(asked, answer), ("Figure", "Value"), _rows(asked, answer))


def _span_m(asked: BeamAsked) -> float:
    length = asked.length_m or _UNKNOWN_LENGTH * asked.field_width_m
    return max(asked.field_width_m, 2 * asked.upstream_m, min(length, 3 * asked.field_width_m))


def _px_per_m(asked: BeamAsked, answer: BeamAnswered) -> float:
    """So many pixels a metre that both views hold the field, the beam and the way to the place."""
    ends = beam_ends(asked) or ()
    deep = max((2 * abs(float(end.towards)) for end in ends), default=0.0)
    tall = max((2 * abs(float(end.up)) for end in ends), default=0.0)
    if ends:
        wide = max(_span_m(asked), *(2 * abs(float(end.across)) for end in ends))
    else:
        wide = _span_m(asked)
    most = 3 * asked.field_width_m
    high = max(0.5 * asked.field_width_m, asked.field_height_m, min(deep, most), min(tall, most))
    return min(_WIDTH * 0.86 / min(wide, 2 * most), _HEIGHT * 0.88 / high)


def _middle(left: float, asked: BeamAsked, scale: float, plan: bool) -> Point:
    """The wanted place stands off the middle by half of what the beam stands upstream."""
    way, half = way_of(asked), asked.upstream_m / 2 * scale
    x, y = (_above if plan else _aside)(way)
    return left + _WIDTH / 2 + x * half, 24 + _HEIGHT / 2 - y * half


def _slab(svg: Svg, asked: BeamAsked, view: View) -> None:
    """The camera's field, what of it is sharp, and the plane of focus."""
    far = min(asked.far_m or math.inf, asked.focus_m + _HEIGHT / view.px_per_m)
    near, focus = max(asked.near_m, asked.focus_m - _HEIGHT / view.px_per_m), asked.focus_m
    if view.flat is _above:
        wide = asked.field_width_m
    else:
        wide = asked.field_height_m

    def edge(distance: float, sign: int) -> Point:
        half = sign * wide * distance / focus / 2
        towards = focus - distance
        return view.at(
            Axes(half, 0.0, towards) if view.flat is _above else Axes(0.0, half, towards)
        )

    _area(svg, "limit-area", [edge(near, -1), edge(far, -1), edge(far, 1), edge(near, 1)], view)
    reach = _HEIGHT / view.px_per_m
    for sign in (-1, 1):
        _line(svg, "grid", edge(max(focus - reach, 0.01), sign), edge(focus + reach, sign), view)
    _line(svg, "limit", edge(focus, -1), edge(focus, 1), view)
    if view.flat is _above:
        x, y = edge(focus, 1)
        svg.text(
            "limit-text",
            min(x, view.left + _WIDTH - 4),
            y - 5,
            f"focus {units.format_length(focus)}",
            "end",
        )
        svg.text(
            "quiet",
            view.middle[0],
            _HEIGHT + 20,
            f"camera {units.format_length(focus)} away ↓",
            "middle",
        )
    else:
        svg.text("quiet", view.left + 4, _HEIGHT + 20, "← camera")


def _box(view: View) -> tuple[float, float, float, float]:
    return view.left, 22.0, view.left + _WIDTH, _HEIGHT + 6


def _area(svg: Svg, cls: str, points: list[Point], view: View, **more: object) -> None:
    """The part of a polygon within its view."""
    inside = clipped_polygon(points, _box(view))
    if len(inside) > 2:
        svg.polygon(cls, inside, **more)


def _line(
    svg: Svg, cls: str, a: Point, b: Point, view: View, dashes: str | None = None
) -> tuple[Point, Point] | None:
    """The part of a line within its view, and its ends; None where it is outside (Liang and Barsky 1984)."""
    left, top, right, bottom = _box(view)
    dx, dy, first, last = b[0] - a[0], b[1] - a[1], 0.0, 1.0
    sides = ((-dx, a[0] - left), (dx, right - a[0]), (-dy, a[1] - top), (dy, bottom - a[1]))
    for step, room in sides:
        if step < 0:
            first = max(first, room / step)
        elif step > 0:
            last = min(last, room / step)
        elif room < 0:
            return None
    if first > last:
        return None
    ends = (a[0] + first * dx, a[1] + first * dy), (a[0] + last * dx, a[1] + last * dy)
    svg.line(cls, *ends[0], *ends[1], stroke_dasharray=dashes)
    return ends


def _held(point: Point, view: View) -> Point:
    """The point, or the nearest one within the view."""
    left, top, right, bottom = _box(view)
    return min(max(point[0], left), right), min(max(point[1], top), bottom)


def _ways(svg: Svg, asked: BeamAsked, answer: BeamAnswered, view: View) -> None:
    """The usual way, where ways spread by one standard deviation, and the subject when the light comes."""
    way = way_of(asked)
    aside, above = sideways(way)
    if view.flat is _above:
        spread = asked.aside_sd_m
    else:
        spread = asked.above_sd_m
    off = scaled(aside if view.flat is _above else above, spread)
    begin, end = (
        scaled(way, -asked.upstream_m * 1.25 - 0.1 * _span_m(asked)),
        scaled(way, 0.45 * _span_m(asked)),
    )
    band = [
        added(begin, off),
        added(end, off),
        added(end, scaled(off, -1)),
        added(begin, scaled(off, -1)),
    ]
    if spread:
        _area(svg, "time", [view.at(place) for place in band], view, fill_opacity="0.14")
    # Dashed: the usual way, which no single one follows exactly.
    ends = _line(svg, "time-line", view.at(begin), view.at(end), view, "6 4")
    if ends and math.dist(*ends) > 12:
        _arrow(svg, *ends)
    if answer.travel_m is None:
        return
    light = scaled(way, answer.travel_m - asked.upstream_m)
    along = scaled(way, max(answer.along_sd_m or 0.0, 1e-6))
    around = [
        added(light, added(scaled(along, math.cos(turn)), scaled(off, math.sin(turn))))
        for turn in np.linspace(0, math.tau, 25)
    ]
    _area(svg, "flash", [view.at(place) for place in around], view, fill_opacity="0.35")
    x, y = _held(view.at(light), view)
    svg.circle("flash", x, y, 4.0)
    if view.flat is _above:
        svg.text("flash-text", x, y + 22, "at the light, ± 1 sd", "middle")


def _arrow(svg: Svg, a: Point, b: Point) -> None:
    """A chevron at the end of the way."""
    size = math.dist(a, b)
    ux, uy = (b[0] - a[0]) / size, (b[1] - a[1]) / size
    left = (b[0] - 9 * ux + 5 * uy, b[1] - 9 * uy - 5 * ux)
    right = (b[0] - 9 * ux - 5 * uy, b[1] - 9 * uy + 5 * ux)
    svg.polyline("time-line", [left, b, right])


def beam_ends(asked: BeamAsked) -> tuple[Axes, Axes, Axes] | None:
    """The beam's two ends and where the usual way cuts it, from the wanted place; None for one along the way."""
    line = beam_line(asked)
    if line is None:
        return None
    length = asked.length_m or _UNKNOWN_LENGTH * asked.field_width_m
    cut = scaled(way_of(asked), -asked.upstream_m)
    middle = added(cut, scaled(line.along, -line.offset_m))
    return (
        added(middle, scaled(line.along, -length / 2)),
        added(middle, scaled(line.along, length / 2)),
        cut,
    )


def _beam(svg: Svg, asked: BeamAsked, answer: BeamAnswered, view: View) -> None:
    """The beam between its ends; one of unknown length fades out dotted."""
    ends = beam_ends(asked)
    if ends is None:
        return
    if asked.zone_m:  # it fires anywhere within
        aside = scaled(way_of(asked), asked.zone_m / 2)
        back = scaled(aside, -1)
        corners = [
            added(end, off)
            for end, off in zip(
                (ends[0], ends[1], ends[1], ends[0]), (aside, aside, back, back), strict=True
            )
        ]
        _area(svg, "time", [view.at(corner) for corner in corners], view, fill_opacity="0.18")
    if asked.length_m:
        dashes = None
    else:
        dashes = "2 5"
    drawn = _line(svg, "beam", view.at(ends[0]), view.at(ends[1]), view, dashes)
    for x, y in drawn if drawn and asked.length_m else ():
        svg.rect("time", x - 4, y - 4, 8.0, 8.0)
    if view.flat is _above and answer.useless_beam_share and drawn:
        x, y = drawn[0]
        words = f"{units.format_percent(answer.useless_beam_share)} of the beam useless"
        svg.text(
            "time-text",
            min(max(x, view.left + 70), view.left + _WIDTH - 70),
            max(y - 8, 32),
            words,
            "middle",
        )


def _handles(svg: Svg, asked: BeamAsked, view: View, keys: Mapping[str, str]) -> None:
    """Where the beam can be dragged along the way, its end along itself, and the focus along the axis."""
    ends, way, line = beam_ends(asked), way_of(asked), beam_line(asked)
    if ends is None or line is None:
        return
    show = units.format_length
    if "upstream" in keys:
        most = _span_m(asked)
        far = view.at(scaled(way, -most))
        spots = places_between(view.at(Axes(0.0, 0.0, 0.0)), far, (0.0, most), show)
        handle(
            svg,
            *view.at(ends[2]),
            keys["upstream"],
            _inside(spots, view),
            "Beam: drag along the way",
        )
    if "length" in keys:
        middle = added(ends[2], scaled(line.along, -line.offset_m))
        most = 3 * asked.field_width_m
        far = view.at(added(middle, scaled(line.along, most / 2)))
        spots = places_between(view.at(middle), far, (0.0, most), show)[1:]
        x, y = _held(view.at(ends[1]), view)
        handle(svg, x, y, keys["length"], _inside(spots, view), "Length of the beam: drag its end")
    if "turned" in keys:
        turns = _turns(asked, view)
    else:
        turns = []
    if turns:
        handle(
            svg,
            *_held(view.at(ends[0]), view),
            keys["turned"],
            turns,
            "Turn the beam: drag its other end",
        )
    if "focus" in keys:
        here = view.at(Axes(-asked.field_width_m / 2, 0.0, 0.0))
        reach = 0.3 * _HEIGHT / view.px_per_m
        low = max(asked.focus_m - reach, 0.05)
        near_y, far_y = (
            here[1] + (asked.focus_m - value) * view.px_per_m
            for value in (low, asked.focus_m + reach)
        )
        ends_m = (low, asked.focus_m + reach)
        spots = places_between((here[0], near_y), (here[0], far_y), ends_m, show)
        handle(svg, *here, keys["focus"], spots, "Focus: drag along the axis")


def _turns(asked: BeamAsked, view: View) -> list[Place]:
    """Where the beam's other end is for each five degrees of turning; none where that is not seen from above."""
    spots: list[Place] = []
    for turned in range(-80, 81, 5):
        ends = beam_ends(asked.model_copy(update={"turned_deg": float(turned)}))
        if ends is not None:
            spots.append((*view.at(ends[0]), f"{turned}°"))
    seen = spots and math.dist(spots[0][:2], spots[-1][:2]) > 10
    if seen:
        return _inside(spots, view)
    return []


def _inside(spots: list[tuple[float, float, str]], view: View) -> list[tuple[float, float, str]]:
    right = view.left + _WIDTH
    kept = [
        spot
        for spot in spots
        if view.left - 1 <= spot[0] <= right + 1 and 0 <= spot[1] <= _HEIGHT + 28
    ]
    return kept or spots[:1]


def _ruler(svg: Svg, scale: float) -> None:
    """A length to compare with."""
    power = 10.0 ** math.floor(math.log10(120 / scale))
    length = max(step * power for step in (1, 2, 5) if step * power <= 120 / scale)
    left, y = _WIDTH + _GAP + 300 - length * scale / 2, _HEIGHT + 16
    length_bar(svg, left, y, scale, length)
    svg.text("quiet", left + length * scale + 6, y + 4, units.format_length(length))


def _summary(asked: BeamAsked, answer: BeamAnswered) -> str:
    where = f"The beam stands {units.format_length(asked.upstream_m)} before the place"
    if answer.travel_m is None:
        return f"{where}; where the subject is when the light comes is not known."
    off = answer.travel_m - asked.upstream_m
    if off >= 0:
        word = "past"
    else:
        word = "before"
    return (
        f"{where}; when the light comes the usual one is {units.format_length(abs(off))} {word} it."
    )


def _rows(asked: BeamAsked, answer: BeamAnswered) -> list[tuple[str, ...]]:
    def share(value: float | None) -> str:
        if value is None:
            return "not known"
        return units.format_percent(value)

    def length(value: float | None) -> str:
        if value is None:
            return "not known"
        return units.format_length(value)

    rows: list[tuple[str, ...]] = [
        ("beam before the place", length(asked.upstream_m)),
        ("length of the beam", length(asked.length_m)),
        (
            "sharp",
            f"{length(asked.near_m)} … {'∞' if asked.far_m is None else length(asked.far_m)}",
        ),
        ("way from the beam to the light", length(answer.travel_m)),
        ("its spread, sd", length(answer.along_sd_m)),
        ("in the frame", share(answer.share_in_frame)),
        ("in focus", share(answer.share_in_focus)),
        ("both, and in the place", share(answer.share)),
        ("passes that the beam notices", share(answer.share_noticed)),
        ("useless part of the beam", share(answer.useless_beam_share)),
    ]
    if answer.closed_form is not None:
        rows.append(("in frame and focus, closed form", share(answer.closed_form.share)))
    return rows
