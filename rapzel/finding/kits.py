"""What a search may use: a person's kit, a kit document, or the lights of the scene itself."""

import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from rapzel.core.document.gear import Strobe, read_strobe
from rapzel.core.document.scene import Scene
from rapzel.core.search.find import Kit
from rapzel.core.search.ways import Modifier
from rapzel.core.shared.errors import DocumentError
from rapzel.kit import exchange
from rapzel.kit import models as owned


@dataclass(frozen=True)
class Supply:
    """A kit to search with, and the names of strobes that wait for figures without which nothing can be said."""

    kit: Kit
    waiting: tuple[str, ...] = ()


@lru_cache(maxsize=200)
def _read(text: str) -> Strobe:
    """The strobe of a JSON text; the same few come again with every page and picture."""
    return read_strobe(json.loads(text))


def of_parts(
    strobes: Iterable[Mapping[str, Any]],
    modifiers: Iterable[Mapping[str, Any]],
    scene: Scene,
) -> Supply:
    """The kit in these documents; strobes of the scene that are not among them are as good as in the kit."""
    known: list[Strobe] = []
    waiting = []
    for document in strobes:
        try:
            strobe = _read(
                json.dumps({key: document[key] for key in document if key != "notes"})
            )
        except DocumentError:
            waiting.append(str(document.get("name") or "a strobe without a name"))
            continue
        # two of one name may differ in their figures
        known += [strobe] if strobe not in known else []
    for light in scene.lights:
        if light.strobe.name not in {strobe.name for strobe in known}:
            known.append(light.strobe)
    before = [
        Modifier.model_validate({key: one[key] for key in Modifier.model_fields})
        for one in modifiers
    ]
    kit = Kit(tuple(known), {one.name: one for one in before})
    return Supply(kit, tuple(dict.fromkeys(waiting)))


def of_owner(owner: Any, scene: Scene) -> Supply:
    """What a person owns."""
    strobes = owned.Strobe.objects.visible_to(owner).prefetch_related("settings")
    modifiers = owned.Modifier.objects.visible_to(owner)
    return of_parts(
        [one.to_core() for one in strobes], [one.to_core() for one in modifiers], scene
    )


def of_document(document: Any, scene: Scene) -> Supply:
    """The kit in a kit document. Raises DocumentError with all that is wrong."""
    parts = exchange.read_document(document)
    return of_parts(parts["strobes"], parts["modifiers"], scene)


def of_scene(scene: Scene) -> Supply:
    """The lights that stand in the scene."""
    return of_parts([], [], scene)
