"""The plot layer on the SVG builder: a box with two scales, and the axes that drawings share.

A drawing says what its ticks are and how they are written; where lines and names stand is said here.
"""

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

from rapzel.core.shared import units
from rapzel.ui.drawing import Scale, Svg, linear_scale, log_scale

Names = Callable[[float], str]
SHARES = (0.0, 0.25, 0.5, 0.75, 1.0)
_BELOW = 18.0  # from the box's lower edge to the base line of names below it
_ABOVE = 6.0  # from the box's upper edge to the base line of names above it
_BASE = 4.0  # from a line to the base line of its name beside it


@dataclass(frozen=True, slots=True)
class Box:
    """Where curves are drawn, in units of the drawing; y grows downwards."""

    left: float
    right: float
    top: float
    bottom: float

    def linear_x(self, low: float, high: float) -> Scale:
        """Values from the left edge to the right one."""
        return linear_scale(low, high, self.left, self.right)

    def linear_y(self, low: float, high: float) -> Scale:
        """Values from the lower edge up to the upper one."""
        return linear_scale(low, high, self.bottom, self.top)

    def downwards(self, low: float, high: float) -> Scale:
        """Values from the upper edge down to the lower one, as time runs beside things that fall."""
        return linear_scale(low, high, self.top, self.bottom)

    def log_x(self, low: float, high: float) -> Scale:
        """Ratios from the left edge to the right one; values above 0."""
        return log_scale(low, high, self.left, self.right)

    def log_y(self, low: float, high: float) -> Scale:
        """Ratios from the lower edge up to the upper one; values above 0."""
        return log_scale(low, high, self.bottom, self.top)


@dataclass(frozen=True, slots=True)
class Plot:
    """A drawing with a box and its scales; `gap` is between the box and the names at its left."""

    svg: Svg
    box: Box
    x: Scale
    y: Scale
    gap: float = 8.0

    def level(self, value: float, name: str, cls: str = "grid") -> None:
        """A line across at a value, named at the left."""
        self.across(value, cls)
        self.level_name(value, name)

    def level_name(self, value: float, name: str) -> None:
        """The name of a value at the left, without a line."""
        self.svg.text(
            "quiet", self.box.left - self.gap, self.y(value) + _BASE, name, "end"
        )

    def levels(self, values: Iterable[float], named: Names) -> None:
        """A line across at each value."""
        for value in values:
            self.level(value, named(value))

    def column(self, value: float, name: str, below: float = _BELOW) -> None:
        """A line upwards at a value, named below."""
        self.upwards(value, "grid")
        self.column_name(value, name, below)

    def column_name(self, value: float, name: str, below: float = _BELOW) -> None:
        """The name of a value below, without a line."""
        self.svg.text("quiet", self.x(value), self.box.bottom + below, name, "middle")

    def column_above(self, value: float, name: str, anchor: str = "middle") -> None:
        """A line upwards at a value, named above: where lanes follow below, as on the way from event to light."""
        self.upwards(value, "grid")
        self.name_above(value, name, anchor)

    def name_above(self, value: float, name: str, anchor: str = "middle") -> None:
        """The name of a value above, without a line."""
        self.svg.text("quiet", self.x(value), self.box.top - _ABOVE, name, anchor)

    def columns(
        self, values: Iterable[float], named: Names, below: float = _BELOW
    ) -> None:
        """A line upwards at each value."""
        for value in values:
            self.column(value, named(value), below)

    def column_names(
        self, values: Iterable[float], named: Names, below: float = _BELOW
    ) -> None:
        """The name of each value below, without lines."""
        for value in values:
            self.column_name(value, named(value), below)

    def mark_below(self, value: float, name: str, below: float) -> None:
        """A short stroke under the lower edge at a value, named below it."""
        self.svg.line(
            "axis",
            self.x(value),
            self.box.bottom,
            self.x(value),
            self.box.bottom + _BASE,
        )
        self.column_name(value, name, below)

    def corner_names(self, across: str, upwards: str) -> None:
        """What the two axes are: one word under the lower edge's middle, one beside the upper end of the left edge."""
        middle = (self.box.left + self.box.right) / 2
        self.svg.text("quiet", middle, self.box.bottom + 34, across, "middle")
        self.svg.text(
            "quiet", self.box.left - self.gap, self.box.top + _BASE, upwards, "end"
        )

    def lower_edge(self) -> None:
        """The lower edge of the box as a line."""
        self.svg.line(
            "axis", self.box.left, self.box.bottom, self.box.right, self.box.bottom
        )

    def left_edge(self) -> None:
        """The left edge of the box as a line."""
        self.svg.line(
            "axis", self.box.left, self.box.top, self.box.left, self.box.bottom
        )

    def across(self, value: float, cls: str) -> None:
        """A line across at a value, without a name."""
        self.svg.line(cls, self.box.left, self.y(value), self.box.right, self.y(value))

    def upwards(
        self, value: float, cls: str, over: float = 0.0, under: float = 0.0
    ) -> None:
        """A line upwards at a value, without a name; so far over and under the box."""
        top, bottom = self.box.top - over, self.box.bottom + under
        self.svg.line(cls, self.x(value), top, self.x(value), bottom)


def anchor_within(at: float, left: float, right: float) -> str:
    """How a word at a place is anchored: about its middle between two places, else away from the edge it is near."""
    if at <= left:
        return "start"
    if at < right:
        return "middle"
    return "end"


def length_bar(
    svg: Svg, left: float, y: float, px_per_m: float, length_m: float
) -> None:
    """A bar of a known length [m], for drawings to scale."""
    svg.line("bracket", left, y, left + length_m * px_per_m, y)


def or_zero(named: Names) -> Names:
    """The same names, and `0` for nothing."""

    def name(value: float) -> str:
        return named(value) if value else "0"

    return name


def decades(low: float, high: float) -> Iterator[float]:
    """The powers of ten between two of them, both ends included."""
    decade = low
    while decade <= high * 1.01:
        yield decade
        decade *= 10


def whole_stops_down(lowest: float) -> Iterator[int]:
    """0, −1, −2 … down to the lowest power [share of full], as stops."""
    for stop in range(math.floor(-math.log2(lowest) + 1e-6) + 1):
        yield -stop


def power_of_stops(stops: float) -> str:
    """−3 -> '1/8'."""
    return units.format_power(2.0**stops)


def guide_number_of_stops(stops: float) -> str:
    """Twice as many stops are a guide number twice as large: 10 -> 'GN 32'."""
    return f"GN {units.format_number(2 ** (stops / 2), 2)}"
