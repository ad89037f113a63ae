"""A pen for drawn subjects. What reaches far beyond the view is clipped to it first, so that a subject a thousand times
larger than the frame costs no more than one that fits."""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt
from PIL import Image, ImageDraw, ImageFont

Picture = npt.NDArray[np.float32]
Point = tuple[float, float]
Box = tuple[float, float, float, float]  # left, top, right, bottom

_FINER = 2  # shapes are drawn this much larger and averaged down, for clean edges
# views beyond the view up to which a shape is drawn whole, as the imaging library does it best
_NEAR = 3


@dataclass(frozen=True, slots=True)
class View:
    """What part of the subject's plane is drawn: pixels per metre, size in pixels, and the centre [m, y up]."""

    px_per_m: float
    width: int
    height: int
    centre_x_m: float = 0.0
    centre_y_m: float = 0.0


@dataclass(frozen=True)
class Layer:
    """Reflectance times coverage, and coverage [0 … 1], each height × width; `speed` as a share of the motion's."""

    lit: Picture
    cover: Picture
    speed: float


def clipped_polygon(points: list[Point], box: Box) -> list[Point]:
    """The part of a polygon within a box, by cutting it at one side after the other (Sutherland and Hodgman, 1974)."""
    left, top, right, bottom = box
    for axis, bound, sign in (
        (0, left, 1),
        (0, right, -1),
        (1, top, 1),
        (1, bottom, -1),
    ):
        kept: list[Point] = []
        for place, point in enumerate(points):
            before = points[place - 1]
            inside, was_inside = (
                sign * (each[axis] - bound) >= 0 for each in (point, before)
            )
            # The edge crosses the side of the box: its crossing becomes a corner.
            if inside != was_inside:
                part = (bound - before[axis]) / (point[axis] - before[axis])
                kept.append(
                    (
                        before[0] + part * (point[0] - before[0]),
                        before[1] + part * (point[1] - before[1]),
                    )
                )
            if inside:
                kept.append(point)
        points = kept
        if not points:
            break
    return points


