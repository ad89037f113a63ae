"""A margin as pages show it: figure and unit apart, a bar on the water line, its doubt as a whisker."""

from dataclasses import dataclass

from rapzel.core.document.evaluation import Margin
from rapzel.core.shared import units
from rapzel.core.verdict.margins import MARGINS
from rapzel.ui.words import Word, word_of_margin

# the value that fills a bar
_FULL_BAR = {
    "stops": 3.0,
    "ms": 3.0,
    "share": 0.5,
    "frames/s": 6.0,
    "frames": 20.0,
    "px": 3.0,
}
_BAR_PX = 26.0
_LINE_PX = 34.0  # of the strip's water line, as in the styles
_VERDICTS = {
    "passes": "works",
    "fails": "does not work",
    "unsure": "not sure",
    "unknown": "not known",
}
_UNKNOWN = '<rect class="dotted" x="0.75" y="21" width="24.5" height="13"/>'


def _box(cls: str, x: float, top: float, height: float, width: float) -> str:
    return f'<rect class="{cls}" x="{x:g}" y="{top:.2f}" width="{width:g}" height="{height:.2f}"/>'


@dataclass(frozen=True)
class MarginView:
    """A margin as the strip shows it. Where it is two-sided its line runs through the band that holds."""

    margin: Margin

    @property
    def title(self) -> str:
        return MARGINS[self.margin.name].title

    @property
    def word(self) -> Word | None:
        """What explains the tile."""
        return word_of_margin(self.margin.name)

    @property
    def state(self) -> str:
        return self.margin.state

    @property
    def figure(self) -> str:
        # The figure that people speak of; the bar's value is what is judged.
        value, unit = self.margin.figure, self.margin.figure_unit
        if self.margin.state == "unknown":
            return "?"
        if value is None:
            return "–"
        if unit in ("share", "framed"):
            return str(round(value * 100))
        if unit in ("frames/s", "px"):
            return units.format_number(value, 2)
        return units.format_stops(value)

    @property
    def unit(self) -> str:
        if self.margin.state == "unknown":
            return "not known"
        if self.margin.figure is None:
            return ""
        unit = self.margin.figure_unit
        return {"share": "% land", "framed": "% in frame"}.get(unit, unit)

    @property
    def two_sided(self) -> bool:
        return self.margin.two_sided

    def _px(self, value: float) -> float:
        """A value in pixels above the line, within what a bar can show."""
        # Beyond a full bar more is no better: it is clipped, and the figure tells the rest.
        full = _FULL_BAR[self.margin.unit]
        return max(min(value / full, 1.0), -1.0) * _BAR_PX

    @property
    def _value(self) -> float:
        return self.margin.value or 0.0

    @property
    def bar_px(self) -> float:
        """Height of the bar: at least 2, so that zero is seen; none where nothing is known."""
        if self.margin.value is None:
            return 0.0
        return max(abs(self._px(self._value)), 2.0)

    @property
    def bar_y(self) -> float:
        """Top of the bar about the water line: above it for a positive value, below for a negative one."""
        if self._value >= 0:
            return _LINE_PX - self.bar_px
        return _LINE_PX

    @property
    def sure_px(self) -> float:
        """What of the bar is left at the pessimistic end: the rest fades out."""
        return max(self.bar_px - abs(self._px(self.margin.doubt or 0.0)), 0.0)

    @property
    def sure_y(self) -> float:
        if self._value >= 0:
            return _LINE_PX - self.sure_px
        return _LINE_PX

    @property
    def whisker(self) -> tuple[float, float] | None:
        """Top and bottom of what the value may be; None where there is no doubt or nothing is known."""
        if self.margin.value is None or not self.margin.doubt:
            return None
        top, bottom = (
            self._px(self._value + self.margin.doubt),
            self._px(self._value - self.margin.doubt),
        )
        return _LINE_PX - top, _LINE_PX - bottom

    @property
    def bars(self) -> list[tuple[str, float, float]]:
        """What is drawn as (class, top, height): a bar that stands, hangs, or fades over what is in doubt."""
        whole = (self.bar_y, self.bar_px)
        if self.margin.state == "unsure":
            # Solid is only what is left at the pessimistic end.
            return [("fades", *whole), ("stands", self.sure_y, self.sure_px)]
        return [("hangs" if self.margin.state == "fails" else "stands", *whole)]

    @property
    def bands(self) -> list[tuple[float, float]]:
        """Top and height of the band in which a two-sided figure is right; none for the others."""
        if not self.two_sided:
            return []
        # Right is a band about the line, not a side of it.
        half = self._px(self.margin.within or 0.0)
        return [(_LINE_PX - half, 2 * half)]

    @property
    def drawn(self) -> str:
        """The bar on its water line, as SVG of numbers and fixed words."""
        if self.state == "unknown":
            inner = _UNKNOWN
        else:
            inner = self._shapes()
        return f'<svg class="bar" viewBox="0 0 26 60" aria-hidden="true">{inner}</svg>'

    def _shapes(self) -> str:
        written = [
            _box("band", 0.0, top, height, _BAR_PX) for top, height in self.bands
        ]
        written += [
            _box(cls, 0.75, top, height, 24.5) for cls, top, height in self.bars
        ]
        if self.whisker is not None:
            top, bottom = self.whisker
            caps = f"M13 {top:.2f}V{bottom:.2f}M9 {top:.2f}h8M9 {bottom:.2f}h8"
            written.append(f'<path class="whisker" d="{caps}"/>')
        return "".join(written)

    @property
    def verdict(self) -> str:
        if self.margin.leans:
            return "probably does not work"
        return _VERDICTS[self.margin.state]
