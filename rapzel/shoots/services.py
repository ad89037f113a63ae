"""The verbs that write to shoots and scenes. Each is one transaction; a refused change leaves everything as it was."""

import copy
from collections.abc import Callable, Mapping
from typing import Any

from django.db import transaction

from rapzel.core import paths
from rapzel.core.errors import DocumentError, Problem
from rapzel.core.motion import time_in_the_air_s
from rapzel.core.plausible import read_possible_scene
from rapzel.shoots.models import Scene, SceneRevision, Shoot, Snapshot

KEPT_REVISIONS = 100
Document = dict[str, Any]

NEW_MOTION: dict[str, Document] = {
    "steady": {"kind": "steady", "speed_m_s": 8.0},
    "fall": {"kind": "fall", "height_m": 0.5},
    "leap": {"kind": "leap", "rise_m": 0.5, "from_apex_s": 0.05},
    "rotation": {"kind": "rotation", "radius_m": 0.3, "rpm": 300.0},
    "swing": {"kind": "swing", "length_m": 2.0, "angle_from_rest_deg": 45.0},
    "measured": {"kind": "measured", "distance_m": 0.2, "interval_s": 0.02},
}
NEW_CRITERION: dict[str, Document] = {
    "pixels": {"kind": "pixels", "pixels": 2.0},
    "print": {"kind": "print"},
    "viewing": {"kind": "viewing", "print_height_m": 0.4, "viewing_distance_m": 0.6},
}
NEW_SCENE: Document = {
    "format": "rapzel.scene",
    "version": 1,
    "motion": NEW_MOTION["steady"],
    "camera": {
        "name": "Full-frame body",
        "sensor_width_mm": 36.0,
        "sensor_height_mm": 24.0,
        "pixels_wide": 6000,
        "pixels_high": 4000,
        "shutter": "focal_plane",
        "sync_speed_s": 0.004,
        "curtain_travel_s": 0.0032,
        "lag_s": 0.055,
        "lag_jitter_s": 0.002,
    },
    "lens": {"focal_length_mm": 50.0, "subject_distance_m": 4.0},
    "exposure": {"method": "pulse", "shutter_s": 0.005, "f_number": 8.0, "iso": 200.0, "nd_stops": 0.0},
    "criterion": NEW_CRITERION["pixels"],
    "ambient": {"ev100": 3.0},
    "lights": [],
    "trigger": {"fires": "camera", "latency_s": 0.0004, "links": [], "set_delay_s": 0.0, "wanted_delay_s": None},
}


@transaction.atomic
def begin_shoot(owner: Any, name: str) -> Shoot:
    """A new shoot with one scene to begin with."""
    shoot = Shoot.objects.create(owner=owner, name=name)
    add_scene(shoot, NEW_SCENE, "First scene")
    return shoot


@transaction.atomic
def add_scene(shoot: Shoot, document: Mapping[str, Any], name: str = "") -> Scene:
    """A new scene at the end of the shoot. Raises DocumentError if the document is refused."""
    called = (name or str(document.get("name") or "") or "Untitled scene")[:200]
    stored = read_possible_scene({**document, "name": called}).to_document()
    position = (shoot.scenes.order_by("-position").values_list("position", flat=True).first() or 0) + 1
    return Scene.objects.create(shoot=shoot, name=called, position=position, document=stored)


@transaction.atomic
def rewrite(scene: Scene, write: Callable[[Document], Document], what: str) -> Scene:
    """Changes a scene's document under a lock, keeping what it was for undo.

    `write` gets the stored document and returns the new one; what it returns must be a possible scene, else
    DocumentError is raised and nothing is stored. A change that changes nothing leaves no trace.
    """
    locked = Scene.objects.select_for_update(of=("self",)).get(pk=scene.pk)
    document = write(copy.deepcopy(locked.document))
    stored = read_possible_scene(document).to_document()
    if stored != locked.document:
        SceneRevision.objects.create(scene=locked, number=locked.revision, document=locked.document, before=what[:200])
        SceneRevision.objects.filter(scene=locked, number__lte=locked.revision - KEPT_REVISIONS).delete()
        locked.document, locked.name = stored, stored["name"] or locked.name
        locked.revision += 1
        locked.save(update_fields=["document", "name", "revision", "changed_at"])
    scene.document, scene.name, scene.revision = locked.document, locked.name, locked.revision
    return scene


