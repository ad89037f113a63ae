"""What moves? A dozen motions with usual figures, each of which makes a scene that answers at once."""

import copy
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from django.db import transaction

from rapzel.core.document.places import Document, changed
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.search.compare import compare
from rapzel.core.search.limits import Limits
from rapzel.core.trigger.links import KINDS as LINK_KINDS
from rapzel.finding import kits
from rapzel.kit.models import Camera, Strobe
from rapzel.kit.services import starter_document
from rapzel.shoots.models import Scene as SceneRow
from rapzel.shoots.models import Shoot
from rapzel.shoots.services import NEW_SCENE, add_scene
from rapzel.ui.quota import require_room


@dataclass(frozen=True)
class Beginning:
    """One motion to begin with: its picture, its figures (usual ones, common practice) and what it calls for."""

    key: str
    title: str
    subject: str
    says: str
    motion: Document
    frame: tuple[float, float]  # focal length [mm], distance of the subject [m]
    # (the room as such things are usually shot in: a hall, a studio, an evening)
    ev100: float
    hazards: tuple[str, ...] = ()
    link: str = ""  # what triggers it; a finger where nothing is said


def _steady(speed_m_s: float, sd_m_s: float = 0.0) -> Document:
    return {"kind": "steady", "speed_m_s": speed_m_s, "speed_sd_m_s": sd_m_s}


# A finger that knows the movement anticipates it.
# The one trigger that everybody has at hand.
_FINGER = {"kind": "finger", **LINK_KINDS["finger"].beginning, "way": "anticipates"}


BEGINNINGS: dict[str, Beginning] = {
    one.key: one
    for one in (
        Beginning(
            "leap",
            "A leap",
            "dancer",
            "half a metre high, 2 m/s along the floor",
            {"kind": "leap", "rise_m": 0.5, "from_apex_s": 0.05, "horizontal_m_s": 2.0},
            (50.0, 5.0),
            4.0,
            ("performer",),
        ),
        Beginning(
            "turn",
            "A turn",
            "turner",
            "a turn in a second, hand at 70 cm",
            {"kind": "rotation", "radius_m": 0.7, "rpm": 60.0},
            (50.0, 5.0),
            4.0,
            ("performer",),
        ),
        Beginning(
            "kick",
            "A kick or punch",
            "kicker",
            "a foot at 18 m/s",
            _steady(18.0, 2.0),
            (50.0, 4.0),
            5.0,
            ("athlete",),
        ),
        Beginning(
            "run",
            "A run",
            "runner",
            "a swinging foot at 13 m/s",
            _steady(13.0, 1.5),
            (85.0, 8.0),
            6.0,
            ("athlete",),
        ),
        Beginning(
            "wheels",
            "A jump on wheels",
            "skater",
            "80 cm high, 5 m/s along the ground",
            {"kind": "leap", "rise_m": 0.8, "from_apex_s": 0.05, "horizontal_m_s": 5.0},
            (35.0, 4.0),
            6.0,
            ("athlete", "public"),
        ),
        Beginning(
            "swing",
            "A swing of a racket or sword",
            "racket",
            "a racket's head at 32 m/s",
            _steady(32.0, 4.0),
            (50.0, 3.5),
            5.0,
            ("athlete",),
        ),
        Beginning(
            "spray",
            "Spray or splash",
            "spray",
            "threads of water at 3 m/s",
            _steady(3.0),
            (85.0, 2.0),
            3.0,
            ("water",),
        ),
        Beginning(
            "drop",
            "A drop",
            "drop",
            "falls 25 cm, 2.2 m/s",
            {"kind": "fall", "height_m": 0.25},
            (100.0, 0.5),
            3.0,
            ("water",),
            "beam",
        ),
        Beginning(
            "glass",
            "Breaking glass",
            "glass",
            "shards at 10 m/s",
            _steady(10.0, 3.0),
            (85.0, 2.0),
            3.0,
            ("glass",),
            "sound",
        ),
        Beginning(
            "balloon",
            "A balloon",
            "balloon",
            "its skin at 30 m/s",
            _steady(30.0, 6.0),
            (50.0, 3.0),
            3.0,
            ("water",),
            "sound",
        ),
        Beginning(
            "wings",
            "An insect or bird at a feeder",
            "moth",
            "a wing tip at 4 m/s",
            _steady(4.0),
            (100.0, 1.0),
            2.0,
            ("animal", "unattended"),
            "beam",
        ),
        Beginning(
            "machine",
            "A machine part",
            "machine",
            "1000 turns a minute, teeth at 8 cm",
            {"kind": "rotation", "radius_m": 0.08, "rpm": 1000.0},
            (85.0, 1.5),
            5.0,
        ),
    )
}


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
    document = _best_of(scene, supply)
    return Begun(add_scene(shoot, document, beginning.title), starter)


def _scene(owner: Any, beginning: Beginning) -> Scene:
    """The scene without lights."""
    # The person's own body decides pixels and sync speed; the first one is as good a guess as any.
    camera = Camera.objects.visible_to(owner).first()
    document = copy.deepcopy(NEW_SCENE)
    if camera is not None:
        document["camera"] = camera.to_core()
    focal, distance = beginning.frame
    values = {
        "name": beginning.title,
        "motion": beginning.motion,
        "lens.focal_length_mm": focal,
        "lens.subject_distance_m": distance,
        "ambient": {"ev100": beginning.ev100},
        # Sharp on paper: pixels would ask of a beginner what a pixel of smear means.
        "criterion": {"kind": "print"},
        "hazards": list(beginning.hazards),
        "rehearsal": {"subject": beginning.subject},
    }
    kind = beginning.link
    if kind:
        link = {"kind": kind, **LINK_KINDS[kind].beginning}
    else:
        link = _FINGER
    values["trigger.links"] = [link]
    return read_scene(changed(document, values))


def _best_of(scene: Scene, supply: kits.Supply) -> Document:
    """The recommended set-up within the usual limits, or the nearest; the scene without lights where there is none."""
    # Lights stand between a quarter of the camera's distance and that distance, never in the way.
    near = max(scene.lens.subject_distance_m * 0.25, 0.3)
    limits = Limits(
        iso=(100, 1600), f_number=(4, 11), distance_m=(near, near * 4), lights=2
    )
    comparison = compare(scene, supply.kit, limits)
    shown: Iterable[Any] = (column.shown for column in comparison.columns)
    # The recommended column comes first; where nothing works, the nearest is shown with what fails.
    hit = next((one for one in shown if one is not None), None)
    if hit is None:
        return scene.to_document()
    return hit.document
