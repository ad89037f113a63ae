"""The verbs that write to shoots and scenes. Each is one transaction; a refused change leaves everything as it was."""

import copy
from collections.abc import Iterable, Mapping
from typing import Any

from django.db import transaction

from rapzel.core.document import places
from rapzel.core.document.gear import Camera
from rapzel.core.document.places import Document
from rapzel.core.light.room import PRESETS
from rapzel.core.methods import METHODS, of_word
from rapzel.core.motion import KINDS as MOTION_KINDS
from rapzel.core.motion.kinematics import time_in_the_air_s
from rapzel.core.motion.presets import BODY_M, UsualSpeed
from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.core.trigger.links import KINDS as LINK_KINDS
from rapzel.core.verdict.look_remedies import followed_look
from rapzel.shoots.documents import judged, stored_form
from rapzel.shoots.history import item_of, rewrite
from rapzel.shoots.indirect import (
    with_flicker,
    with_following,
    with_ratios,
    with_way,
)
from rapzel.shoots.models import Scene, Shoot, Snapshot
from rapzel.ui.quota import require_room

NEW_MOTION: dict[str, Document] = {
    kind: {"kind": kind, **motion.beginning} for kind, motion in MOTION_KINDS.items()
}
NEW_CRITERION: dict[str, Document] = {
    "pixels": {"kind": "pixels", "pixels": 2.0},
    "print": {"kind": "print"},
    "viewing": {"kind": "viewing", "print_height_m": 0.4, "viewing_distance_m": 0.6},
}
NEW_SCENE: Document = {
    "format": "rapzel.scene",
    "version": 2,
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
    "exposure": {
        "method": "pulse",
        "shutter_s": 0.005,
        "f_number": 8.0,
        "iso": 200.0,
        "nd_stops": 0.0,
    },
    "criterion": NEW_CRITERION["pixels"],
    "ambient": {"ev100": 3.0},
    "lights": [],
    "trigger": {
        "fires": "camera",
        "latency_s": 0.0004,
        "links": [{"kind": "finger", **LINK_KINDS["finger"].beginning}],
    },
}


@transaction.atomic
def begin_shoot(owner: Any, name: str) -> Shoot:
    """A new shoot with one scene to begin with."""
    require_room("shoots", Shoot.objects.visible_to(owner).count())
    shoot = Shoot.objects.create(
        owner=owner, name=name, zone=getattr(owner, "zone", "")
    )
    add_scene(shoot, NEW_SCENE, "First scene")
    return shoot


@transaction.atomic
def add_scene(shoot: Shoot, document: Mapping[str, Any], name: str = "") -> Scene:
    """A new scene at the end of the shoot. Raises DocumentError if the document is refused."""
    if not isinstance(document, Mapping):
        raise DocumentError([Problem("", "a scene document is a JSON object")])
    require_room(
        "scenes in a shoot", shoot.scenes.filter(deleted_at__isnull=True).count()
    )
    # The name of the request first, then the file's own.
    called = (name or str(document.get("name") or "") or "Untitled scene")[:200]
    stored = stored_form({**document, "name": called})
    position = (
        shoot.scenes.order_by("-position").values_list("position", flat=True).first()
        or 0
    ) + 1
    return Scene.objects.create(
        shoot=shoot, name=called, position=position, document=stored
    )


# Each verb returns the revision that it changed, by which a page tells whether another one was there before it.


def change_scene(
    scene: Scene, values: Mapping[str, Any], what: str = "a change"
) -> int:
    """Sets values by path (`exposure.iso`, `lights[#light-1].power`) and what follows from them."""
    return rewrite(
        scene,
        lambda document: _with_consequences(
            places.changed(document, _by_path(document, values)), values
        ),
        what,
    )


def _by_path(document: Document, values: Mapping[str, Any]) -> dict[str, Any]:
    """The values with everything that is no place of the document replaced by what makes it so."""
    said = with_following(with_flicker(with_way(document, values)))
    return with_ratios(document, said)