class Pen:
    """Draws in the subject's own units (its height is 1, its middle 0, y up) onto a reflectance and a coverage."""

    def __init__(self, view: View, size_m: float) -> None:
        self._width, self._height = view.width * _FINER, view.height * _FINER
        shape = (self._width, self._height)
        self._scale = view.px_per_m * size_m * _FINER
        self._x = shape[0] / 2 - view.centre_x_m * view.px_per_m * _FINER
        self._y = shape[1] / 2 + view.centre_y_m * view.px_per_m * _FINER
        self._light, self._cover = Image.new("L", shape, 0), Image.new("L", shape, 0)
        self._draws = (ImageDraw.Draw(self._light), ImageDraw.Draw(self._cover))

    def _at(self, point: Point) -> Point:
        return self._x + point[0] * self._scale, self._y - point[1] * self._scale

    def _tones(self, reflectance: float) -> tuple[int, int]:
        return round(255 * reflectance), 255

    def _misses(self, box: Box) -> bool:
        # A pixel of grace, as edges are softened over one.
        return (
            box[2] < -1
            or box[3] < -1
            or box[0] > self._width + 1
            or box[1] > self._height + 1
        )

    def _reaches_far(self, box: Box) -> bool:
        wide, tall = _NEAR * self._width, _NEAR * self._height
        return (
            box[0] < -wide
            or box[1] < -tall
            or box[2] > self._width + wide
            or box[3] > self._height + tall
        )

    def _fill(self, mask: npt.NDArray[np.bool_], reflectance: float) -> None:
        # Light and coverage take the same shape, so that neither shows beyond the other.
        stencil = Image.fromarray(mask)
        for image, tone in zip(
            (self._light, self._cover), self._tones(reflectance), strict=True
        ):
            image.paste(tone, (0, 0), stencil)

    def polygon(self, points: list[Point], reflectance: float) -> None:
        self._polygon_px([self._at(point) for point in points], reflectance)

    def _polygon_px(self, points: list[Point], reflectance: float) -> None:
        # A little outside of the view, so that its own edges are not drawn as edges of the shape.
        shown = clipped_polygon(points, (-9, -9, self._width + 9, self._height + 9))
        if len(shown) < 3:
            return
        for draw, tone in zip(self._draws, self._tones(reflectance), strict=True):
            draw.polygon(shown, fill=tone)

    def _ellipse(self, centre: Point, rx: float, ry: float) -> npt.NDArray[np.bool_]:
        """Where the view lies within an ellipse, whatever its size."""
        across = ((np.arange(self._width) + 0.5 - centre[0]) / rx) ** 2
        down = ((np.arange(self._height) + 0.5 - centre[1]) / ry) ** 2
        inside: npt.NDArray[np.bool_] = across[None, :] + down[:, None] <= 1
        return inside

    def disc(
        self, centre: Point, radius: float, reflectance: float, flatten: float = 1.0
    ) -> None:
        x, y = self._at(centre)
        rx, ry = radius * self._scale, radius * flatten * self._scale
        box = (x - rx, y - ry, x + rx, y + ry)
        if self._misses(box):
            return
        if self._reaches_far(box):
            self._fill(self._ellipse((x, y), rx, ry), reflectance)
            return
        for draw, tone in zip(self._draws, self._tones(reflectance), strict=True):
            draw.ellipse(box, fill=tone)

    def ring(
        self,
        centre: Point,
        radius: float,
        width: float,
        reflectance: float,
        flatten: float = 1.0,
    ) -> None:
        x, y = self._at(centre)
        rx, ry = radius * self._scale, radius * self._scale * flatten
        thick = max(1, round(width * self._scale))
        box = (x - rx, y - ry, x + rx, y + ry)
        if self._misses(box):
            return
        if self._reaches_far(box):
            hole = self._ellipse((x, y), max(rx - thick, 0.5), max(ry - thick, 0.5))
            self._fill(self._ellipse((x, y), rx, ry) & ~hole, reflectance)
            return
        for draw, tone in zip(self._draws, self._tones(reflectance), strict=True):
            draw.ellipse(box, outline=tone, width=thick)

    def line(self, points: list[Point], width: float, reflectance: float) -> None:
        """A limb or a strand: round joints, at least a pixel wide."""
        thick = max(1, round(width * self._scale))
        path = [self._at(point) for point in points]
        box = (
            min(x for x, _ in path) - thick,
            min(y for _, y in path) - thick,
            max(x for x, _ in path) + thick,
            max(y for _, y in path) + thick,
        )
        if self._misses(box):
            return
        if self._reaches_far(box):
            self._far_line(path, thick, reflectance)
            joints = points
        else:
            for draw, tone in zip(self._draws, self._tones(reflectance), strict=True):
                draw.line(path, fill=tone, width=thick, joint="curve")
            joints = [points[0], points[-1]]
        for point in joints:
            self.disc(point, width / 2, reflectance)

    def _far_line(self, path: list[Point], thick: float, reflectance: float) -> None:
        """Each stretch as the rectangle that it is; the discs at the joints round them off."""
        for (x0, y0), (x1, y1) in pairwise(path):
            length = float(np.hypot(x1 - x0, y1 - y0))
            if length == 0:
                continue
            dx, dy = (y1 - y0) / length * thick / 2, -(x1 - x0) / length * thick / 2
            corners = [
                (x0 + dx, y0 + dy),
                (x1 + dx, y1 + dy),
                (x1 - dx, y1 - dy),
                (x0 - dx, y0 - dy),
            ]
            self._polygon_px(corners, reflectance)

    def letters(
        self, text: str, centre: Point, height: float, reflectance: float
    ) -> None:
        size = height * self._scale
        x, y = self._at(centre)
        reach = size * len(text)
        if not 4 <= size <= 2000 or self._misses(
            (x - reach, y - size, x + reach, y + size)
        ):
            return  # too small to read, larger than any picture, or elsewhere
        font = ImageFont.load_default(size)
        for draw, tone in zip(self._draws, self._tones(reflectance), strict=True):
            draw.text((x, y), text, fill=tone, font=font, anchor="mm")

    def layer(self, speed: float) -> Layer:
        def shrunk(image: Image.Image) -> Picture:
            grid = np.asarray(image, dtype=np.float32) / 255
            height, width = grid.shape
            return np.asarray(
                grid.reshape(height // _FINER, _FINER, width // _FINER, _FINER).mean(
                    axis=(1, 3)
                )
            )

        return Layer(shrunk(self._light), shrunk(self._cover), speed)


NewPen = Callable[[], Pen]  # a subject takes one for each of its layers
