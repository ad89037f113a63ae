"""One's own cut-out as the subject of the rehearsal: a grey picture with transparency, of which a part moves.

The picture travels inside the scene document, so that a scene stays whole wherever it goes. Its tones are taken as
reflectances. A part that turns about a pivot is cut into rings, each as fast as it is far out.
"""

import base64
import binascii
import io
import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import numpy.typing as npt
from PIL import Image

from rapzel.core.document.scene import CutOut
from rapzel.core.rehearsal.pen import Layer, Picture, Point, View
from rapzel.core.shared.errors import CoreError

HIGHEST_PX = 960  # of a stored cut-out
_MOST_BYTES = 100_000  # of its file
_MOST_PIXELS = 40_000_000  # of a picture that is brought
_QUALITIES = (88, 80, 70, 60)
_PAPER = 0.9  # reflectance of its white (memory)
_RINGS = 5
_OVERLAP = (
    0.012  # of the height, that a slower part reaches under a faster one, so that no seam opens
)
_OPAQUE = 128
Tones = npt.NDArray[np.float32]
Mask = npt.NDArray[np.bool_]


class CutOutError(CoreError):
    """A picture that cannot be a cut-out; str() says why and what would do."""


@dataclass(frozen=True)
class Packed:
    """A picture as the document keeps it, and which part of the one that was brought it is: shares of its sides."""

    picture: str
    box: tuple[float, float, float, float]

    def inside(self, x: float, y: float) -> tuple[float, float]:
        """A place in the brought picture as a place in the kept one [shares, 0 … 1]."""
        left, top, right, bottom = self.box
        across, down = (x - left) / (right - left), (y - top) / (bottom - top)
        return min(max(across, 0.0), 1.0), min(max(down, 0.0), 1.0)


def packed(file: bytes) -> Packed:
    """A PNG with transparency, trimmed to what is left of it, grey, no side above `HIGHEST_PX`, as a data address.

    Raises CutOutError for anything else, for one without transparency, and for one in which nothing is left.
    """
    picture = _opened(file, ("PNG",))
    whole = picture.convert("RGBA")
    if int(np.asarray(whole.getchannel("A")).min()) >= _OPAQUE:
        raise CutOutError(
            "This picture has no transparency. Cut the subject out first, so that what surrounds it is transparent."
        )
    box = whole.getchannel("A").point(lambda alpha: 255 * (alpha >= _OPAQUE)).getbbox()
    if box is None:
        raise CutOutError("Everything in this picture is transparent: nothing is left to draw.")
    cut = whole.crop(box)
    if max(cut.size) > HIGHEST_PX:
        scale = HIGHEST_PX / max(cut.size)
        size = tuple(max(round(side * scale), 1) for side in cut.size)
        cut = cut.resize((size[0], size[1]), Image.Resampling.LANCZOS)
    text = base64.b64encode(_small_enough(cut.convert("LA"))).decode()
    left, top, right, bottom = box
    wide, high = whole.size
    shares = (left / wide, top / high, right / wide, bottom / high)
    return Packed(f"data:image/webp;base64,{text}", shares)


