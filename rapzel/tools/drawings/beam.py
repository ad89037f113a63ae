"""A beam to scale: from above and from the side, with the camera's field, the sharp slab, the ways and their spread."""

import math
from collections.abc import Mapping

import numpy as np

from rapzel.core.motion.trajectory import Axes
from rapzel.core.shared import units
from rapzel.core.tools.beam_asked import BeamAnswered, BeamAsked, way_of
from rapzel.core.trigger.crossing import added, scaled, sideways
from rapzel.tools.drawings.beam_handles import handles
from rapzel.tools.drawings.beam_view import (
    HEIGHT,
    WIDTH,
    Point,
    View,
    area,
    beam_ends,
    from_above,
    from_the_side,
    held,
    line_within,
    span_m,
)
from rapzel.ui.drawing import Drawing, Svg
from rapzel.ui.plot import length_bar

_GAP = 24.0
# Which input of the tool a handle writes to; the page of a scene gives paths of the scene instead.
KEYS = {
    "upstream": "upstream_m", "length": "length_m", "focus": "focus_m", "turned": "turned_deg",
}  # fmt: skip


def draw_beam(
    asked: BeamAsked, answer: BeamAnswered, keys: Mapping[str, str] = KEYS
) -> Drawing:
    """Plan and side view with handles: the beam, the slab that is sharp, the ways, and the subject at the light."""
    svg = Svg(
        2 * WIDTH + _GAP,
        HEIGHT + 28,
        "Beam, camera and ways to scale, from above and from the side.",
    )
    # One scale for both views: lengths are compared across them.
    scale = _px_per_m(asked, answer)
    plan = View(0.0, scale, _middle(0.0, asked, scale, plan=True), from_above)
    side = View(
        WIDTH + _GAP,
        scale,
        _middle(WIDTH + _GAP, asked, scale, plan=False),
        from_the_side,
    )
    # Drawn from the back to the front: what is sharp, what moves, what it crosses.
    for view, name in ((plan, "from above"), (side, "from the side")):
        svg.text("quiet", view.left + 4, 14, name)
        _slab(svg, asked, view)
        _ways(svg, asked, answer, view)
        _beam(svg, asked, answer, view)
    # Handles on the plan alone: the same one in two views would be dragged two ways.
    handles(svg, asked, plan, keys)
    _ruler(svg, scale)
    return Drawing(
        svg, _summary(asked, answer), ("Figure", "Value"), _rows(asked, answer)
    )


def _px_per_m(asked: BeamAsked, answer: BeamAnswered) -> float:
    """So many pixels a metre that both views hold the field, the beam and the way to the place."""
    ends = beam_ends(asked) or ()
    deep = max((2 * abs(float(end.towards)) for end in ends), default=0.0)
    tall = max((2 * abs(float(end.up)) for end in ends), default=0.0)
    if ends:
        wide = max(span_m(asked), *(2 * abs(float(end.across)) for end in ends))
    else:
        wide = span_m(asked)
    # A beam across a hall would shrink the frame to a dot: beyond three fields it is cut off.
    most = 3 * asked.field_width_m
    high = max(
        0.5 * asked.field_width_m,
        asked.field_height_m,
        min(deep, most),
        min(tall, most),
    )
    return min(WIDTH * 0.86 / min(wide, 2 * most), HEIGHT * 0.88 / high)


def _middle(left: float, asked: BeamAsked, scale: float, plan: bool) -> Point:
    """The wanted place stands off the middle by half of what the beam stands upstream."""
    way, half = way_of(asked), asked.upstream_m / 2 * scale
    x, y = (from_above if plan else from_the_side)(way)
    return left + WIDTH / 2 + x * half, 24 + HEIGHT / 2 - y * half


def _slab(svg: Svg, asked: BeamAsked, view: View) -> None:
    """The camera's field, what of it is sharp, and the plane of focus."""
    # Sharp to infinity is drawn to the edge of the view.
    far = min(asked.far_m or math.inf, asked.focus_m + HEIGHT / view.px_per_m)
    near, focus = (
        max(asked.near_m, asked.focus_m - HEIGHT / view.px_per_m),
        asked.focus_m,
    )
    if view.flat is from_above:
        wide = asked.field_width_m
    else:
        wide = asked.field_height_m

    def edge(distance: float, sign: int) -> Point:
        # The field widens with the distance; its stated width is that in the plane of focus.
        half = sign * wide * distance / focus / 2
        towards = focus - distance
        return view.at(
            Axes(half, 0.0, towards)
            if view.flat is from_above
            else Axes(0.0, half, towards)
        )

    area(
        svg,
        "limit-area",
        [edge(near, -1), edge(far, -1), edge(far, 1), edge(near, 1)],
        view,
    )
    reach = HEIGHT / view.px_per_m
    # The field goes on before and behind what is sharp, as thin lines.
    for sign in (-1, 1):
        line_within(
            svg,
            "grid",
            edge(max(focus - reach, 0.01), sign),
            edge(focus + reach, sign),
            view,
        )
    line_within(svg, "limit", edge(focus, -1), edge(focus, 1), view)
    if view.flat is from_above:
        x, y = edge(focus, 1)
        svg.text(
            "limit-text",
            min(x, view.left + WIDTH - 4),
            y - 5,
            f"focus {units.format_length(focus)}",
            "end",
        )
        svg.text(
            "quiet",
            view.middle[0],
            HEIGHT + 20,
            f"camera {units.format_length(focus)} away ↓",
            "middle",
        )
    else:
        svg.text("quiet", view.left + 4, HEIGHT + 20, "← camera")