def change_scene(scene: Scene, values: Mapping[str, Any], what: str = "a change") -> Scene:
    """Sets values by path (`exposure.iso`, `lights[0].power`) and what follows from them."""
    return rewrite(scene, lambda document: _with_consequences(paths.changed(document, values), values), what)


def _with_consequences(document: Document, values: Mapping[str, Any]) -> Document:
    """A new kind of motion or criterion begins with usual figures of its own; the room is known one way at a time."""
    if "motion.kind" in values:
        kept = {key: document["motion"][key] for key in ("angle_deg",) if key in document["motion"]}
        document["motion"] = {**_new(NEW_MOTION, "motion.kind", values), **kept}
    if "criterion.kind" in values:
        document["criterion"] = _new(NEW_CRITERION, "criterion.kind", values)
    if "ambient.ev100" in values:
        document["ambient"].update({"lux": None, "meter": None})
    if "motion.rise_m" in values and document["motion"]["kind"] == "leap":
        document["motion"]["from_apex_s"] = _still_in_the_air(document["motion"])
    return document


def _new(kinds: dict[str, Document], path: str, values: Mapping[str, Any]) -> Document:
    if values[path] not in kinds:
        raise DocumentError([Problem(path, f"must be one of {', '.join(kinds)}")])
    return copy.deepcopy(kinds[values[path]])


def _still_in_the_air(motion: Document) -> float:
    """A lower leap is shorter: the time from its apex is kept within it."""
    rise = motion["rise_m"]
    if not isinstance(rise, int | float) or not rise > 0:
        return float(motion["from_apex_s"])  # the core refuses the rise with its path
    return float(min(motion["from_apex_s"], time_in_the_air_s(rise)))


@transaction.atomic
def undo(scene: Scene) -> SceneRevision | None:
    """Takes the last change back; returns what was undone, None when there is nothing left."""
    locked = Scene.objects.select_for_update(of=("self",)).get(pk=scene.pk)
    last = locked.revisions.first()
    if last is None:
        return None
    locked.document, locked.name = last.document, last.document.get("name") or locked.name
    locked.revision = last.number
    locked.save(update_fields=["document", "name", "revision", "changed_at"])
    last.delete()
    scene.document, scene.name, scene.revision = locked.document, locked.name, locked.revision
    return last


def add_light(scene: Scene, strobe: Document, name: str = "") -> Scene:
    """One more light: the strobe at 1/8 power, two metres away, on the moving part."""

    def write(document: Document) -> Document:
        power = max(1 / 8, strobe.get("min_power") or 0.0)
        called = name or ("Key", "Rim", "Fill", "Back")[min(len(document["lights"]), 3)]
        light = {"name": called, "power": power, "distance_m": 2.0, "loss_stops": 0.0, "strobe": strobe}
        return {**document, "lights": [*document["lights"], _in_a_mode(light)]}

    return rewrite(scene, write, "adding a light")


def _in_a_mode(light: Document) -> Document:
    """The light keeps its mode where the strobe has it; a strobe that has modes only is else used in its first one."""
    strobe = light["strobe"]
    modes = [mode["name"] for mode in strobe.get("modes", [])]
    if light.get("mode") not in modes:
        light["mode"] = modes[0] if modes and not strobe.get("durations") else None
    return light


