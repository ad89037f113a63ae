"""Stored scenes that a newer rule refuses: what is wrong, where, and mending it in place. Nothing is lost."""

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from rapzel.core.document import places
from rapzel.core.document.places import Document
from rapzel.core.document.present import present
from rapzel.core.shared.errors import CoreError, DocumentError, Problem
from rapzel.shoots.history import rewrite
from rapzel.shoots.models import Scene
from rapzel.ui.http import parse_json
from rapzel.workbench.groups import field_at

_LONGEST_SHOWN = 2000


@dataclass(frozen=True)
class Place:
    """One place that is refused: what it is called, why, and what stands there as a person would type it."""

    path: str
    label: str
    reasons: list[str]
    text: str
    hint: str

    @property
    def long(self) -> bool:
        """Whether it needs more than a line."""
        return len(self.text) > 60


def _as_text(document: Document, path: str) -> str:
    """The value at a place, as an input would show it, else as JSON; nothing where nothing stands."""
    field = _field(document, path)
    if field is not None:
        return str(field.text)
    if path:
        value = places.get(document, path)
    else:
        value = document
    if value is None:
        return ""
    return json.dumps(value, ensure_ascii=False)[:_LONGEST_SHOWN]


def _field(document: Document, path: str) -> Any:
    """The input of a place; None where there is none, or where the scene is too broken to have inputs."""
    try:
        if path:
            return field_at(document, places.called(document, path))
        return None
    except (CoreError, KeyError, TypeError, ValueError, AttributeError, IndexError):
        return None


def places_of(
    document: Mapping[str, Any],
    problems: Iterable[Problem],
    typed: Mapping[str, str] | None = None,
) -> list[Place]:
    """The places that are refused, each once, with what was typed there last."""
    # The paths of the problems are those of this version.
    raised = present(document)
    reasons: dict[str, list[str]] = {}
    for problem in problems:
        reasons.setdefault(problem.path, []).append(problem.reason)
    found = []
    for path, why in reasons.items():
        field = _field(raised, path)
        if typed and path in typed:
            text = typed[path]
        else:
            text = _as_text(raised, path)
        if field:
            hint = field.hint or "as people write it"
        else:
            hint = "JSON; empty takes it away"
        found.append(
            Place(path, field.label if field else path or "the scene", why, text, hint)
        )
    return found


def _value(document: Document, path: str, text: str) -> Any:
    """What was typed, in the words of the place's input where it has one, else as JSON or plain text."""
    field = _field(document, path)
    if field is not None:
        return field.read(text, document, False)
    try:
        return parse_json(text)
    except DocumentError:
        return text


def _without(document: Document, path: str) -> Document:
    """The document without what stands at a path."""
    *parents, last = places.split(path)
    changed = places.changed(document, {})
    node: Any = changed
    for step in parents:
        node = node[step]
    if isinstance(node, dict):
        node.pop(str(last), None)
    elif isinstance(last, int):
        del node[last]
    return changed


def with_typed(document: Mapping[str, Any], typed: Mapping[str, str]) -> Document:
    """The document with what was typed set; what cannot be set or read is left as it is."""
    mended: Document = present(document)
    for path, text in typed.items():
        try:
            if not path:
                whole = parse_json(text)
                if isinstance(whole, dict):
                    mended = whole
            # Emptied: the figure is taken away, and what is not needed may go.
            elif not text.strip():
                mended = _without(mended, path)
            else:
                mended = places.changed(mended, {path: _value(mended, path, text)})
        except (CoreError, KeyError, IndexError, TypeError):
            continue  # judged with the whole: the place is refused again, and says why
    return mended


def mend(scene: Scene, typed: Mapping[str, str]) -> int:
    """Sets what was typed for the refused places. Raises DocumentError while the scene is still refused."""
    return rewrite(
        scene, lambda document: with_typed(document, typed), "mending the scene"
    )
