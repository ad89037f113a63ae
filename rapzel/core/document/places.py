"""Places in a scene document, written as `exposure.iso` or `lights[0].power`.

An item of a list is better called by its own identity, `lights[#light-1].power`: a position means another item as
soon as one before it goes. `identified` sees to it that every light and link has one.
"""

import re
import secrets
from collections.abc import Mapping
from functools import lru_cache
from typing import Any

from rapzel.core.shared.errors import DocumentError, Problem

Document = dict[str, Any]  # a JSON object: objects, lists, texts and numbers

_STEP = re.compile(r"\.?([A-Za-z_][\w-]*)|\[(\d{1,9})\]|\[#([\w-]{1,40})\]")
# where they stand, and what one of them is called
_LISTS = {
    "lights": "light",
    "lamps": "lamp",
    "trigger.links": "link",
}


class Identity(str):
    """The identity of an item, as a step of a path."""

    __slots__ = ()


# of a path that is kept: longer than any input's, short enough for some thousand of anybody's
_KEPT_LETTERS = 120


def split(path: str) -> tuple[str | int | Identity, ...]:
    """`lights[0].power` -> ('lights', 0, 'power'). Raises DocumentError for anything that is not a path."""
    if len(path) <= _KEPT_LETTERS:
        return _kept_split(path)
    return _split(path)


def _split(path: str) -> tuple[str | int | Identity, ...]:
    steps: list[str | int | Identity] = []
    at = 0
    while at < len(path):
        match = _STEP.match(path, at)
        if not match:
            raise DocumentError(
                [
                    Problem(
                        path, "is not a place in a scene; an example is lights[0].power"
                    )
                ]
            )
        # One of the three alternatives has matched; the others are None.
        key, place, identity = match.groups()
        steps.append(key if key else int(place) if place else Identity(identity))
        at = match.end()
    return tuple(steps)


_kept_split = lru_cache(maxsize=4096)(_split)  # the inputs of some scenes


def _position(items: Any, key: str | int | Identity) -> str | int:
    """The key as Python takes it: an identity becomes the position of its item. Raises KeyError."""
    if not isinstance(key, Identity):
        return key
    for place, item in enumerate(items if isinstance(items, list | tuple) else ()):
        if isinstance(item, Mapping) and item.get("id") == key:
            return place
    raise KeyError(key)


def _within(node: Any, key: str | int) -> Any:
    """What stands at the key, None where nothing does."""
    try:
        return node[key]
    except (KeyError, IndexError, TypeError):
        return None


def located(document: Mapping[str, Any], path: str) -> str:
    """The path with positions for identities, as problems name places. Raises DocumentError where an item is gone."""
    node: Any = document
    text = ""
    for step in split(path):
        try:
            key = _position(node, step)
            node = node[key]
        except (KeyError, IndexError, TypeError):
            if isinstance(step, Identity):
                raise DocumentError(
                    [Problem(path, "is no longer in this scene")]
                ) from None
            key, node = step, None
        text += f"[{key}]" if isinstance(key, int) else f".{key}" if text else str(key)
    return text


def called(document: Mapping[str, Any], path: str) -> str:
    """The path with identities for positions, where the items have one: the reverse of `located`."""
    node: Any = document
    text = ""
    for step in split(path):
        key = _position(node, step)
        node = _within(node, key)
        # Only items of lists have identities; an object within an object is called by its key.
        if isinstance(key, int) and isinstance(node, Mapping):
            identity = node.get("id")
        else:
            identity = None
        if identity:
            shown = f"[#{identity}]"
        else:
            shown = f"[{key}]"
        text += shown if isinstance(key, int) else f".{key}" if text else str(key)
    return text


def get(document: Mapping[str, Any], path: str, default: Any = None) -> Any:
    """The value at a path, or the default where there is none."""
    node: Any = document
    for step in split(path):
        try:
            node = node[_position(node, step)]
        except (KeyError, IndexError, TypeError):
            return default
    return node


def copied(node: Any) -> Any:
    """A copy of a document, or of a part of it, down to its values.

    A document holds objects, lists, texts and numbers only, so it need not be looked at as closely as `copy.deepcopy`
    looks, which takes several times as long and is half of what a change of one value costs.
    """
    if isinstance(node, dict):
        return {key: copied(value) for key, value in node.items()}
    if isinstance(node, list | tuple):
        return [copied(value) for value in node]
    return node


def changed(document: Mapping[str, Any], changes: Mapping[str, Any]) -> dict[str, Any]:
    """A copy of the document with each path set to its value; raises DocumentError where a path leads nowhere."""
    return put(copied(dict(document)), changes)


def put(document: dict[str, Any], changes: Mapping[str, Any]) -> dict[str, Any]:
    """The document itself with each path set to its value; raises DocumentError where a path leads nowhere."""
    for path, value in changes.items():
        *parents, last = split(path)
        node: Any = document
        try:
            for step in parents:
                key = _position(node, step)
                if isinstance(node, dict):
                    # A part that an older document lacks comes into being when something in it is
                    # set.
                    node = node.setdefault(key, {})
                else:
                    node = node[key]
            node[_position(node, last)] = value
        except (KeyError, IndexError, TypeError, AttributeError):
            raise DocumentError([Problem(path, "is no longer in this scene")]) from None
    return document


def new_identity(kind: str) -> str:
    """An identity that no other item has had: `light-3f9c2a`."""
    return f"{kind}-{secrets.token_hex(3)}"


def identified(document: dict[str, Any]) -> dict[str, Any]:
    """The document with an identity for every light and link that has none, or one that another has already.

    Items of an older document are called by where they stand, so that each reading of it gives the same ones.
    """
    named = document
    for path, kind in _LISTS.items():
        items = get(document, path)
        if not _all_their_own(items):
            named = _replaced(named, path.split("."), _named(items, kind))
    return named


def _replaced(node: dict[str, Any], keys: list[str], value: Any) -> dict[str, Any]:
    """The object with the value at the end of the keys; what lies beside the way is shared, not copied."""
    first, *rest = keys
    return {**node, first: _replaced(node[first], rest, value) if rest else value}


def _all_their_own(items: Any) -> bool:
    if not isinstance(items, list) or not all(
        isinstance(item, Mapping) for item in items
    ):
        return True  # broken, and its reader says so
    names = [item.get("id") for item in items]
    return all(names) and len(set(names)) == len(names)


def _named(items: list[dict[str, Any]], kind: str) -> list[dict[str, Any]]:
    taken: set[str] = set()
    given = []
    for place, item in enumerate(items, start=1):
        identity = item.get("id")
        if not identity or identity in taken:
            # By its place first, so that reading an old file twice names its items alike.
            identity = f"{kind}-{place}"
            while identity in taken or any(
                other.get("id") == identity for other in items
            ):
                identity = new_identity(kind)
        taken.add(identity)
        given.append({**item, "id": identity})
    return given
