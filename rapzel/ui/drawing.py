"""Drawings as SVG: a small builder, scales, and the table that says the same in words.

On a page the classes take their colours from the theme. For a file of its own (export, PDF) the same drawing is
written with literal attributes, because neither a style sheet nor CSS variables reach into it there.
"""

import json
import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from html import escape

from rapzel.core.shared.refusals import cleaned
from rapzel.ui.palette import FILE, looks_in_files

PAPER = looks_in_files()  # what classes look like in files that leave the application
CHARACTER_PX = 6.6  # mean width of a character of the face at 12 px, for placing labels


@dataclass
class Svg:
    """Shapes with a class each; sizes in the units of the view box."""

    width: float
    height: float
    title: str
    role: str = "img"
    # written, ready for markup
    parts: list[tuple[str, str, dict[str, str], str]] = field(default_factory=list)

    def _add(
        self, tag: str, cls: str, attributes: dict[str, object], text: str = ""
    ) -> None:
        plain = {
            name.replace("_", "-"): _written(value)
            for name, value in attributes.items()
            if value is not None
        }
        # Escaped once, here: no drawing has to think of it.
        self.parts.append((tag, cls, plain, escape(text)))

    def line(
        self, cls: str, x1: float, y1: float, x2: float, y2: float, **more: object
    ) -> None:
        self._add("line", cls, {"x1": x1, "y1": y1, "x2": x2, "y2": y2, **more})

    def rect(
        self, cls: str, x: float, y: float, width: float, height: float, **more: object
    ) -> None:
        self._add(
            "rect",
            cls,
            {"x": x, "y": y, "width": max(width, 0), "height": max(height, 0), **more},
        )

    def circle(
        self, cls: str, x: float, y: float, radius: float, **more: object
    ) -> None:
        self._add("circle", cls, {"cx": x, "cy": y, "r": radius, **more})

    def polyline(
        self, cls: str, points: list[tuple[float, float]], **more: object
    ) -> None:
        self._add("polyline", cls, {"points": _points(points), **more})

    def polygon(
        self, cls: str, points: list[tuple[float, float]], **more: object
    ) -> None:
        self._add("polygon", cls, {"points": _points(points), **more})

    def strokes(
        self, cls: str, lines: Iterable[tuple[float, float, float, float]]
    ) -> None:
        """Many lines of one class as one shape, each (x1, y1, x2, y2): marks of a scale."""
        self._add("path", cls, {"d": "".join(_stroke(*line) for line in lines)})

    def hatched(
        self, cls: str, left: float, right: float, top: float, bottom: float
    ) -> None:
        """A bar hatched by slanted strokes as one shape: a pattern's reference would not survive in a file."""
        d, at = "", left
        while at < right:
            end = min(at + 5, right)
            if end < right:
                slant = 3
            else:
                slant = 0
            d += f"{_stroke(at, bottom, at + 3, bottom)}{_stroke(end + slant, top, end, top, 'L')}z"
            at += 9
        self._add("path", cls, {"d": d})

    def text(
        self,
        cls: str,
        x: float,
        y: float,
        text: str,
        anchor: str = "start",
        **more: object,
    ) -> None:
        self._add(
            "text", cls, {"x": x, "y": y, "text-anchor": anchor, **more}, cleaned(text)
        )

    def linked(
        self,
        cls: str,
        x: float,
        y: float,
        radius: float,
        text: str,
        href: str,
        label: str,
    ) -> None:
        """A disc with a short text that leads somewhere; on paper a disc."""
        where = {
            "cx": x,
            "cy": y,
            "r": radius,
            "href": href,
            "aria-label": cleaned(label),
        }
        self._add("a", cls, dict(where), cleaned(text))

    def markup(self, paper: bool = False) -> str:
        """The drawing as SVG: for the page, or with `paper` as a file that stands alone."""
        width, height = _short(self.width), _short(self.height)
        label = f'role="{self.role}" aria-label="{escape(cleaned(self.title))}"'
        head = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}" {label} class="drawing"'
        if paper:
            head += f' width="{width}" height="{height}" font-family="B612, sans-serif" font-size="12"'
        # A file stands alone: it brings its size, its face and its ground along.
        body = "".join(_element(part, paper) for part in self.parts)
        if paper:
            ground = f'<rect width="100%" height="100%" fill="{FILE["ground"]}"/>'
        else:
            ground = ""
        return f"{head}>{ground}{body}</svg>"


def _short(value: float) -> str:
    if isinstance(value, float):
        return f"{value:.2f}".rstrip("0").rstrip(".")
    return str(value)


def _written(value: object) -> str:
    """A value as an attribute has it: figures as they are, texts escaped."""
    if isinstance(value, float | int):
        return _short(value)
    return escape(str(value))


