"""What of a beam's drawing can be dragged: the beam along the way, its ends, and the focus."""

import math
from collections.abc import Mapping

from rapzel.core.motion.trajectory import Axes
from rapzel.core.shared import units
from rapzel.core.tools.beam_asked import BeamAsked, beam_line, way_of
from rapzel.core.trigger.crossing import added, scaled
from rapzel.tools.drawings.beam_view import HEIGHT, WIDTH, View, beam_ends, held, span_m
from rapzel.ui.drawing import Place, Svg, handle, places_between


def handles(svg: Svg, asked: BeamAsked, view: View, keys: Mapping[str, str]) -> None:
    """Where the beam can be dragged along the way, its end along itself, and the focus along the axis."""
    ends, way, line = beam_ends(asked), way_of(asked), beam_line(asked)
    # A beam along the way has no place at which it is crossed, so none to be dragged to.
    if ends is None or line is None:
        return
    show = units.format_length
    # The page of a scene offers the inputs that the scene has, which need not be all.
    if "upstream" in keys:
        most = span_m(asked)
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
        # Beyond three fields the drawing ends.
        most = 3 * asked.field_width_m
        far = view.at(added(middle, scaled(line.along, most / 2)))
        spots = places_between(view.at(middle), far, (0.0, most), show)[1:]
        x, y = held(view.at(ends[1]), view)
        handle(
            svg,
            x,
            y,
            keys["length"],
            _inside(spots, view),
            "Length of the beam: drag its end",
        )
    if "turned" in keys:
        turns = _turns(asked, view)
    else:
        turns = []
    if turns:
        handle(
            svg,
            *held(view.at(ends[0]), view),
            keys["turned"],
            turns,
            "Turn the beam: drag its other end",
        )
    if "focus" in keys:
        here = view.at(Axes(-asked.field_width_m / 2, 0.0, 0.0))
        reach = 0.3 * HEIGHT / view.px_per_m
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


def _inside(
    spots: list[tuple[float, float, str]], view: View
) -> list[tuple[float, float, str]]:
    right = view.left + WIDTH
    kept = [
        spot
        for spot in spots
        if view.left - 1 <= spot[0] <= right + 1 and 0 <= spot[1] <= HEIGHT + 28
    ]
    return kept or spots[:1]
