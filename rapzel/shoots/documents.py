"""The one door between stored documents and the application.

A row's document is raised and named when it is read; what is to be stored is validated and judged once, and the scene
that it describes is at hand for whoever answers it next.
"""

from collections.abc import Mapping
from typing import Any

from django.db import models

from rapzel.core.document.places import Document, identified
from rapzel.core.document.present import Present, fingerprint_of, present
from rapzel.core.document.scene import Scene
from rapzel.core.possible import read_possible_scene
from rapzel.ui.recent import Recent

_JUDGED: Recent[Scene] = Recent(30)  # by fingerprint; a shoot's page of scenes and more


class SceneDocumentField(models.JSONField):
    """A scene document of any version; read, it is one of today's, with an identity for each light and link."""

    def from_db_value(self, value: Any, expression: Any, connection: Any) -> Any:
        """The document as it is read today; what is no document stays what it is, for its reader to refuse."""
        stored = super().from_db_value(value, expression, connection)
        if isinstance(stored, dict):
            return present(stored)
        return stored

    def deconstruct(self) -> Any:
        """To migrations it is a JSON column: how it is read changes no table."""
        name, _, args, kwargs = super().deconstruct()
        return name, "django.db.models.JSONField", args, kwargs


def judged(document: Mapping[str, Any]) -> Scene:
    """The possible scene that a document describes. Raises DocumentError with all that is wrong with it."""
    known = present(document)
    return _JUDGED.get(fingerprint_of(known), lambda: read_possible_scene(known))


def stored_form(document: Document) -> Present:
    """The document as it is stored: possible, complete, every item with an identity. Raises DocumentError."""
    scene = read_possible_scene(present(document))
    stored = Present(scene.to_document())
    _JUDGED.keep(fingerprint_of(stored), scene)
    return stored


def rewritten(document: Document) -> Present:
    """The same of what was made from a present document, which needs no raising: only what is new has no name yet."""
    return stored_form(Present(identified(document)))
