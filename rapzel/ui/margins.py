"""A margin as pages show it: figure and unit apart, a bar that stands on the water line or hangs from it."""

from dataclasses import dataclass

from rapzel.core.document.evaluation import Margin
from rapzel.core.shared import units

TITLES = {"freeze": "Freeze", "light": "Light", "ghost": "Ghost", "sync": "Sync", "timing": "Timing", "pace": "Pace"}
_FULL_BAR = {"stops": 3.0, "ms": 3.0, "share": 0.5, "frames/s": 6.0}  # the value that fills a bar
_BAR_PX = 26.0
_LINE_PX = 34.0  # of the strip's water line, as in the styles


@dataclass(frozen=True)
class MarginView:
    """A margin as the strip shows it: figure and unit apart, a bar that stands on the line or hangs from it."""

    margin: Margin

    @property
    def title(self) -> str:
        return TITLES[self.margin.name]

    @property
    def figure(self) -> str:
        value, unit = self.margin.figure, self.margin.figure_unit
        if value is None:
            return "–" if not self.margin.passes else "ok"
        if unit == "share":
            return str(round(value * 100))
        if unit == "frames/s":
            return units.format_number(value, 2)
        return units.format_stops(value)

    @property
    def unit(self) -> str:
        if self.margin.figure is None:
            return ""
        return {"share": "% land"}.get(self.margin.figure_unit, self.margin.figure_unit)

    @property
    def bar_px(self) -> float:
        """Height of the bar: at least 2, so that zero is seen."""
        value = self.margin.value
        if value is None:
            return 0.0
        return max(min(abs(value) / _FULL_BAR[self.margin.unit], 1.0) * _BAR_PX, 2.0)

    @property
    def bar_y(self) -> float:
        """Top of the bar about the water line: above it when the margin passes, below when it does not."""
        return _LINE_PX - self.bar_px if self.margin.passes else _LINE_PX

    @property
    def verdict(self) -> str:
        return "works" if self.margin.passes else "does not work"
