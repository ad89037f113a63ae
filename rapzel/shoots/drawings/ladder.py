"""The light ladder: from full power at 1 m down to the margin left at the subject, in stops."""

import math

from rapzel.core.light import amount
from rapzel.core.light.amount import Rung
from rapzel.core.physics import Physics
from rapzel.core.shared import units
from rapzel.ui.drawing import Drawing, Svg, linear_scale

_LEFT, _RIGHT, _TOP, _LANE = 146.0, 366.0, 30.0, 28.0


def rungs_of(physics: Physics) -> list[Rung]:
    """The main light's ladder, the other lights on top, ending at the scene's flash offset."""
    if not physics.on_part:
        return []
    main = max(physics.on_part, key=lambda lit: lit.n_squared)
    taken = -(main.shutter_loss_stops + physics.shutter.best_row_loss_stops)
    rungs = amount.ladder(main.light, physics.scene, taken)
    others = math.log2(physics.n_squared / main.n_squared)
    if others > 1e-9:
        rungs.append(Rung("Other lights", f"{len(physics.on_part) - 1} more", others, rungs[-1].total_stops + others))
    return rungs


def draw_ladder(physics: Physics) -> Drawing:
    """The ladder view with its table; the last rung is the light margin of the flash."""
    rungs = rungs_of(physics)
    svg = Svg(430, _TOP + _LANE * max(len(rungs) + 1, 6) + 20, "Light ladder, in stops.")
    if not rungs:
        svg.text("quiet", 215, 100, "No flash reaches the subject", "middle")
        return Drawing(svg, "No flash reaches the subject.", ("Rung",), [])
    totals = [0.0, *(rung.total_stops for rung in rungs)]
    x = linear_scale(min(totals) - 0.5, max(totals) + 0.5, _LEFT, _RIGHT)
    bottom = _TOP + _LANE * (len(rungs) + 1)
    svg.line("limit", x(0), _TOP - 14, x(0), bottom)
    svg.text("limit-text", x(0), _TOP - 18, "correct exposure", "middle")
    y = _TOP
    before = 0.0
    for rung in rungs:
        low, high = sorted((x(before), x(rung.total_stops)))
        svg.text("text", _LEFT - 10, y + 12, rung.name, "end")
        svg.rect("flash" if rung.stops >= 0 else "flash-area", low, y, max(high - low, 1.5), 15)
        svg.line("flash-range", x(rung.total_stops), y, x(rung.total_stops), y + _LANE)
        svg.text("quiet", _RIGHT + 58, y + 12, units.format_stops(rung.stops), "end")
        before = rung.total_stops
        y += _LANE
    final = rungs[-1].total_stops
    low, high = sorted((x(0), x(final)))
    svg.text("text", _LEFT - 10, y + 12, "Margin", "end", font_weight="700")
    svg.rect("flash" if final >= 0 else "refused", low, y, max(high - low, 2), 15)
    svg.text("text" if final >= 0 else "refused-text", _RIGHT + 58, y + 12, units.format_stops(final), "end")
    rows: list[tuple[str, ...]] = [
        (rung.name, rung.detail, units.format_stops(rung.stops), units.format_stops(rung.total_stops)) for rung in rungs
    ]
    summary = f"The flash ends {units.format_stops(final)} stops from correct exposure."
    return Drawing(svg, summary, ("Rung", "Detail", "Stops", "Running total"), rows)
