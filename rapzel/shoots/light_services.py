"""The verbs that write to the lights of a scene. A refused change leaves everything as it was."""

import copy

from rapzel.core.document import places
from rapzel.core.document.gear import lowest_power, read_strobe
from rapzel.core.document.places import Document
from rapzel.core.physics.lights import shortest_mode
from rapzel.core.physics.ratios import equal_powers
from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.shoots.documents import judged
from rapzel.shoots.history import item_of, rewrite
from rapzel.shoots.models import Scene

# What a new continuous light is, with usual light at 1 m [lx]; (memory), to be replaced by a meter reading.
LAMPS: dict[str, tuple[str, Document]] = {
    "lamp": ("Work lamp", {"lux_1m": 250.0, "distance_m": 2.0}),
    "video": ("Video light", {"lux_1m": 2000.0, "distance_m": 2.0}),
    "stick": ("Light stick", {"lux_1m": 300.0, "distance_m": 1.0, "lit_s": 1.0}),
}


def add_light(scene: Scene, strobe: Document, name: str = "") -> int:
    """One more light: the strobe at 1/8 power or the lowest it is known at, two metres away, on the moving part."""

    def write(document: Document) -> Document:
        # An eighth is short and still bright: where most begin to look.
        power = max(1 / 8, lowest_power(read_strobe(strobe)))
        # In the order in which lights are commonly set up.
        called = name or ("Key", "Rim", "Fill", "Back")[min(len(document["lights"]), 3)]
        light = {
            "id": places.new_identity("light"),
            "name": called,
            "power": power,
            "distance_m": 2.0,
        }
        return {
            **document,
            "lights": [*document["lights"], _in_a_mode({**light, "strobe": strobe})],
        }

    return rewrite(scene, write, "adding a light")


def _in_a_mode(light: Document) -> Document:
    """The light keeps its mode where the strobe has it; else it is used in the one whose pulse is shortest.

    Who adds a strobe here wants to stop something; a brighter mode is chosen by who needs it.
    """
    strobe = light["strobe"]
    modes = [mode["name"] for mode in strobe.get("modes", [])]
    if light.get("mode") not in modes:
        light["mode"] = shortest_mode(read_strobe(strobe), light["power"])
    return light


def remove_light(scene: Scene, identity: str) -> int:
    """The scene without one of its lights; undo brings it back."""

    def write(document: Document) -> Document:
        gone = item_of(document["lights"], identity, "light")
        return {
            **document,
            "lights": [light for light in document["lights"] if light is not gone],
        }

    return rewrite(scene, write, "removing a light")


def copy_light(scene: Scene, identity: str) -> int:
    """A second light like one that is there, beside it."""

    def write(document: Document) -> Document:
        lights = document["lights"]
        like = item_of(lights, identity, "light")
        name = f"{like['name'] or 'Light'} again"[:200]
        place = lights.index(like) + 1
        another = {
            **copy.deepcopy(like),
            "id": places.new_identity("light"),
            "name": name,
        }
        return {**document, "lights": [*lights[:place], another, *lights[place:]]}

    return rewrite(scene, write, "a second light")


def equalise_powers(scene: Scene) -> int:
    """Gives every light of the key's kind the key's power; the ratios stay, by distance."""

    def write(document: Document) -> Document:
        return places.changed(document, dict(equal_powers(judged(document))))

    return rewrite(scene, write, "equal powers")


def add_lamp(scene: Scene, kind: str) -> int:
    """One more continuous light of a kind. Raises DocumentError for a kind that is not known."""
    if kind not in LAMPS:
        raise DocumentError(
            [Problem("lamps", f"kind must be one of {', '.join(LAMPS)}")]
        )
    name, usual = LAMPS[kind]
    lamp = {"id": places.new_identity("lamp"), "name": name, "kind": kind, **usual}
    return rewrite(
        scene,
        lambda document: {**document, "lamps": [*document["lamps"], lamp]},
        "adding a lamp",
    )


def remove_lamp(scene: Scene, identity: str) -> int:
    """The scene without one of its continuous lights; undo brings it back."""

    def write(document: Document) -> Document:
        gone = item_of(document["lamps"], identity, "lamp")
        return {
            **document,
            "lamps": [lamp for lamp in document["lamps"] if lamp is not gone],
        }

    return rewrite(scene, write, "removing a lamp")


def use_strobe(
    scene: Scene, identity: str, strobe: Document, what: str = "another strobe"
) -> int:
    """Puts another strobe into a light, at the nearest power it has."""

    def write(document: Document) -> Document:
        light = item_of(document["lights"], identity, "light")
        light["strobe"] = strobe
        light["power"] = max(light["power"], lowest_power(read_strobe(strobe)))
        _in_a_mode(light)
        return document

    return rewrite(scene, write, what)
