"""What moves? A scene of one of a dozen motions, with the best set-up of the kit and its delay worked out."""

import copy
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from rapzel.core.document.places import Document, changed
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.physics import Physics
from rapzel.core.search.compare import compare
from rapzel.core.search.limits import Limits
from rapzel.core.shared import constants
from rapzel.finding import kits
from rapzel.finding.motions import BEGINNINGS, Beginning
from rapzel.kit.models import Camera, Strobe
from rapzel.kit.services import starter_document
from rapzel.shoots.models import Scene as SceneRow
from rapzel.shoots.models import Shoot
from rapzel.shoots.services import NEW_SCENE, add_scene
from rapzel.ui.quota import require_room

__all__ = ["BEGINNINGS", "Beginning", "Begun", "begin"]


@dataclass(frozen=True)
class Begun:
    """A new scene, and whether it was lit with the starter's lights for want of own ones."""

    scene: SceneRow
    with_starter: bool


@transaction.atomic
def begin(owner: Any, beginning: Beginning, shoot: Shoot | None = None) -> Begun:
    """A scene of that motion, in a shoot of its own or in one that is there, with the best set-up of the kit."""
    if shoot is None:
        # A shoot of its own needs room for one more; a scene in one that is there does not.
        require_room("shoots", Shoot.objects.visible_to(owner).count())
        shoot = Shoot.objects.create(owner=owner, name=beginning.title)
    scene = _scene(owner, beginning)
    own = list(Strobe.objects.visible_to(owner).prefetch_related("settings"))
    supply = kits.of_parts([one.to_core() for one in own], [], scene)
    # Nobody should have to type a kit in to see a first answer; the page says whose lights these
    # are.
    starter = not supply.kit.strobes
    if starter:
        supply = kits.of_parts(starter_document()["strobes"], [], scene)
    document = _best_of(scene, supply, beginning)
    return Begun(add_scene(shoot, document, beginning.title), starter)


def _scene(owner: Any, beginning: Beginning) -> Scene:
    """The scene without lights."""
    # The person's own body decides pixels and sync speed; the first one is as good a guess as any.
    camera = Camera.objects.visible_to(owner).first()
    document = copy.deepcopy(NEW_SCENE)
    if camera is not None:
        document["camera"] = camera.to_core()
    document["camera"].update(_usual_lag(document["camera"]))
    return read_scene(changed(document, beginning.values()))


def _usual_lag(camera: Document) -> Document:
    """The usual release lag of such a body, marked as estimated, where its own is not known."""
    if camera.get("lag_s") is not None:
        return {}
    usual = constants.USUAL_LAG_S[camera.get("shutter", "focal_plane")]
    jitter = camera.get("lag_jitter_s")
    if jitter is None:
        jitter = constants.USUAL_LAG_JITTER_S
    return {"lag_s": usual, "lag_jitter_s": jitter, "lag_provenance": "estimated"}


def _best_of(scene: Scene, supply: kits.Supply, beginning: Beginning) -> Document:
    """The recommended set-up within the usual limits, or the nearest; the scene without lights where there is none."""
    # Lights stand between a quarter of the camera's distance and that distance, never in the way.
    near = max(scene.lens.subject_distance_m * 0.25, 0.3)
    limits = Limits(
        iso=(100, 1600), f_number=(4, 11), distance_m=(near, near * 4), lights=2
    )
    # What is over before a camera has opened is lit into an open shutter, by the sensor itself.
    if beginning.direct:
        limits = limits.relaxed(methods=("open_shutter",))
    comparison = compare(scene, supply.kit, limits)
    shown: Iterable[Any] = (column.shown for column in comparison.columns)
    # The recommended column comes first; where nothing works, the nearest is shown with what fails.
    hit = next((one for one in shown if one is not None), None)
    if hit is None:
        return scene.to_document()
    return _on_time(hit.document)


def _on_time(document: Document) -> Document:
    """The scene with the delay that its chain leaves; a finger presses ahead by what the chain takes too long."""
    needed = Physics(read_scene(document)).timing.needed_delay_s
    if needed is None:
        return document
    if needed >= 0:
        return changed(document, {"trigger.set_delay_s": round(needed, 5)})
    links = document["trigger"]["links"]
    ahead = [
        place for place, link in enumerate(links) if link.get("way") == "anticipates"
    ]
    if not ahead:
        return document
    lead = round(links[ahead[0]].get("lead_s", 0.0) - needed, 4)
    return changed(document, {f"trigger.links[{ahead[0]}].lead_s": lead})
