"""The rehearsal as image files. One that was made is kept under the fingerprint of its scene for the next who asks."""

import hashlib
import io
from pathlib import Path

from django.core.cache import caches
from PIL import Image

import rapzel.core
from rapzel.core.physics import Physics
from rapzel.core.rehearsal.render import render
from rapzel.shoots.workbench import Answer

CORE = Path(rapzel.core.__file__).parent
SIZE = (960, 640)
CROP = (336, 224)
_TYPES = {"jpg": ("JPEG", "image/jpeg"), "png": ("PNG", "image/png")}
# Of the code that draws, so that no picture of an older one is shown.
RENDERED_BY = hashlib.sha256(
    b"".join(each.read_bytes() for each in sorted(CORE.rglob("*.py")))
).hexdigest()[:12]
_FRAME = (98, 96, 92)  # a hairline between frame and inset


def rehearsal(answer: Answer, kind: str = "jpg", draft: bool = False) -> tuple[bytes, str]:
    """The rehearsal frame with its 100 % inset in the lower right: image bytes and their content type.

    draft: with a quarter of the pixels, for while a value is being dragged or stepped.
    """
    name, content_type = _TYPES[kind]
    key = f"{RENDERED_BY}:{answer.fingerprint}:{kind}:{draft}"
    kept = caches["pictures"].get(key)
    if kept is None:
        kept = _encoded(_composed(answer.physics, 2 if draft else 1), name)
        caches["pictures"].set(key, kept)
    return kept, content_type


def _composed(physics: Physics, coarser: int) -> Image.Image:
    computed = render(physics, SIZE, CROP, coarser=coarser)
    picture = Image.fromarray(computed.frame)
    left, top = (SIZE[0] - CROP[0]) // coarser, (SIZE[1] - CROP[1]) // coarser
    line = 2 // coarser
    picture.paste(_FRAME, (left - line, top - line, picture.width, picture.height))
    picture.paste(Image.fromarray(computed.crop), (left, top))
    return picture


def _encoded(picture: Image.Image, name: str) -> bytes:
    out = io.BytesIO()
    picture.save(out, name, **({"quality": 88} if name == "JPEG" else {"compress_level": 4}))
    return out.getvalue()