def remove_light(scene: Scene, place: int) -> Scene:
    """The scene without one of its lights; undo brings it back."""

    def write(document: Document) -> Document:
        if not 0 <= place < len(document["lights"]):
            raise DocumentError([Problem(f"lights[{place}]", "there is no such light")])
        return {**document, "lights": [light for at, light in enumerate(document["lights"]) if at != place]}

    return rewrite(scene, write, "removing a light")


def use_strobe(scene: Scene, place: int, strobe: Document) -> Scene:
    """Puts another strobe into a light, at the nearest power it has."""

    def write(document: Document) -> Document:
        light = document["lights"][place]
        light["strobe"] = strobe
        light["power"] = max(light["power"], strobe.get("min_power") or 0.0)
        _in_a_mode(light)
        return document

    if place >= len(scene.document["lights"]):
        raise DocumentError([Problem(f"lights[{place}]", "there is no such light")])
    return rewrite(scene, write, "another strobe")


def add_link(scene: Scene, link: Document) -> Scene:
    """One more link at the end of the chain."""

    def write(document: Document) -> Document:
        document["trigger"]["links"].append(link)
        return document

    return rewrite(scene, write, "adding a link")


def remove_link(scene: Scene, place: int) -> Scene:
    """The chain without one of its links."""

    def write(document: Document) -> Document:
        links = document["trigger"]["links"]
        document["trigger"]["links"] = [link for at, link in enumerate(links) if at != place]
        return document

    return rewrite(scene, write, "removing a link")


def use_speed(scene: Scene, speed_m_s: float) -> Scene:
    """A steady movement at that speed [m/s]; direction, reach and the like stay."""

    def write(document: Document) -> Document:
        kept = ("angle_deg", "off_axis_mm", "reach_m", "speed_sd_m_s")
        own = {key: document["motion"][key] for key in kept if key in document["motion"]}
        return {**document, "motion": {"kind": "steady", "speed_m_s": speed_m_s, **own}}

    return rewrite(scene, write, "a usual speed")


def use_camera(scene: Scene, camera: Document) -> Scene:
    """Another body; the shutter stays where the new one has it, else at the new one's fastest."""

    def write(document: Document) -> Document:
        document["camera"] = camera
        fastest = camera.get("fastest_shutter_s")
        if fastest:
            document["exposure"]["shutter_s"] = max(document["exposure"]["shutter_s"], fastest)
        if document["exposure"]["method"] == "hss" and camera["shutter"] in ("leaf", "global"):
            document["exposure"]["method"] = "pulse"
        return document

    return rewrite(scene, write, "another camera")


def pin(scene: Scene, name: str) -> Snapshot:
    """Keeps the scene as it is now, for comparison."""
    count = scene.snapshots.count() + 1
    return Snapshot.objects.create(scene=scene, name=name.strip()[:120] or f"Snapshot {count}", document=scene.document)


def shoot_document(shoot: Shoot) -> Document:
    """The shoot with its scenes as one JSON document."""
    return {
        "format": "rapzel.shoot",
        "version": 1,
        "name": shoot.name,
        "client": shoot.client,
        "place": shoot.place,
        "people": shoot.people,
        "notes": shoot.notes,
        "starts_at": shoot.starts_at.isoformat() if shoot.starts_at else None,
        "ends_at": shoot.ends_at.isoformat() if shoot.ends_at else None,
        "scenes": [scene.document for scene in shoot.scenes.filter(deleted_at__isnull=True)],
    }


@transaction.atomic
def add_scenes(shoot: Shoot, documents: list[Any]) -> list[Scene]:
    """All of these scenes or none: raises DocumentError with every problem of every document."""
    problems: list[Problem] = []
    added: list[Scene] = []
    for place, document in enumerate(documents):
        try:
            added.append(add_scene(shoot, read_possible_scene(document).to_document()))
        except DocumentError as error:
            where = f"scenes[{place}]." if len(documents) > 1 else ""
            problems += [Problem(f"{where}{each.path}", each.reason) for each in error.problems]
    if problems or not added:
        raise DocumentError(problems or [Problem("scenes", "holds no scene")])
    return added
