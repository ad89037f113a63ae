"""One row for each way to stop motion. Nothing outside this file asks for a method by its name.

A new way is one `Method` in `METHODS`; where the document needs a new word for it, that word joins
`Exposure.method`. `recipe` turns a scene into the same scene by this method.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

from rapzel.core.document.gear import Camera, Strobe
from rapzel.core.document.places import Document, changed
from rapzel.core.document.scene import Scene
from rapzel.core.shared import constants
from rapzel.core.shared.units import SHUTTERS_S, format_shutter, format_time


@dataclass(frozen=True)
class Method:
    """A way to stop motion, on the same terms as every other."""

    key: str
    title: str
    word: str  # of `exposure.method` in the document
    stopped_by: Literal["pulse", "shutter"]  # what ends the light on the subject
    pulsed: bool  # whether a pulse must meet the opening
    # whether the flash burns as a pulse train while the slit crosses the frame
    train: bool
    light_from: Literal["contact", "first row", "middle"]  # when the light starts
    effort: int  # how much there is to set up; of equals the lesser is proposed
    by_hand: bool  # whether the shutter is opened by hand before the event
    on_the_body: str  # how the camera is set for it, as a run sheet says it
    applies: Callable[[Scene], bool]  # whether a scene with that word is this method
    recipe: Callable[[Document], Document]
    on_camera: Callable[[Camera], str]  # why this body cannot; empty where it can
    on_strobe: Callable[[Strobe], str]  # why this strobe cannot; empty where it can
    # what makes it impossible as set; empty where nothing does
    conflict: Callable[[Scene], str]
    # words, values by path
    remedy: tuple[tuple[str, tuple[tuple[str, Any], ...]], ...] = ()
    filtered: bool = False  # whether a filter belongs to it
    # whether the flash burns down while the slit crosses, lit before the contact
    leads: bool = False

    @property
    def flashes(self) -> bool:
        """Whether any flash takes part."""
        return self.pulsed or self.train or self.leads

    @property
    def through_slit(self) -> bool:
        """Whether every row takes its own part of the flash, so that nothing is known without the edge's travel."""
        return self.train or self.leads

    @property
    def room_apart(self) -> bool:
        """Whether a pulse stops the motion and the shutter the room, so that the two trail apart."""
        return self.stopped_by == "pulse"

    def travel_s(self, camera: Camera) -> float | None:
        """T_c: how long the edge takes to cross the frame [s]; 0 where it opens at once, None where not known."""
        whole = self.by_hand or camera.shutter in ("leaf", "global")
        if whole:
            return 0.0
        return camera.curtain_travel_s


def _any(_: Any) -> str:
    return ""


def _nd(scene: Scene) -> bool:
    return scene.exposure.nd_stops > 0


def _has_shutter(*kinds: str) -> Callable[[Scene], bool]:
    return lambda scene: scene.camera.shutter in kinds


def _nothing_opens(scene: Scene) -> str:
    if scene.trigger.fires == "flash":
        return "nothing opens the shutter: choose open shutter, or let the trigger fire the camera"
    return ""


def _open_by_hand(scene: Scene) -> str:
    if scene.trigger.fires == "camera":
        return "nothing fires the flash while the shutter stands open: let the trigger fire it"
    if scene.exposure.shutter_s < constants.OPEN_BY_HAND_S:
        return f"nobody opens a shutter by hand for {format_shutter(scene.exposure.shutter_s)}: open it for 1 s"
    return ""


def _slow_readout(scene: Scene) -> str:
    opposed = _nothing_opens(scene)
    travel = scene.camera.curtain_travel_s
    if not opposed and travel is not None and travel > constants.LONGEST_HSS_S:
        return f"a readout of {format_time(travel)} outlasts a pulse train: use a mechanical curtain"
    return opposed


def _no_hss_camera(camera: Camera) -> str:
    if camera.shutter in ("leaf", "global"):
        return "high-speed sync belongs to a focal-plane or rolling shutter; use pulse"
    return ""


def _opens_at_once(camera: Camera) -> str:
    if camera.shutter in ("leaf", "global"):
        return "a frame that opens at once needs no long pulse; use pulse"
    return ""


def _hss_strobe(strobe: Strobe) -> str:
    if strobe.hss:
        return ""
    return "has no high-speed sync"


def _needs(*kinds: str) -> Callable[[Camera], str]:
    words = {"leaf": "a leaf shutter", "global": "a global shutter"}
    wanted = " or ".join(words[kind] for kind in kinds)
    return lambda camera: "" if camera.shutter in kinds else f"needs {wanted}"


def _sync_shutter(document: Document) -> float:
    """The marked shutter speed at or just above the camera's sync speed [s]."""
    sync = document["camera"].get("sync_speed_s", 0.005)
    return next((mark for mark in sorted(SHUTTERS_S) if mark >= sync * 0.98), sync)


def _by_pulse(document: Document) -> Document:
    shutter = max(document["exposure"]["shutter_s"], _sync_shutter(document))
    values = {
        "exposure.method": "pulse",
        "exposure.shutter_s": shutter,
        "trigger.fires": "camera",
    }
    return changed(document, values)


def _by_hss(document: Document) -> Document:
    shutter = min(document["exposure"]["shutter_s"], 1 / 1000)
    return changed(
        document,
        {
            "exposure.method": "hss",
            "exposure.shutter_s": shutter,
            "trigger.fires": "camera",
        },
    )