def _with_consequences(document: Document, values: Mapping[str, Any]) -> Document:
    """A new kind of motion or criterion begins with usual figures of its own; the room is known one way at a time."""
    if "motion.kind" in values:
        # The direction belongs to the camera as much as to the motion, and stays.
        kept = {
            key: document["motion"][key]
            for key in ("angle_deg",)
            if key in document["motion"]
        }
        document["motion"] = {**_new(NEW_MOTION, "motion.kind", values), **kept}
    if "criterion.kind" in values:
        document["criterion"] = _new(NEW_CRITERION, "criterion.kind", values)
    if values.get("ambient.ev100") is not None:
        # An EV that is typed replaces what it was known by.
        document["ambient"].update({"lux": None, "meter": None, "sky": None})
    if "rehearsal.subject" in values:
        # another one's is not its own
        document["rehearsal"]["size_m"] = values.get("rehearsal.size_m")
        document = _with_hazards(
            document, SUBJECT_HAZARDS.get(str(values["rehearsal.subject"]), ())
        )
    word = values.get("exposure.method")
    # what is no word, the core refuses
    if isinstance(word, str):
        chosen = METHODS.get(word)
    else:
        chosen = None
    if (
        chosen is not None
        and chosen.by_hand
        and document["trigger"]["fires"] == "camera"
    ):
        # the two belong together: nothing else would fire it
        document["trigger"]["fires"] = "flash"
    # A lower leap may be over before the instant that was wanted of the higher one.
    if "motion.rise_m" in values and document["motion"]["kind"] == "leap":
        document["motion"]["from_apex_s"] = _still_in_the_air(document["motion"])
    if (
        document.get("look", {}).get("room") == "trail"
        and values.get("look.room") == "trail"
    ):
        document["look"]["trail_m"] = document["look"].get("trail_m") or BODY_M["hand"]
    wants_streaks = values.get("look.room") == "streaks"
    if wants_streaks and not document["exposure"].get("panning"):
        # Nothing else draws them.
        document["exposure"]["panning"] = {"error": None}
    if any(path.startswith("look.") for path in values):
        document = _followed(document)
    return document


def _followed(document: Document) -> Document:
    """The settings that bring the room to where somebody has just said it should be."""
    try:
        scene = judged(document)
    except DocumentError:
        return document  # it is refused as it is, with all its problems
    return places.changed(document, dict(followed_look(scene)))


# What a subject is calls for its cautions; each can be taken away again by hand.
SUBJECT_HAZARDS: dict[str, tuple[str, ...]] = {
    "drop": ("water",), "spray": ("water",), "glass": ("glass",), "archer": ("projectile",),
    "moth": ("animal",),
}  # fmt: skip


def _with_hazards(document: Document, hazards: Iterable[str]) -> Document:
    return {
        **document,
        "hazards": list(dict.fromkeys([*document.get("hazards", []), *hazards])),
    }


def _new(kinds: dict[str, Document], path: str, values: Mapping[str, Any]) -> Document:
    if not isinstance(values[path], str) or values[path] not in kinds:
        raise DocumentError([Problem(path, f"must be one of {', '.join(kinds)}")])
    return copy.deepcopy(kinds[values[path]])


def _still_in_the_air(motion: Document) -> float:
    """A lower leap is shorter: the time from its apex is kept within it."""
    rise = motion["rise_m"]
    if not isinstance(rise, int | float) or not rise > 0:
        return float(motion["from_apex_s"])  # the core refuses the rise with its path
    return float(min(motion["from_apex_s"], time_in_the_air_s(rise)))


def add_link(scene: Scene, link: Document) -> int:
    """One more link at the end of the chain."""

    def write(document: Document) -> Document:
        document["trigger"]["links"].append({**link, "id": places.new_identity("link")})
        return document

    return rewrite(scene, write, "adding a link")


def remove_link(scene: Scene, identity: str) -> int:
    """The chain without one of its links."""

    def write(document: Document) -> Document:
        links = document["trigger"]["links"]
        gone = item_of(links, identity, "link")
        document["trigger"]["links"] = [link for link in links if link is not gone]
        return document

    return rewrite(scene, write, "removing a link")


def use_speed(scene: Scene, usual: UsualSpeed) -> int:
    """A steady movement at a usual speed; direction, reach and the like stay, and what it is calls for its cautions."""

    def write(document: Document) -> Document:
        kept = ("angle_deg", "off_axis_mm", "reach_m", "speed_sd_m_s")
        own = {
            key: document["motion"][key] for key in kept if key in document["motion"]
        }
        # The range is how far such a speed may be off: it stays with the scene as its spread.
        own["speed_sd_m_s"] = usual.sd_m_s
        motion = {"kind": "steady", "speed_m_s": float(usual.usual_m_s), **own}
        return _with_hazards({**document, "motion": motion}, usual.hazards)

    return rewrite(scene, write, "a usual speed")


def use_room(scene: Scene, name: str) -> int:
    """A usual room or sky by its name."""
    return change_scene(scene, {"ambient.ev100": PRESETS[name]}, "a usual room")


