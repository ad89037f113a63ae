"""The rehearsal as image files. One that was made is kept under the fingerprint of its scene for the next who asks."""

import hashlib
import io
from pathlib import Path

import numpy as np
from django.core.cache import caches
from PIL import Image

import rapzel.core
from rapzel.core.physics import Physics
from rapzel.core.rehearsal.outlines import SPREAD, USUAL, outlines
from rapzel.core.rehearsal.render import render
from rapzel.workbench.answer import Answer

CORE = Path(rapzel.core.__file__).parent
# Frame, its 100 % inset, how much coarser: the picture, its draft while a value is dragged, and one beside others.
SIZES = {
    "whole": ((960, 640), (336, 224), 1),
    "draft": ((960, 640), (336, 224), 2),
    "small": ((288, 192), (112, 75), 1),
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


def _composed(physics: Physics, size: str) -> Image.Image:
    whole, crop, coarser = SIZES[size]
    computed = render(physics, whole, crop, coarser=coarser)
    picture = Image.fromarray(computed.frame)
    inset = Image.fromarray(computed.crop)
    left, top = picture.width - inset.width, picture.height - inset.height
    if size == "whole":
        line = 2
    else:
        line = 1
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
