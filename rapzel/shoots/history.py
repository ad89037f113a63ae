"""How a scene's document changes and how a change is taken back. A refused change leaves everything as it was.

`Scene.revision` only ever grows, also on undo, so that a page can tell whether the scene is still the one it shows.
"""

from collections.abc import Callable

from django.db import transaction
from django.utils import timezone

from rapzel.core.document import places
from rapzel.core.document.places import Document
from rapzel.core.document.present import present
from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.shoots.documents import rewritten
from rapzel.shoots.models import Scene, SceneRevision

KEPT_REVISIONS = 100
_TRIMMED_EVERY = 10  # changes; until then some more are kept


def item_of(items: list[Document], identity: str, kind: str) -> Document:
    """The item of that identity. Raises DocumentError where there is none, or none any more."""
    for item in items:
        if item.get("id") == identity:
            return item
    raise DocumentError([Problem("", f"that {kind} is no longer in this scene")])


def _lock(scene: Scene) -> Scene:
    return Scene.objects.select_for_update(of=("self",)).get(pk=scene.pk)


def _becomes(scene: Scene, found: int, document: Document) -> bool:
    """Stores the document under a revision of its own; False where the stored scene is no longer the one found."""
    values = {"document": document, "revision": found + 1, "changed_at": timezone.now()}
    if document.get("name"):
        values["name"] = document["name"]
    # The revision is both the question and the lock: whoever is second finds none of it.
    if not Scene.objects.filter(pk=scene.pk, revision=found).update(**values):
        return False
    for name, value in values.items():
        setattr(scene, name, value)
    return True


def rewrite(scene: Scene, write: Callable[[Document], Document], what: str) -> int:
    """Changes a scene's document, keeping what it was for undo; returns the revision that it changed.

    `write` gets the document and returns the new one; what it returns must be a possible scene, else DocumentError is
    raised and nothing is stored. Where somebody else has changed the scene since it was read, it is read again and
    `write` is asked once more: it must do nothing but write. A change that changes nothing leaves no trace.
    """
    while True:
        found, before = scene.revision, present(scene.document)
        stored = rewritten(write(places.copied(before)))
        # Nothing to store, and nobody else was faster: undo should not meet an empty step.
        if stored == before and _stands(scene):
            scene.document = before
            return found
        if stored != before and _replace(scene, before, stored, what):
            return found
        scene.refresh_from_db(fields=["document", "name", "revision"])


def _stands(scene: Scene) -> bool:
    """Whether the stored scene is still the one that was read."""
    return Scene.objects.filter(pk=scene.pk, revision=scene.revision).exists()


@transaction.atomic
def _replace(scene: Scene, was: Document, document: Document, what: str) -> bool:
    """Stores the document in the place of what was, if the stored scene is still that one."""
    found = scene.revision
    if not _becomes(scene, found, document):
        return False
    # a new change ends what could have been done again
    scene.revisions.filter(redo=True).delete()
    SceneRevision.objects.create(
        scene=scene, number=found, document=was, before=what[:200]
    )
    if found % _TRIMMED_EVERY == 0:
        scene.revisions.filter(number__lte=found - KEPT_REVISIONS).delete()
    return True


def undo(scene: Scene) -> str | None:
    """Takes the last change back; returns what was undone, None when there is nothing left."""
    return _step(scene, redo=False)


def redo(scene: Scene) -> str | None:
    """Does again what was undone last; returns what it was, None when there is nothing."""
    return _step(scene, redo=True)


@transaction.atomic
def _step(scene: Scene, redo: bool) -> str | None:
    """One step along the history: the document that is left goes to the other side of it."""
    locked = _lock(scene)
    # Newest first, by the model's own order.
    last = locked.revisions.filter(redo=redo).first()
    if last is None:
        return None
    SceneRevision.objects.create(
        scene=locked,
        number=locked.revision,
        document=locked.document,
        before=last.before,
        redo=not redo,
    )
    last.delete()
    _becomes(scene, locked.revision, last.document)
    return last.before


def changed_between(scene: Scene, seen: int, found: int) -> str:
    """What was changed from one revision up to another, in words; the newest first, each once."""
    labels = scene.revisions.filter(number__gte=seen, number__lt=found).values_list(
        "before", flat=True
    )
    words = list(dict.fromkeys(labels))
    return ", ".join(words[:5]) + (
        f" and {len(words) - 5} more" if len(words) > 5 else ""
    )
