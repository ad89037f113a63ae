"""What a picture says of itself before anything is decoded, and whether that is too much."""

import io
import warnings
from dataclasses import dataclass

from PIL import Image

from rapzel.core.shared.errors import CoreError

# of what can only be decoded whole: PNG, WebP, progressive JPEG
MOST_PIXELS = 40_000_000
MOST_SCALED = 120_000_000  # of a JPEG that is decoded smaller at once
_NAMES = {"JPEG": "JPEG", "PNG": "PNG", "WEBP": "WebP"}


class PictureError(CoreError):
    """A file that is no picture that can be taken; str() says why, and what would be."""


@dataclass(frozen=True)
class Header:
    """Kind and size of a picture [px], and whether a decoder can make it smaller while it decodes."""

    kind: str
    width: int
    height: int
    scales: bool


def read_header(data: bytes, kinds: tuple[str, ...]) -> Header:
    """The header of a picture of one of some kinds (Pillow's names); nothing is decoded.

    Raises PictureError for anything else, and for one with more pixels than are decoded of its kind.
    """
    try:
        with warnings.catch_warnings():
            # the limits are ours
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=kinds) as image:
                scales = image.format == "JPEG" and not image.info.get("progressive")
                found = Header(
                    image.format or "", image.width, image.height, bool(scales)
                )
    except Image.DecompressionBombError:
        raise PictureError(_too_many("far too many", MOST_PIXELS)) from None
    except Exception as error:  # Pillow raises many kinds for a broken file
        raise PictureError(
            f"This is not a {_listed(kinds)} picture that can be read."
        ) from error
    if found.scales:
        most = MOST_SCALED
    else:
        most = MOST_PIXELS
    if found.width * found.height > most:
        raise PictureError(_too_many(f"{found.width} × {found.height}", most))
    return found


def _too_many(pixels: str, most: int) -> str:
    return (
        f"This picture has {pixels} pixels; up to {most / 1e6:.0f} million are taken of its kind. "
        "Export it smaller and send it again."
    )


def _listed(kinds: tuple[str, ...]) -> str:
    names = [_NAMES[kind] for kind in kinds]
    if len(names) == 1:
        return names[0]
    return f"{', '.join(names[:-1])} or {names[-1]}"
