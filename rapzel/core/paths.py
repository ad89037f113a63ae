"""Places in a scene document, written as `exposure.iso` or `lights[0].power`."""

import copy
import re
from collections.abc import Mapping
from typing import Any

from rapzel.core.errors import DocumentError, Problem

_STEP = re.compile(r"\.?([A-Za-z_][\w-]*)|\[(\d+)\]")


def split(path: str) -> list[str | int]:
    """`lights[0].power` -> ['lights', 0, 'power']. Raises DocumentError for anything that is not a path."""
    steps: list[str | int] = []
    at = 0
    while at < len(path):
        found = _STEP.match(path, at)
        if not found:
            raise DocumentError([Problem(path, "is not a place in a scene; an example is lights[0].power")])
        steps.append(found[1] if found[2] is None else int(found[2]))
        at = found.end()
    return steps


def get(document: Mapping[str, Any], path: str, default: Any = None) -> Any:
    """The value at a path, or the default where there is none."""
    here: Any = document
    for key in split(path):
        try:
            here = here[key]
        except (KeyError, IndexError, TypeError):
            return default
    return here


def changed(document: Mapping[str, Any], changes: Mapping[str, Any]) -> dict[str, Any]:
    """A copy of the document with each path set to its value; raises DocumentError where a path leads nowhere."""
    result: dict[str, Any] = copy.deepcopy(dict(document))
    for path, value in changes.items():
        *parents, last = split(path)
        here: Any = result
        try:
            for key in parents:
                here = here.setdefault(key, {}) if isinstance(here, dict) else here[key]
            here[last] = value
        except (KeyError, IndexError, TypeError, AttributeError):
            raise DocumentError([Problem(path, "does not exist in this scene")]) from None
    return result
