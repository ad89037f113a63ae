"""What of the log goes along when a person leaves, and what is thrown away after a while."""

from collections.abc import Iterator
from typing import Any

from django.utils.text import slugify

from rapzel.shoots.models import Scene
from rapzel.takes.models import Take, TakePicture
from rapzel.takes.services import to_csv
from rapzel.ui import housekeeping
from rapzel.ui.archive import Part


def tell(owner: Any) -> Iterator[Part]:
    """The log of each scene that has one, as CSV, and the pictures of its takes."""
    for scene in (
        Scene.objects.visible_to(owner)
        .filter(takes__isnull=False)
        .distinct()
        .select_related("shoot")
    ):
        takes = Take.objects.filter(scene=scene, deleted_at__isnull=True)
        name = f"takes/{slugify(scene.name) or 'scene'}-{scene.pk}"
        yield f"{name}.csv", to_csv(scene)
        pictured = TakePicture.objects.filter(take__in=takes).select_related("take")
        for each in pictured.iterator(chunk_size=20):
            yield f"{name}/take-{each.take.number}.jpg", bytes(each.image)


def tidy() -> None:
    """Removed takes for good."""
    housekeeping.purge(Take)
