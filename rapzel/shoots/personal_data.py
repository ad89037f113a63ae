"""What of the shoots goes along when a person leaves, and what is thrown away after a while."""

import json
from collections.abc import Iterator
from typing import Any

from django.utils.text import slugify

from rapzel.shoots.models import Scene, Shoot, Snapshot
from rapzel.shoots.services import shoot_document
from rapzel.ui import housekeeping
from rapzel.ui.archive import Part


def tell(owner: Any) -> Iterator[Part]:
    """Each shoot with its scenes as a JSON document, and the snapshots of its scenes."""
    for shoot in Shoot.objects.visible_to(owner):
        name = f"shoots/{slugify(shoot.name) or 'shoot'}-{shoot.pk}"
        yield (
            f"{name}.json",
            json.dumps(shoot_document(shoot), indent=2, ensure_ascii=False),
        )
        pinned = Snapshot.objects.filter(
            scene__shoot=shoot, scene__deleted_at__isnull=True, deleted_at__isnull=True
        )
        for snapshot in pinned:
            document = json.dumps(snapshot.document, indent=2, ensure_ascii=False)
            yield (
                f"{name}/snapshots/{slugify(snapshot.name) or 'snapshot'}-{snapshot.pk}.json",
                document,
            )


def tidy() -> None:
    """Removed snapshots, scenes and shoots for good."""
    for model in (Snapshot, Scene, Shoot):
        housekeeping.purge(model)
