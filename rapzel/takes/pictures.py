"""Pictures that go with takes: a person's own frame made small, or one that was computed."""

import io
from typing import Any

from django.core.files.uploadedfile import UploadedFile
from PIL import Image

from rapzel.core.shared.errors import CoreError
from rapzel.takes.models import Take, TakePicture
from rapzel.ui.quota import require_room

MOST_MB = 30
_MOST_PIXELS = 120_000_000
_SIDE = 1200
_QUOTA = "pictures of takes"


class PictureError(CoreError):
    """A file that is no picture that can be kept; str() says what would be."""


def read(upload: UploadedFile) -> tuple[bytes, str]:
    """The frame as it is kept: a JPEG of at most 1200 px. Raises PictureError."""
    accepted = f"A JPEG, PNG or WebP of up to {MOST_MB} MB is accepted."
    if (upload.size or 0) > MOST_MB * 2**20:
        raise PictureError(f"{upload.name} is larger than {MOST_MB} MB. {accepted}")
    try:
        with Image.open(io.BytesIO(upload.read()), formats=("JPEG", "PNG", "WEBP")) as image:
            if image.width * image.height > _MOST_PIXELS:
                raise PictureError(f"{upload.name} has more than 120 million pixels.")
            image.draft("RGB", (_SIDE, _SIDE))
            image.load()
            small = image.convert("RGB")
    except PictureError:
        raise
    except Exception as error:  # Pillow raises many kinds for a broken file
        raise PictureError(f"{upload.name} cannot be read as a picture. {accepted}") from error
    small.thumbnail((_SIDE, _SIDE))
    out = io.BytesIO()
    small.save(out, "JPEG", quality=84)
    return out.getvalue(), "image/jpeg"


def require_room_for(owner: Any) -> None:
    """Raises QuotaFull where no more picture fits into an account."""
    require_room(_QUOTA, TakePicture.objects.filter(take__scene__shoot__owner=owner).count())


def keep(take: Take, image: bytes, content_type: str) -> Any:
    """Keeps a picture with its take."""
    return TakePicture.objects.create(take=take, image=image, content_type=content_type)
