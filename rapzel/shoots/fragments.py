"""Parts of the scene page that depend on nothing but scene and kit, written once for each of their states.

A scene that has not changed is looked at again and again; its inputs take longer to write than the rest of the page.
"""

import hashlib
from collections import OrderedDict
from threading import Lock
from typing import Any

from django.template.loader import render_to_string
from django.utils.safestring import SafeString

from rapzel.shoots.models import Scene
from rapzel.shoots.workbench import Answer

_KEPT = 120
_written: OrderedDict[tuple[Any, ...], SafeString] = OrderedDict()
_turn = Lock()


def inputs_of(scene: Scene, answer: Answer, context: dict[str, Any]) -> SafeString:
    """The inputs of a scene; `context`: kit and newer."""
    told = hashlib.sha256(repr(context).encode()).hexdigest()
    return _once("shoots/_inputs.html", scene, answer, told, context)


def answer_of(scene: Scene, answer: Answer) -> SafeString:
    """Sentence, proposals, margins and ribbon of a scene."""
    return _once("shoots/_answer.html", scene, answer, "", {})


def _once(template: str, scene: Scene, answer: Answer, told: str, context: dict[str, Any]) -> SafeString:
    key = (template, scene.pk, answer.fingerprint, answer.imperial, answer.narrow, told)
    with _turn:
        known = _written.get(key)
        if known is not None:
            _written.move_to_end(key)
            return known
    made = render_to_string(template, {**context, "scene": scene, "answer": answer})
    with _turn:
        _written[key] = made
        while len(_written) > _KEPT:
            _written.popitem(last=False)
    return made
