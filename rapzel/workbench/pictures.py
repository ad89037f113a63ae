"""The rehearsal as image files. One that was made is kept under the fingerprint of its scene for the next who asks."""

import hashlib
import io
from pathlib import Path

import numpy as np
import numpy.typing as npt
from django.core.cache import caches
from PIL import Image

import rapzel.core
from rapzel.core.physics import Physics
from rapzel.core.rehearsal.outlines import SPREAD, USUAL, outlines
from rapzel.core.rehearsal.render import render, render_close_up, render_frame
from rapzel.workbench.answer import CLOSE_UP, REHEARSAL, Answer

CORE = Path(rapzel.core.__file__).parent
Size = tuple[int, int]
Pixels = npt.NDArray[np.uint8]
FRONT = "front"  # of the first page
# Frame, its 100 % inset (None: none), how much coarser: the picture, its draft while a value is dragged, and one beside
# others; `plain` ones stand beside close-ups of their own.
SIZES: dict[str, tuple[Size, Size | None, int]] = {
    "whole": (REHEARSAL, (336, 224), 1),
    "draft": (REHEARSAL, (336, 224), 2),
    "small": ((288, 192), (112, 75), 1),
    "plain": (REHEARSAL, None, 1),
    "plain draft": (REHEARSAL, None, 2),
    FRONT: ((720, 480), (240, 160), 1),
}
_TYPES = {"jpg": ("JPEG", "image/jpeg"), "png": ("PNG", "image/png")}
# Of the code that draws, so that no picture of an older one is shown.
RENDERED_BY = hashlib.sha256(
    b"".join(each.read_bytes() for each in sorted(CORE.rglob("*.py")))
).hexdigest()[:12]
_OUTLINES = {SPREAD: (150, 88, 68), USUAL: (240, 138, 107)}
_FRAME = (98, 96, 92)  # a hairline between frame and inset


def rehearsal(
    answer: Answer, kind: str = "jpg", size: str = "whole", marked: bool = False
) -> tuple[bytes, str]:
    """The rehearsal frame with its 100 % inset in the lower right: image bytes and their content type.

    size: one of `SIZES`; marked: with the outlines of where the subject is, and may be, when the light comes.
    """
    name, content_type = _TYPES[kind]
    key = f"{RENDERED_BY}:{answer.fingerprint}:{kind}:{size}:{marked:d}"
    kept = caches["pictures"].get(key)
    if kept is None:
        picture = _composed(answer.physics, size)
        kept = _encoded(_marked(picture, answer.physics) if marked else picture, name)
        caches["pictures"].set(key, kept)
    return kept, content_type


def speeds(answer: Answer) -> tuple[bytes, str]:
    """The fastest part at 100 %: a third slower, as planned and a third faster, one above the other."""
    name, content_type = _TYPES["jpg"]
    key = f"{RENDERED_BY}:{answer.fingerprint}:speeds"
    kept = caches["pictures"].get(key)
    if kept is None:
        kept = _encoded(_stacked(answer), name)
        caches["pictures"].set(key, kept)
    return kept, content_type


def _stacked(answer: Answer) -> Image.Image:
    width, height = CLOSE_UP
    stack = Image.new("RGB", (width, height * len(answer.speeds)))
    for place, one in enumerate(answer.speeds):
        # Where no scene may be that fast the place stays black; the words beside it say so.
        if one.physics is not None:
            close_up = Image.fromarray(render_close_up(one.physics, CLOSE_UP))
            stack.paste(close_up, (0, height * place))
    return stack


def _composed(physics: Physics, size: str) -> Image.Image:
    whole, crop, coarser = SIZES[size]
    if crop is None:
        return Image.fromarray(render_frame(physics, whole, coarser))
    if size == FRONT:
        # Whoever drags there asks how sharp the part becomes, and not whether a try hits.
        close_up = render_close_up(physics, crop)
        return _inset(render_frame(physics, whole), close_up, line=2)
    computed = render(physics, whole, crop, coarser=coarser)
    return _inset(computed.frame, computed.crop, line=2 if size == "whole" else 1)


def _inset(frame: Pixels, close_up: Pixels, line: int) -> Image.Image:
    """The frame with a close-up in its lower right, parted by a hairline."""
    picture = Image.fromarray(frame)
    inset = Image.fromarray(close_up)
    left, top = picture.width - inset.width, picture.height - inset.height
    picture.paste(_FRAME, (left - line, top - line, picture.width, picture.height))
    picture.paste(inset, (left, top))
    return picture


def _marked(picture: Image.Image, physics: Physics) -> Image.Image:
    """The picture with its outlines: coral at the mean, dimmer at one standard deviation."""
    pixels = np.array(picture)
    marks = outlines(physics, (picture.width, picture.height))
    for kind, colour in _OUTLINES.items():
        pixels[marks == kind] = colour
    return Image.fromarray(pixels)


def _encoded(picture: Image.Image, name: str) -> bytes:
    out = io.BytesIO()
    picture.save(
        out, name, **({"quality": 88} if name == "JPEG" else {"compress_level": 4})
    )
    return out.getvalue()
