"""The front of a search: ISO across, duration upwards, each point the number of its lights and a way to its set-up."""

from collections.abc import Sequence
from dataclasses import dataclass

from rapzel.core.shared import units
from rapzel.ui.drawing import Drawing, Scale, Svg
from rapzel.ui.plot import Box, Plot

_WIDTH, _HEIGHT = 560.0, 250.0
_LEFT, _RIGHT, _TOP, _BOTTOM = 70.0, 540.0, 24.0, 206.0
_BOX = Box(_LEFT, _RIGHT, _TOP, _BOTTOM)
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
    svg = Svg(
        _WIDTH,
        _HEIGHT,
        "Set-ups that nothing beats in ISO, duration and number of lights.",
    )
    svg.role = "group"  # its points are links, which a picture would hide
    isos, times = [one.iso for one in points], [one.lasts_s for one in points]
    x = _BOX.log_x(min(isos) / 1.5, max(isos) * 1.5)
    y = _BOX.log_y(min(times) / 1.5, max(times) * 1.5)
    _axes(Plot(svg, _BOX, x, y), isos, times)
    for one in points:
        svg.linked(
            "flash",
            x(one.iso),
            y(one.lasts_s),
            _POINT,
            str(one.lights),
            one.href,
            one.says,
        )
    rows: list[tuple[str, ...]] = [
        (f"{one.iso:g}", units.format_time(one.lasts_s), str(one.lights), one.says)
        for one in points
    ]
    return Drawing(
        svg, _summary(points), ("ISO", "Light lasts", "Lights", "Set-up"), rows
    )


def _axes(plot: Plot, isos: list[float], times: list[float]) -> None:
    plot.lower_edge()
    plot.left_edge()
    plot.columns(_spread(isos, plot.x, 36), lambda iso: f"{iso:g}", below=17)
    plot.svg.text("quiet", _LEFT - 8, _BOTTOM + 17, "ISO", "end")
    plot.levels(_spread(times, plot.y, 16), units.format_time)
    plot.svg.text("quiet", _LEFT, _TOP - 10, "light lasts", "start")


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
