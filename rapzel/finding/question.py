"""What is asked of a search, as one text: equal texts have equal answers, so that an answer can be kept."""

import json

from rapzel.core.document.gear import read_strobe
from rapzel.core.document.places import Document
from rapzel.core.document.scene import Scene
from rapzel.core.possible import read_possible_scene
from rapzel.core.search.find import Kit
from rapzel.core.search.limits import Limits, read_limits
from rapzel.core.search.ways import Modifier


def question_of(document: Document, kit: Kit, limits: Limits) -> str:
    """All that an answer depends on, as one text."""
    asked = {
        "scene": document,
        "strobes": [one.model_dump(mode="json") for one in kit.strobes],
        "modifiers": [one.model_dump(mode="json") for one in kit.modifiers.values()],
        "limits": limits.model_dump(mode="json"),
    }
    return json.dumps(asked, sort_keys=True)


def read_question(text: str) -> tuple[Scene, Kit, Limits]:
    """What `question_of` wrote down."""
    asked = json.loads(text)
    modifiers = [Modifier.model_validate(one) for one in asked["modifiers"]]
    kit = Kit(
        tuple(read_strobe(one) for one in asked["strobes"]),
        {one.name: one for one in modifiers},
    )
    return read_possible_scene(asked["scene"]), kit, read_limits(asked["limits"])