def use_camera(scene: Scene, camera: Document) -> int:
    """Another body; the shutter stays where the new one has it, else at the new one's fastest."""

    def write(document: Document) -> Document:
        document["camera"] = camera
        fastest = camera.get("fastest_shutter_s")
        if fastest:
            document["exposure"]["shutter_s"] = max(
                document["exposure"]["shutter_s"], fastest
            )
        # A method that this body cannot do would make the scene impossible.
        if of_word(document["exposure"]["method"]).on_camera(
            Camera.model_validate(camera)
        ):
            document["exposure"]["method"] = "pulse"
        return document

    return rewrite(scene, write, "another camera")


def use_cutout(scene: Scene, cutout: Document, size_m: float | None) -> int:
    """Makes a cut-out the scene's subject, of that height where it is known; undo takes it back."""

    def write(document: Document) -> Document:
        document["rehearsal"].update(subject="cutout", cutout=cutout, size_m=size_m)
        return document

    return rewrite(scene, write, "the cut-out")


def remove_cutout(scene: Scene) -> int:
    """The scene without its cut-out: it rehearses with the drawn figure again; undo brings it back."""

    def write(document: Document) -> Document:
        document["rehearsal"].update(cutout=None, size_m=None)
        if document["rehearsal"]["subject"] == "cutout":
            document["rehearsal"]["subject"] = "figure"
        return document

    return rewrite(scene, write, "the cut-out's removal")


def pin_result(scene: Scene, result: Document) -> int:
    """Keeps what a tool said with the scene, under an identity of its own; the oldest of more than twenty goes."""

    def write(document: Document) -> Document:
        kept = [
            *document.get("pinned", []),
            {**result, "id": places.new_identity("result")},
        ]
        # Twenty are what a document may hold; the newest are the ones that were just wanted.
        return {**document, "pinned": kept[-20:]}

    return rewrite(scene, write, "pinning a result")


def unpin_result(scene: Scene, identity: str) -> int:
    """The scene without one of its pinned results; undo brings it back."""

    def write(document: Document) -> Document:
        gone = item_of(document.get("pinned", []), identity, "result")
        return {
            **document,
            "pinned": [result for result in document["pinned"] if result is not gone],
        }

    return rewrite(scene, write, "removing a pinned result")


def pin(scene: Scene, name: str) -> Snapshot:
    """Keeps the scene as it is now, for comparison."""
    require_room(
        "snapshots of a scene", scene.snapshots.filter(deleted_at__isnull=True).count()
    )
    count = scene.snapshots.count() + 1
    return Snapshot.objects.create(
        scene=scene,
        name=name.strip()[:120] or f"Snapshot {count}",
        document=scene.document,
    )


def restore(scene: Scene, snapshot: Snapshot) -> int:
    """Makes the scene what it was when it was pinned, under the name that it has now."""
    return rewrite(
        scene,
        lambda document: {**snapshot.document, "name": document.get("name", "")},
        f"restoring “{snapshot.name}”",
    )


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
        "zone": shoot.zone,
        "starts_at": shoot.on_its_clock(shoot.starts_at),
        "ends_at": shoot.on_its_clock(shoot.ends_at),
        "scenes": [
            scene.document for scene in shoot.scenes.filter(deleted_at__isnull=True)
        ],
    }


MOST_AT_ONCE = 200  # scenes of one file
MOST_PROBLEMS = 100  # told of one file


@transaction.atomic
def add_scenes(shoot: Shoot, documents: list[Any]) -> list[Scene]:
    """All of these scenes or none: raises DocumentError with every problem of every document, up to a hundred."""
    if len(documents) > MOST_AT_ONCE:
        raise DocumentError(
            [
                Problem(
                    "scenes",
                    f"holds {len(documents)}; up to {MOST_AT_ONCE} are taken at once",
                )
            ]
        )
    problems: list[Problem] = []
    added: list[Scene] = []
    for place, document in enumerate(documents):
        try:
            added.append(add_scene(shoot, document))
        except DocumentError as error:
            if len(documents) > 1:
                where = f"scenes[{place}]."
            else:
                where = ""
            # Every scene is tried, so that all that is wrong is told at once; the transaction
            # stores none of them then.
            problems += [
                Problem(f"{where}{each.path}", each.reason) for each in error.problems
            ]
        if len(problems) >= MOST_PROBLEMS:
            break
    if problems or not added:
        raise DocumentError(problems or [Problem("scenes", "holds no scene")])
    return added
