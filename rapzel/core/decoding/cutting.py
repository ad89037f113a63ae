"""One's own cut-out as a scene document keeps it: trimmed to the subject, grey, small (docs/scene.md)."""

import base64
import io
from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageFile

from rapzel.core.decoding.header import PictureError, read_header

HIGHEST_PX = 960  # of a stored cut-out
_MOST_BYTES = 100_000  # of its file
_QUALITIES = (88, 80, 70, 60)
_OPAQUE = 128
_KINDS = ("PNG",)


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

    Raises PictureError for anything else, for one without transparency, and for one in which nothing is left.
    """
    whole = _opened(file).convert("RGBA")
    if int(np.asarray(whole.getchannel("A")).min()) >= _OPAQUE:
        raise PictureError(
            "This picture has no transparency. Cut the subject out first, so that what surrounds it is transparent."
        )
    box = whole.getchannel("A").point(lambda alpha: 255 * (alpha >= _OPAQUE)).getbbox()
    if box is None:
        raise PictureError(
            "Everything in this picture is transparent: nothing is left to draw."
        )
    # What is transparent around the subject is no part of it, and takes room in every document.
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
        # First worse, then smaller: a cut-out is looked at through a smear.
        for quality in _QUALITIES:
            out = io.BytesIO()
            picture.convert("RGBA").save(out, "WEBP", quality=quality, method=4)
            if out.tell() <= _MOST_BYTES:
                return out.getvalue()
        picture = picture.resize((picture.width * 3 // 4, picture.height * 3 // 4))


def _opened(file: bytes) -> Image.Image:
    read_header(file, _KINDS)
    # half a picture is none, whatever other packages set
    ImageFile.LOAD_TRUNCATED_IMAGES = False
    try:
        with Image.open(io.BytesIO(file), formats=_KINDS) as checked:
            checked.verify()
        with Image.open(io.BytesIO(file), formats=_KINDS) as opened:
            opened.load()
            return opened.copy()
    except (OSError, ValueError, SyntaxError) as error:
        raise PictureError("This is not a PNG picture that can be read.") from error
