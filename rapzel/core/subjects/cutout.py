"""One's own cut-out as the subject of the rehearsal: a grey picture with transparency, of which a part moves.

The picture travels inside the scene document, so that a scene stays whole wherever it goes. Its tones are taken as
reflectances. A part that turns about a pivot is cut into rings, each as fast as it is far out.
"""

import base64
import binascii
import io
import math
from functools import lru_cache
from typing import Any

import numpy as np
import numpy.typing as npt
from PIL import Image

from rapzel.core.decoding.cutting import HIGHEST_PX
from rapzel.core.decoding.header import PictureError, read_header
from rapzel.core.document.rehearsed import CutOut
from rapzel.core.shared.errors import CoreError
from rapzel.core.subjects.pen import Layer, Picture, Point, View

_PAPER = 0.9  # reflectance of its white (memory)
_RINGS = 5
# of the height, that a slower part reaches under a faster one, so that no seam opens
_OVERLAP = 0.012
Tones = npt.NDArray[np.float32]
Mask = npt.NDArray[np.bool_]


class CutOutError(CoreError):
    """A stored picture that cannot be a cut-out; str() says why."""


def _opened(file: bytes) -> Image.Image:
    """Grey and alpha of a stored picture; how large it is, is asked before it is decoded."""
    kinds = ("PNG", "WEBP")
    try:
        header = read_header(file, kinds)
        if max(header.width, header.height) > 2 * HIGHEST_PX:
            raise CutOutError(
                f"the picture of the cut-out is larger than {2 * HIGHEST_PX} pixels"
            )
        with Image.open(io.BytesIO(file), formats=kinds) as checked:
            # to the end: loading alone may take a file that breaks off
            checked.verify()
        with Image.open(io.BytesIO(file), formats=kinds) as opened:
            return opened.convert("LA")
    except (PictureError, OSError, ValueError, SyntaxError):
        raise CutOutError("the picture of the cut-out cannot be read") from None


@lru_cache(maxsize=2)  # 7 MB each
def tones_of(picture: str) -> tuple[Tones, Tones]:
    """(reflectance × coverage, coverage) of a stored picture [0 … 1], height × width. Raises CutOutError."""
    _, _, text = picture.partition(",")
    try:
        file = base64.b64decode(text, validate=True)
    except (binascii.Error, ValueError):
        raise CutOutError("the picture of the cut-out is not base64") from None
    opened = _opened(file)
    # Grey is stored as for a screen; reflectance is linear.
    grey, alpha = (np.asarray(band, dtype=np.float32) / 255 for band in opened.split())
    # IEC 61966-2-1
    linear = np.where(grey <= 0.04045, grey / 12.92, ((grey + 0.055) / 1.055) ** 2.4)
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
    # Both in heights of the picture, so that a circle about the pivot is round.
    x, y = (
        (np.arange(width) + 0.5)[None, :] / height,
        (np.arange(height) + 0.5)[:, None] / height,
    )
    left, top, right, bottom = cutout.moving
    edges = left * width / height, top, right * width / height, bottom
    inside = _inside(x, y, edges, 0.0)
    rest = (0.0, ~_inside(x, y, edges, _OVERLAP))
    if cutout.pivot is None:
        return rest, (1.0, inside)
    away = np.hypot(x - cutout.pivot[0] * width / height, y - cutout.pivot[1])
    # How far out the part reaches is where it is seen, not where its frame ends.
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


def _inside(
    x: Tones, y: Tones, edges: tuple[float, float, float, float], within: float
) -> Mask:
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
            # The pixel of the part that is nearest to its middle: the middle itself may be a hole.
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
        seen_lit, seen_cover = (
            _seen(tones * part, view, size_m) for tones in (lit, cover)
        )
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
    left = (
        width / 2 + (view.centre_x_m - view.width / 2 / view.px_per_m) * height / size_m
    )
    top = (
        height / 2
        - (view.centre_y_m + view.height / 2 / view.px_per_m) * height / size_m
    )
    columns = _stretch(tones.any(axis=0), left, scale, view.width)
    rows = _stretch(tones.any(axis=1), top, scale, view.height)
    if columns is None or rows is None:
        return None
    # Drawn much smaller, single pixels would be picked out; they are averaged first.
    fewer = max(int(1 / scale), 1)
    picture = Image.fromarray(tones)
    if fewer > 1:
        picture = picture.reduce(fewer)
    step = 1 / scale / fewer
    begin_x, begin_y = (
        left / fewer + columns.start * step,
        top / fewer + rows.start * step,
    )
    laid = picture.transform(
        (columns.stop - columns.start, rows.stop - rows.start),
        Image.Transform.AFFINE,
        (step, 0.0, begin_x, 0.0, step, begin_y),
        Image.Resampling.BILINEAR,
    )
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
    if first < last:
        return slice(first, last)
    return None