def _by_long_pulse(document: Document) -> Document:
    """Full power: the longest pulse that the lights have."""
    shutter = min(document["exposure"]["shutter_s"], 1 / 1000)
    full = {f"lights[{place}].power": 1.0 for place, _ in enumerate(document["lights"])}
    values = {
        "exposure.method": "long_pulse",
        "exposure.shutter_s": shutter,
        "trigger.fires": "camera",
    }
    return changed(document, {**values, **full})


def _by_shutter(document: Document) -> Document:
    shutter = min(document["exposure"]["shutter_s"], 1 / 1000)
    return changed(
        document,
        {
            "exposure.method": "ambient",
            "exposure.shutter_s": shutter,
            "trigger.fires": "camera",
        },
    )


def _by_nd(document: Document) -> Document:
    return changed(
        _by_pulse(document),
        {"exposure.nd_stops": document["exposure"].get("nd_stops") or 3.0},
    )


def _by_hand(document: Document) -> Document:
    shutter = max(document["exposure"]["shutter_s"], 1.0)
    return changed(
        document,
        {
            "exposure.method": "open_shutter",
            "exposure.shutter_s": shutter,
            "trigger.fires": "flash",
        },
    )


def _at_once(document: Document) -> Document:
    return changed(document, {"exposure.method": "pulse", "trigger.fires": "camera"})


_FIRE_CAMERA = ("trigger fires the camera", (("trigger.fires", "camera"),))
_FIRE_FLASH = ("trigger fires the flash", (("trigger.fires", "flash"),))
_OPEN = (
    "open shutter, 1 s",
    (
        ("exposure.method", "open_shutter"),
        ("exposure.shutter_s", 1.0),
        ("trigger.fires", "flash"),
    ),
)


def _pulsed(key: str, title: str, on_the_body: str, **more: Any) -> Method:
    """A pulse that meets an opening: the pulse stops the motion, the shutter only the room."""
    usual: dict[str, Any] = {
        "word": "pulse",
        "light_from": "contact",
        "by_hand": False,
        "recipe": _at_once,
        "on_camera": _any,
        "conflict": _nothing_opens,
        "remedy": (_OPEN, _FIRE_CAMERA),
        "effort": 1,
    }
    return Method(
        key=key,
        title=title,
        on_the_body=on_the_body,
        stopped_by="pulse",
        pulsed=True,
        train=False,
        on_strobe=_any,
        **(usual | more),
    )


def _by_the_shutter(key: str, title: str, on_the_body: str, **more: Any) -> Method:
    """Light that lasts as long as each row is open: the shutter stops the motion, and the room with it."""
    usual: dict[str, Any] = {
        "word": key,
        "train": False,
        "applies": lambda scene: True,
        "on_camera": _any,
        "on_strobe": _any,
        "conflict": _any,
    }
    return Method(
        key=key,
        title=title,
        on_the_body=on_the_body,
        stopped_by="shutter",
        pulsed=False,
        by_hand=False,
        light_from="first row",
        **(usual | more),
    )


# Rows of one word are asked in this order: what camera or filter makes of it comes before the plain one.
_ROWS = (
    _pulsed(
        "global", "global shutter", "flash, global shutter",
        applies=_has_shutter("global"), on_camera=_needs("global"),
    ),
    _pulsed(
        "leaf", "leaf shutter", "flash, leaf shutter",
        applies=_has_shutter("leaf"), on_camera=_needs("leaf"),
    ),
    _pulsed(
        "nd", "short pulse with an ND filter", "flash at or below sync, ND filter on",
        applies=_nd, recipe=_by_nd, effort=3, filtered=True,
    ),
    _pulsed(
        "pulse", "short pulse, at or below sync", "flash at or below sync",
        applies=lambda scene: True, recipe=_by_pulse,
    ),
    _by_the_shutter(
        "hss", "high-speed sync", "high-speed sync on",
        train=True, recipe=_by_hss, effort=2, on_camera=_no_hss_camera, on_strobe=_hss_strobe,
        conflict=_slow_readout, remedy=(_FIRE_CAMERA,),
    ),
    _by_the_shutter(
        "long_pulse", "long pulse as continuous light",
        "a trigger that leads the sync contact, high-speed sync off",
        leads=True, recipe=_by_long_pulse, effort=3, on_camera=_opens_at_once,
        conflict=_nothing_opens, remedy=(_FIRE_CAMERA,),
    ),
    _by_the_shutter(
        "ambient", "no flash, shutter alone", "no flash",
        recipe=_by_shutter, conflict=_nothing_opens, remedy=(_FIRE_CAMERA,), effort=0,
    ),
    _pulsed(
        "open_shutter", "open shutter, trigger fires the flash", "bulb, shutter open in the dark",
        word="open_shutter", light_from="middle", by_hand=True, effort=3, applies=lambda scene: True,
        recipe=_by_hand, conflict=_open_by_hand, remedy=(_FIRE_FLASH, _OPEN),
    ),
)  # fmt: skip
METHODS: dict[str, Method] = {method.key: method for method in _ROWS}


def method_of(scene: Scene) -> Method:
    """The method of a scene: the first row whose word it says and that applies to its camera and filter."""
    return next(
        row for row in _ROWS if row.word == scene.exposure.method and row.applies(scene)
    )


def of_word(word: str) -> Method:
    """The plain method that a word of the document stands for, whatever the camera."""
    return METHODS[word]
