"""The rehearsal as image files."""

import io

from PIL import Image

from rapzel.core.render import render
from rapzel.core.setup import Setup

SIZE = (960, 640)
CROP = (336, 224)
_TYPES = {"jpg": ("JPEG", "image/jpeg"), "png": ("PNG", "image/png")}
_FRAME = (98, 96, 92)  # a hairline between frame and inset


def rehearsal(setup: Setup, kind: str = "jpg") -> tuple[bytes, str]:
    """The rehearsal frame with its 100 % inset in the lower right: image bytes and their content type."""
    computed = render(setup, SIZE, CROP)
    picture = Image.fromarray(computed.frame)
    left, top = SIZE[0] - CROP[0], SIZE[1] - CROP[1]
    picture.paste(_FRAME, (left - 2, top - 2, SIZE[0], SIZE[1]))
    picture.paste(Image.fromarray(computed.crop), (left, top))
    name, content_type = _TYPES[kind]
    out = io.BytesIO()
    picture.save(out, name, **({"quality": 88} if kind == "jpg" else {"compress_level": 4}))
    return out.getvalue(), content_type
