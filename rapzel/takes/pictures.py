"""Pictures that go with takes: a person's own frame made small, or one that was computed."""

from typing import Any

from django.conf import settings
from django.core.files.uploadedfile import UploadedFile

from rapzel.core.decoding import apart
from rapzel.core.decoding.header import PictureError
from rapzel.takes.models import Take, TakePicture
from rapzel.ui.quota import require_room

MOST_MB = 30
_QUOTA = "pictures of takes"


def read(upload: UploadedFile) -> tuple[bytes, str]:
    """The frame as it is kept: a small JPEG, upright. Raises PictureError, DecoderBusy."""
    accepted = f"A JPEG, PNG or WebP of up to {MOST_MB} MB is accepted."
    if (upload.size or 0) > MOST_MB * 2**20:
        raise PictureError(f"{upload.name} is larger than {MOST_MB} MB. {accepted}")
    try:
        return apart.small_jpeg(upload.read(), settings.DECODER_LOCK), "image/jpeg"
    except PictureError as error:
        raise PictureError(f"{upload.name}: {error} {accepted}") from error


def require_room_for(owner: Any) -> None:
    """Raises QuotaFull where no more picture fits into an account."""
    require_room(
        _QUOTA, TakePicture.objects.filter(take__scene__shoot__owner=owner).count()
    )


def keep(take: Take, image: bytes, content_type: str) -> Any:
    """Keeps a picture with its take."""
    return TakePicture.objects.create(take=take, image=image, content_type=content_type)
