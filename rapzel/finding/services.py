"""The verbs of limits and searches."""

from typing import Any

from django.db import transaction
from django.db.models import Q

from rapzel.core.document.places import Document
from rapzel.core.search.limits import Limits, read_limits
from rapzel.core.shared.errors import DocumentError
from rapzel.finding.models import KeptLimits
from rapzel.shoots.documents import stored_form
from rapzel.shoots.history import rewrite
from rapzel.shoots.models import Scene, Snapshot
from rapzel.ui.quota import require_room


def limits_for(owner: Any, scene: Scene) -> tuple[Limits, bool]:
    """(the limits that hold for a scene, whether they are its own)."""
    mine = KeptLimits.objects.filter(owner_id=owner.pk)
    kept = {
        one.scene_id: one for one in mine.filter(Q(scene=scene) | Q(scene__isnull=True))
    }
    # The scene's own before those of every scene.
    holds = kept.get(scene.pk) or kept.get(None)
    return _read(holds.document if holds else {}), scene.pk in kept


def _read(document: Any) -> Limits:
    """Limits as they were stored; the usual ones where a newer rule refuses what was."""
    try:
        return read_limits(document)
    except DocumentError:
        return Limits()


def keep_limits(owner: Any, scene: Scene, limits: Limits) -> None:
    """Remembers limits: for the scene where it has its own, else for every scene of the person."""
    _, own = limits_for(owner, scene)
    KeptLimits.objects.update_or_create(
        owner_id=owner.pk,
        scene=scene if own else None,
        defaults={"document": limits.model_dump(mode="json")},
    )


@transaction.atomic
def make_own(owner: Any, scene: Scene) -> None:
    """Gives a scene limits of its own, which begin as they are."""
    limits, own = limits_for(owner, scene)
    if not own:
        document = limits.model_dump(mode="json")
        defaults = {"document": document}
        KeptLimits.objects.get_or_create(
            owner_id=owner.pk, scene=scene, defaults=defaults
        )


def make_shared(owner: Any, scene: Scene) -> None:
    """Gives a scene the limits of every other scene again."""
    KeptLimits.objects.filter(owner_id=owner.pk, scene=scene).delete()


def become(scene: Scene, document: Document, what: str) -> int:
    """Makes a scene what was found for it, under its own name and with what was pinned to it; undo takes it back."""

    def write(now: dict[str, Any]) -> dict[str, Any]:
        # What a search knows nothing of, and would lose.
        own = {key: value for key, value in now.items() if key in ("name", "pinned")}
        return {**document, **own}

    return rewrite(scene, write, what)


def pin(scene: Scene, document: Document, name: str) -> Snapshot:
    """Keeps a set-up beside the scene, for comparison."""
    require_room(
        "snapshots of a scene", scene.snapshots.filter(deleted_at__isnull=True).count()
    )
    return Snapshot.objects.create(
        scene=scene, name=name[:120], document=stored_form(document)
    )