def _small_enough(picture: Image.Image) -> bytes:
    while True:
        for quality in _QUALITIES:
            out = io.BytesIO()
            picture.convert("RGBA").save(out, "WEBP", quality=quality, method=4)
            if out.tell() <= _MOST_BYTES:
                return out.getvalue()
        picture = picture.resize((picture.width * 3 // 4, picture.height * 3 // 4))


def _opened(file: bytes, formats: tuple[str, ...]) -> Image.Image:
    try:
        with Image.open(io.BytesIO(file), formats=formats) as checked:
            checked.verify()  # to the end: loading alone may take a file that breaks off, as other packages set it
        with Image.open(io.BytesIO(file), formats=formats) as opened:
            if opened.width * opened.height > _MOST_PIXELS:
                raise CutOutError(
                    f"This picture has {opened.width} × {opened.height} pixels; up to 40 million are taken."
                )
            opened.load()
            return opened.copy()
    except CutOutError:
        raise
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise CutOutError("This is not a PNG picture that can be read.") from None


@lru_cache(maxsize=2)  # 7 MB each
def tones_of(picture: str) -> tuple[Tones, Tones]:
    """(reflectance × coverage, coverage) of a stored picture [0 … 1], height × width. Raises CutOutError."""
    _, _, text = picture.partition(",")
    try:
        file = base64.b64decode(text, validate=True)
    except (binascii.Error, ValueError):
        raise CutOutError("the picture of the cut-out is not base64") from None
    opened = _opened(file, ("PNG", "WEBP")).convert("LA")
    if max(opened.size) > 2 * HIGHEST_PX:
        raise CutOutError(f"the picture of the cut-out is larger than {2 * HIGHEST_PX} pixels")
    grey, alpha = (np.asarray(band, dtype=np.float32) / 255 for band in opened.split())
    linear = np.where(
        grey <= 0.04045, grey / 12.92, ((grey + 0.055) / 1.055) ** 2.4
    )  # IEC 61966-2-1
    return (linear * alpha * _PAPER).astype(np.float32), alpha.astype(np.float32)


@lru_cache(maxsize=2)
def parts_of(cutout: CutOut) -> tuple[tuple[float, Mask], ...]:
    """The parts of a cut-out, the slowest first: share of the motion's speed, and which pixels (height × width).

    What is outside the marked part rests. A part with a pivot is cut into rings, each as fast as its middle is far out,
    of the farthest that is drawn. A slower part reaches a little under the faster one, so that no seam opens.
    """
    _, cover = tones_of(cutout.picture)
    height, width = cover.shape
    if cutout.moving is None:
        return ((1.0, np.ones(cover.shape, dtype=bool)),)
    x, y = (np.arange(width) + 0.5)[None, :] / height, (np.arange(height) + 0.5)[:, None] / height
    left, top, right, bottom = cutout.moving
    edges = left * width / height, top, right * width / height, bottom
    inside = _inside(x, y, edges, 0.0)
    rest = (0.0, ~_inside(x, y, edges, _OVERLAP))
    if cutout.pivot is None:
        return rest, (1.0, inside)
    away = np.hypot(x - cutout.pivot[0] * width / height, y - cutout.pivot[1])
    used = inside & (cover > 0.5)
    step = float(away[used].max() if used.any() else away.max()) / _RINGS
    rings = (
        (
            (ring + 0.5) / _RINGS,
            inside & (away > ring * step) & (away <= (ring + 1) * step + _OVERLAP),
        )
        for ring in range(_RINGS)
    )
    return rest, *rings


def _inside(x: Tones, y: Tones, edges: tuple[float, float, float, float], within: float) -> Mask:
    left, top, right, bottom = edges
    across = (x >= left + within) & (x <= right - within)
    return np.asarray(across & (y >= top + within) & (y <= bottom - within))


def detail_of(cutout: CutOut) -> Point:
    """Where the 100 % inset looks, in heights of the subject from its middle, y up: at the fastest part."""
    _, cover = tones_of(cutout.picture)
    height, width = cover.shape
    for _, part in reversed(parts_of(cutout)):
        rows, columns = np.nonzero(part & (cover > 0.5))
        if len(rows):
            middle = np.hypot(rows - rows.mean(), columns - columns.mean())
            at = int(np.argmin(middle))
            return float(columns[at] + 0.5 - width / 2) / height, 0.5 - float(
                rows[at] + 0.5
            ) / height
    return 0.0, 0.0


def layers(cutout: CutOut, view: View, size_m: float) -> list[Layer]:
    """The cut-out's parts as one view sees them, the slowest behind."""
    lit, cover = tones_of(cutout.picture)
    drawn = []
    for speed, part in parts_of(cutout):
        seen_lit, seen_cover = (_seen(tones * part, view, size_m) for tones in (lit, cover))
        if seen_cover is not None and seen_lit is not None:
            drawn.append(Layer(seen_lit, seen_cover, speed))
    return drawn or [Layer(_empty(view), _empty(view), 0.0)]


def _empty(view: View) -> Picture:
    return np.zeros((view.height, view.width), dtype=np.float32)


def _seen(tones: Tones, view: View, size_m: float) -> Picture | None:
    """A picture of the subject as a view sees it, averaged where it is drawn smaller; None where nothing is seen.

    Only the part of the view in which something is drawn is worked out.
    """
    height, width = tones.shape
    scale = view.px_per_m * size_m / height  # pixels of the view for one of the picture
    left = width / 2 + (view.centre_x_m - view.width / 2 / view.px_per_m) * height / size_m
    top = height / 2 - (view.centre_y_m + view.height / 2 / view.px_per_m) * height / size_m
    columns = _stretch(tones.any(axis=0), left, scale, view.width)
    rows = _stretch(tones.any(axis=1), top, scale, view.height)
    if columns is None or rows is None:
        return None
    fewer = max(int(1 / scale), 1)
    picture = Image.fromarray(tones)
    if fewer > 1:
        picture = picture.reduce(fewer)
    step = 1 / scale / fewer
    begin_x, begin_y = left / fewer + columns.start * step, top / fewer + rows.start * step
    laid = picture.transform(
        (columns.stop - columns.start, rows.stop - rows.start), Image.Transform.AFFINE,
        (step, 0.0, begin_x, 0.0, step, begin_y), Image.Resampling.BILINEAR,
    )  # fmt: skip
    seen = _empty(view)
    seen[rows, columns] = np.asarray(laid)
    return seen


def _stretch(used: Any, begin: float, scale: float, length: int) -> slice | None:
    """Which pixels of a view show those of the picture that are used, along one side; None for none."""
    places = np.flatnonzero(used)
    if not len(places):
        return None
    first = max(math.floor((places[0] - begin) * scale) - 2, 0)
    last = min(math.ceil((places[-1] + 1 - begin) * scale) + 2, length)
    return slice(first, last) if first < last else None