def _ways(svg: Svg, asked: BeamAsked, answer: BeamAnswered, view: View) -> None:
    """The usual way, where ways spread by one standard deviation, and the subject when the light comes."""
    way = way_of(asked)
    aside, above = sideways(way)
    if view.flat is from_above:
        spread = asked.aside_sd_m
    else:
        spread = asked.above_sd_m
    # Each view shows the spread that lies in its own plane.
    off = scaled(aside if view.flat is from_above else above, spread)
    begin, end = (
        scaled(way, -asked.upstream_m * 1.25 - 0.1 * span_m(asked)),
        scaled(way, 0.45 * span_m(asked)),
    )
    # Where ways spread normally, two thirds of them run within it.
    band = [
        added(begin, off),
        added(end, off),
        added(end, scaled(off, -1)),
        added(begin, scaled(off, -1)),
    ]
    if spread:
        area(svg, "time", [view.at(place) for place in band], view, fill_opacity="0.14")
    # Dashed: the usual way, which no single one follows exactly.
    ends = line_within(svg, "time-line", view.at(begin), view.at(end), view, "6 4")
    if ends and math.dist(*ends) > 12:
        _arrow(svg, *ends)
    if answer.travel_m is None:
        return
    light = scaled(way, answer.travel_m - asked.upstream_m)
    # An ellipse: speeds and jitter spread it along the way, the ways themselves aside.
    along = scaled(way, max(answer.along_sd_m or 0.0, 1e-6))
    around = [
        added(light, added(scaled(along, math.cos(turn)), scaled(off, math.sin(turn))))
        # Two dozen sides look round at this size.
        for turn in np.linspace(0, math.tau, 25)
    ]
    area(svg, "flash", [view.at(place) for place in around], view, fill_opacity="0.35")
    x, y = held(view.at(light), view)
    svg.circle("flash", x, y, 4.0)
    if view.flat is from_above:
        svg.text("flash-text", x, y + 22, "at the light, ± 1 sd", "middle")


def _arrow(svg: Svg, a: Point, b: Point) -> None:
    """A chevron at the end of the way."""
    size = math.dist(a, b)
    ux, uy = (b[0] - a[0]) / size, (b[1] - a[1]) / size
    left = (b[0] - 9 * ux + 5 * uy, b[1] - 9 * uy - 5 * ux)
    right = (b[0] - 9 * ux - 5 * uy, b[1] - 9 * uy + 5 * ux)
    svg.polyline("time-line", [left, b, right])


def _beam(svg: Svg, asked: BeamAsked, answer: BeamAnswered, view: View) -> None:
    """The beam between its ends; one of unknown length fades out dotted."""
    ends = beam_ends(asked)
    if ends is None:
        return
    # A zone is as wide along the way as the sensor is uncertain where it was crossed.
    if asked.zone_m:  # it fires anywhere within
        aside = scaled(way_of(asked), asked.zone_m / 2)
        back = scaled(aside, -1)
        corners = [
            added(end, off)
            for end, off in zip(
                (ends[0], ends[1], ends[1], ends[0]),
                (aside, aside, back, back),
                strict=True,
            )
        ]
        area(
            svg,
            "time",
            [view.at(corner) for corner in corners],
            view,
            fill_opacity="0.18",
        )
    if asked.length_m:
        dashes = None
    else:
        # (dotted: how far it reaches is not known)
        dashes = "2 5"
    drawn = line_within(svg, "beam", view.at(ends[0]), view.at(ends[1]), view, dashes)
    # Emitter and receiver stand at ends that are known.
    for x, y in drawn if drawn and asked.length_m else ():
        svg.rect("time", x - 4, y - 4, 8.0, 8.0)
    if view.flat is from_above and answer.useless_beam_share and drawn:
        x, y = drawn[0]
        words = f"{units.format_percent(answer.useless_beam_share)} of the beam useless"
        svg.text(
            "time-text",
            min(max(x, view.left + 70), view.left + WIDTH - 70),
            max(y - 8, 32),
            words,
            "middle",
        )


def _ruler(svg: Svg, scale: float) -> None:
    """A length to compare with."""
    power = 10.0 ** math.floor(math.log10(120 / scale))
    # The largest round length that takes at most 120 px.
    length = max(step * power for step in (1, 2, 5) if step * power <= 120 / scale)
    left, y = WIDTH + _GAP + 300 - length * scale / 2, HEIGHT + 16
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
    return f"{where}; when the light comes the usual one is {units.format_length(abs(off))} {word} it."


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
    # A second way to the same figure, for whoever checks it by hand.
    if answer.closed_form is not None:
        rows.append(
            ("in frame and focus, closed form", share(answer.closed_form.share))
        )
    return rows
