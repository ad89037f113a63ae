"""The front of a search: ISO across, duration upwards, each point the number of its lights and a way to its set-up."""

from collections.abc import Sequence
from dataclasses import dataclass

from rapzel.core.shared import units
from rapzel.ui.drawing import Drawing, Scale, Svg, log_scale

_WIDTH, _HEIGHT = 560.0, 250.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 70.0, 540.0, 24.0, 206.0
_POINT = 11.0


@dataclass(frozen=True)
class FrontPoint:
    """A set-up of the front and where it opens."""

    iso: float
    lasts_s: float
    lights: int
    says: str
    href: str


def draw_front(points: Sequence[FrontPoint]) -> Drawing:
    """The set-ups that no other beats in ISO, duration and number of lights at once."""
    svg = Svg(_WIDTH, _HEIGHT, "Set-ups that nothing beats in ISO, duration and number of lights.")
    svg.role = "group"  # its points are links, which a picture would hide
    isos, times = [one.iso for one in points], [one.lasts_s for one in points]
    x = log_scale(min(isos) / 1.5, max(isos) * 1.5, _LEFT, _RIGHT)
    y = log_scale(min(times) / 1.5, max(times) * 1.5, _BOTTOM, _TOP)
    _axes(svg, isos, times, x, y)
    for one in points:
        svg.linked("flash", x(one.iso), y(one.lasts_s), _POINT, str(one.lights), one.href, one.says)
    rows: list[tuple[str, ...]] = [
        (f"{one.iso:g}", units.format_time(one.lasts_s), str(one.lights), one.says)
        for one in points
    ]
    return Drawing(svg, _summary(points), ("ISO", "Light lasts", "Lights", "Set-up"), rows)


def _axes(svg: Svg, isos: list[float], times: list[float], x: Scale, y: Scale) -> None:
    svg.line("axis", _LEFT, _BOTTOM, _RIGHT, _BOTTOM)
    svg.line("axis", _LEFT, _TOP, _LEFT, _BOTTOM)
    for iso in _spread(isos, x, 36):
        svg.line("grid", x(iso), _TOP, x(iso), _BOTTOM)
        svg.text("quiet", x(iso), _BOTTOM + 17, f"{iso:g}", "middle")
    svg.text("quiet", _LEFT - 8, _BOTTOM + 17, "ISO", "end")
    for time in _spread(times, y, 16):
        svg.line("grid", _LEFT, y(time), _RIGHT, y(time))
        svg.text("quiet", _LEFT - 8, y(time) + 4, units.format_time(time), "end")
    svg.text("quiet", _LEFT, _TOP - 10, "light lasts", "start")


def _spread(values: list[float], scale: Scale, apart: float) -> list[float]:
    """Those of the values that stand at least so far apart [px]: the ticks."""
    ticks: list[float] = []
    for value in sorted(set(values)):
        if not ticks or abs(scale(value) - scale(ticks[-1])) >= apart:
            ticks.append(value)
    return ticks


def _summary(points: Sequence[FrontPoint]) -> str:
    count = len(points)
    one = count == 1
    return (
        f"{count} set-up{'' if one else 's'} that nothing else beats in ISO, duration and number of lights at once; "
        "the figure is the number of lights."
    )
