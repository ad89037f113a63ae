"""The dark window: the day's light from noon to noon, and when in it the look holds."""

import math

from rapzel.core.light.sky import SKIES, TWILIGHTS
from rapzel.core.physics import Physics
from rapzel.core.shared import units
from rapzel.core.verdict.dusk import Dusk, Window, dusk_of
from rapzel.ui.drawing import Drawing, Scale, Svg
from rapzel.ui.plot import Box, Plot

_LEFT, _RIGHT, _TOP, _BOTTOM = 44.0, 420.0, 30.0, 250.0
# From a night without a moon to sun on snow [EV].
_LOWEST, _HIGHEST = -12.0, 16.0
_BOX = Box(_LEFT, _RIGHT, _TOP, _BOTTOM)
_UNKNOWN = (
    "Say place, date and sky in Room, and the hours in which the look holds stand here."
)


def draw_dusk(physics: Physics) -> Drawing:
    """Light of the sky over the hours with its doubt, twilights, and the windows in which the look holds."""
    dusk = dusk_of(physics.scene)
    svg = Svg(430, 312, "Light of the sky over the day, and when the look holds.")
    if dusk is None:
        svg.text("quiet", 215, 150, "no place and date yet", "middle")
        return Drawing(svg, _UNKNOWN, ("From", "To", "Look"), [])
    # From noon to noon, so that the night is whole in the middle.
    hours = [one.hour for one in dusk.instants]
    x, y = _BOX.linear_x(hours[0], hours[-1]), _BOX.linear_y(_LOWEST, _HIGHEST)
    _windows(svg, dusk, x)
    _limits(svg, dusk, y)
    _curve(svg, dusk, x, y)
    _axes(Plot(svg, _BOX, x, y), dusk)
    return Drawing(svg, _summary(dusk), ("From", "To", "Look"), _rows(dusk))


def _within(ev100: float) -> float:
    return min(max(ev100, _LOWEST), _HIGHEST)


def _windows(svg: Svg, dusk: Dusk, x: Scale) -> None:
    for window in dusk.windows:
        if window.sure:
            cls = "limit-area"
        else:
            cls = "flash-area"
        svg.rect(
            cls,
            x(window.begin_h),
            _TOP,
            x(window.end_h) - x(window.begin_h),
            _BOTTOM - _TOP,
        )


def _limits(svg: Svg, dusk: Dusk, y: Scale) -> None:
    """The rooms between which the look holds."""
    for edges in dusk.holding:
        for ev100 in edges:
            # A look without a lower end, as of a black room, has one line alone.
            if math.isfinite(ev100) and _LOWEST < ev100 < _HIGHEST:
                svg.line("limit", _LEFT, y(ev100), _RIGHT, y(ev100))
                svg.text("limit-text", _RIGHT, y(ev100) - 5, f"EV {ev100:.1f}", "end")


def _curve(svg: Svg, dusk: Dusk, x: Scale, y: Scale) -> None:
    usual = [(x(one.hour), y(_within(one.ev100))) for one in dusk.instants]
    upper = [(x(one.hour), y(_within(one.high))) for one in dusk.instants]
    # Back along the lower edge: one shape between the two ends of the doubt.
    lower = [(x(one.hour), y(_within(one.low))) for one in reversed(dusk.instants)]
    svg.polygon("room", [*upper, *lower])
    svg.polyline("room-line", usual)
    if dusk.at.hour >= dusk.instants[0].hour:
        here = dusk.at.hour
    else:
        # After midnight belongs to the right half of the axis.
        here = dusk.at.hour + 24
    svg.line("time-line", x(here), _TOP, x(here), _BOTTOM)
    svg.text("time-text", x(here), _TOP - 6, "the scene", "middle")


def _axes(plot: Plot, dusk: Dusk) -> None:
    plot.lower_edge()
    for hour in range(
        math.ceil(dusk.instants[0].hour / 4) * 4, int(dusk.instants[-1].hour) + 1, 4
    ):
        plot.mark_below(hour, units.format_clock(hour), below=17)
    for ev100 in range(-12, 17, 4):
        plot.level_name(ev100, f"{ev100:d}".replace("-", "−"))
    plot.svg.text("quiet", _LEFT - 8, _TOP - 16, "EV", "end")
    for at, name in _twilights(dusk):
        plot.column(at, name, below=34)


def _twilights(dusk: Dusk) -> list[tuple[float, str]]:
    """When the sun sets and civil dusk ends, and the same in the morning."""
    found = []
    for height, name in TWILIGHTS[:2]:
        for before, after in zip(dusk.instants, dusk.instants[1:], strict=False):
            down = before.elevation_deg >= height > after.elevation_deg
            up = before.elevation_deg < height <= after.elevation_deg
            if down or up:
                words = {"sunset": ("sunset", "sunrise")}.get(name, ("", ""))
                found.append((after.hour, words[0] if down else words[1]))
    return found


def _says(window: Window) -> str:
    if window.sure:
        how = "the look holds"
    else:
        how = "perhaps"
    return f"{units.format_clock(window.begin_h)} to {units.format_clock(window.end_h)} {how}"


def _summary(dusk: Dusk) -> str:
    sky = SKIES[dusk.at.state].title
    if not dusk.windows:
        return f"{dusk.at.date}, {sky}: at no hour does the look hold as it is set."
    return f"{dusk.at.date}, {sky}: {'; '.join(_says(one) for one in dusk.windows)}. Lamps are not counted."


def _rows(dusk: Dusk) -> list[tuple[str, ...]]:
    return [
        (
            units.format_clock(one.begin_h),
            units.format_clock(one.end_h),
            "holds" if one.sure else "perhaps",
        )
        for one in dusk.windows
    ]
