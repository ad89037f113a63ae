"""A person's own frame as it is kept with a take: upright, small, and without what its file says beside the picture."""

import io

from PIL import Image, ImageFile, ImageOps

from rapzel.core.decoding.header import PictureError, read_header

KINDS = ("JPEG", "PNG", "WEBP")
SIDE = 1200  # of a frame that is kept [px]
_QUALITY = 84


def small_jpeg(data: bytes) -> bytes:
    """The frame as a JPEG without a side above `SIDE`, turned as its camera was held. Raises PictureError.

    Turned before its file's notes go: the notes say which way is up (Exif 2.32, tag Orientation).
    """
    read_header(data, KINDS)
    # half a picture is none, whatever other packages set
    ImageFile.LOAD_TRUNCATED_IMAGES = False
    try:
        with Image.open(io.BytesIO(data), formats=KINDS) as image:
            image.draft("RGB", (SIDE, SIDE))  # a JPEG is decoded smaller at once
            image.thumbnail((SIDE, SIDE))
            upright = ImageOps.exif_transpose(image).convert("RGB")
    # the decoders raise whatever the file's bytes lead them to
    except Exception as error:
        raise PictureError(
            "This picture cannot be read to its end. Export it again as JPEG, PNG or WebP."
        ) from error
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=_QUALITY)
    return out.getvalue()
