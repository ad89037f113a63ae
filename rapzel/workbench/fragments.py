"""Parts of the scene page that depend on nothing but scene and kit, written once for each of their states.

A scene that has not changed is looked at again and again; its inputs take longer to write than the rest of the page.
"""

from typing import Any

from django.template.loader import render_to_string
from django.utils.safestring import SafeString

from rapzel.shoots.models import Scene
from rapzel.ui.parts import written_once
from rapzel.workbench.answer import Answer


def inputs_of(scene: Scene, answer: Answer, context: dict[str, Any]) -> SafeString:
    """The inputs of a scene; `context`: kit and newer."""
    return _once("workbench/_inputs.html", scene, answer, context)


def answer_of(scene: Scene, answer: Answer, keep: bool = True) -> SafeString:
    """Sentence, proposals, margins and ribbon of a scene; not kept where it only passes by.

    Of the values that somebody steps through only the last is looked at again, and to keep a part takes as long as
    a third of writing it.
    """
    if not keep:
        return render_to_string(
            "workbench/_answer.html", {"scene": scene, "answer": answer}
        )
    return _once("workbench/_answer.html", scene, answer, {})


def _once(
    template: str, scene: Scene, answer: Answer, context: dict[str, Any]
) -> SafeString:
    state = (scene.pk, answer.fingerprint, answer.imperial, answer.narrow, context)
    return written_once(
        template, state, lambda: {**context, "scene": scene, "answer": answer}
    )