def _points(points: list[tuple[float, float]]) -> str:
    return " ".join([f"{x:.2f},{y:.2f}" for x, y in points])


def _stroke(x1: float, y1: float, x2: float, y2: float, begins: str = "M") -> str:
    """A part of a path from one point to another; `begins` with L, it goes on from what was before."""
    return f"{begins}{x1:.2f} {y1:.2f}L{x2:.2f} {y2:.2f}"


def _element(part: tuple[str, str, dict[str, str], str], paper: bool) -> str:
    tag, cls, attributes, text = part
    if tag == "a":
        return _link(cls, attributes, text, paper)
    if paper:
        # The first class says the look; others are for scripts.
        looks = PAPER.get(cls.split()[0], {})
    else:
        looks = {"class": cls}
    written = "".join(
        [f' {name}="{value}"' for name, value in {**looks, **attributes}.items()]
    )
    if text:
        return f"<{tag}{written}>{text}</{tag}>"
    return f"<{tag}{written}/>"


def _link(cls: str, attributes: dict[str, str], text: str, paper: bool) -> str:
    at = {name: attributes[name] for name in ("cx", "cy", "r")}
    disc = _element(("circle", cls, at, ""), paper)
    middle = {"x": at["cx"], "y": _short(float(at["cy"]) + 4), "text-anchor": "middle"}
    label = _element(("text", "ground", middle, text), paper)
    if paper:
        return disc + label
    where = f'href="{attributes["href"]}" aria-label="{attributes["aria-label"]}"'
    return f"<a {where}>{disc}{label}</a>"


@dataclass(frozen=True)
class Drawing:
    """A drawing with its equivalent in words: a title, one summary sentence, and the same facts as a table."""

    svg: Svg
    summary: str
    headers: tuple[str, ...]
    rows: list[tuple[str, ...]]

    def markup(self) -> str:
        return self.svg.markup()


Scale = Callable[[float], float]


def log_scale(low: float, high: float, left: float, right: float) -> Scale:
    """Maps values between low and high (both above 0) to left … right, clamped."""
    span = math.log10(high / low)

    def at(value: float) -> float:
        # Nothing has no logarithm: it is drawn at the lower end.
        share = math.log10(max(value, low * 1e-9) / low) / span
        return left + min(max(share, 0.0), 1.0) * (right - left)

    return at


def linear_scale(low: float, high: float, left: float, right: float) -> Scale:
    """Maps values between low and high to left … right, not clamped."""
    factor = (right - left) / (high - low)
    return lambda value: left + (value - low) * factor


Place = tuple[float, float, str]  # x, y, and the text that stands for it


def handle(
    svg: Svg, x: float, y: float, key: str, places: Sequence[Place], label: str
) -> None:
    """A handle to drag: it writes to the input called `key` the text of the place that it is dragged to.

    On paper it is a small ring.
    """
    svg.circle(
        "handle",
        x,
        y,
        7.0,
        data_drag=key,
        data_says=label,
        data_places=json.dumps(
            [[round(a, 1), round(b, 1), text] for a, b, text in places]
        ),
    )


def round_values(low: float, high: float, most: int = 160) -> list[float]:
    """Round values between two, ends about included, as many as can be told apart by a hand."""
    if not high > low:
        return [low]
    raw = (high - low) / most
    power = 10.0 ** math.floor(math.log10(raw))
    step = next(each * power for each in (1, 2, 5, 10) if each * power >= raw * 0.999)
    # A hair of grace, so that a round end is not lost to rounding.
    first, last = math.ceil(low / step - 1e-9), math.floor(high / step + 1e-9)
    return [round(place * step, 9) for place in range(first, last + 1)]


def places_between(
    begin: tuple[float, float],
    end: tuple[float, float],
    ends: tuple[float, float],
    text: Callable[[float], str],
) -> list[Place]:
    """Places along a straight line, from the value ends[0] at `begin` to ends[1] at `end`, at round values."""
    low, high = ends
    (x, y), (dx, dy) = begin, (end[0] - begin[0], end[1] - begin[1])
    return [
        (
            x + (value - low) / (high - low) * dx,
            y + (value - low) / (high - low) * dy,
            text(value),
        )
        for value in round_values(low, high)
    ]


def nice_ticks(high: float, about: int = 4) -> list[float]:
    """Round values from 0 to at most `high`, about that many."""
    # The smallest round step with which no more ticks than that fit.
    raw = high / about
    power = 10.0 ** math.floor(math.log10(raw))
    width = next(
        step * power for step in (1, 2, 2.5, 5, 10) if step * power >= raw * 0.999
    )
    return [place * width for place in range(int(high / width + 1e-9) + 1)]


def text_width(text: str) -> float:
    """About how wide a label is [px]."""
    return len(text) * CHARACTER_PX
