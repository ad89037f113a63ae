"""A stored or imported document as it is read today: of this version, every light and link with an identity."""

import hashlib
import json
from collections.abc import Mapping
from typing import Any

from rapzel.core.document.places import Document, identified
from rapzel.core.document.upgrade import upgrade


class Present(Document):
    """A document that was raised to this version and named already. Whatever is made from it is a plain document."""


def present(document: Mapping[str, Any]) -> Present:
    """The document raised to this version, its items named; one that is so already is returned as it is.

    Never raises: what is wrong with a document is left for its reader to say.
    """
    if isinstance(document, Present):
        return document
    return Present(identified(upgrade(document)))


def fingerprint_of(document: Mapping[str, Any]) -> str:
    """A short text that is another one for every other document, and the same in whatever order its keys stand."""
    # PostgreSQL's JSONB keeps no order of keys, so none may count.
    canonical = json.dumps(document, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(canonical.encode()).hexdigest()[:16]
