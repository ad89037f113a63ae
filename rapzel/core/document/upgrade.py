"""Older scene documents raised to the present version; nothing is read without it.

Version 1 wrote zero where a thing was not known: no curtain crosses a frame in no time and no body releases in none,
so such zeros become null. The wanted delay becomes the moment's instant, and a link of fixed lag a device.
"""

from collections.abc import Mapping
from typing import Any

FORMAT, VERSION = "rapzel.scene", 2


def _number(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)


def _camera(camera: dict[str, Any]) -> None:
    slit = camera.get("shutter", "focal_plane") in ("focal_plane", "rolling")
    if (
        slit
        and _number(camera.get("curtain_travel_s"))
        and camera["curtain_travel_s"] == 0
    ):
        camera["curtain_travel_s"] = None
    if _number(camera.get("lag_s")) and camera["lag_s"] == 0:
        camera["lag_s"] = None
        if not camera.get("lag_jitter_s"):
            camera["lag_jitter_s"] = None
    elif camera.get("lag_s") is not None:
        camera.setdefault("lag_jitter_s", 0.0)


_OWN_KEYS = {
    "sound": ("distance_m", "temperature_c"),
    "beam": ("distance_m",),
    "device": (),
}


def _link(link: Any) -> Any:
    if not isinstance(link, dict):
        return link
    link = dict(link)
    kind = link.get("kind", "fixed")
    if kind == "fixed":
        link["kind"] = kind = "device"
    for key in ("distance_m", "temperature_c"):  # every link of version 1 had both
        if kind in _OWN_KEYS and key not in _OWN_KEYS[kind] and _number(link.get(key)):
            del link[key]
    if kind in _OWN_KEYS:  # in version 1 what was left out was none
        link.setdefault("lag_s", 0.0)
        link.setdefault("jitter_s", 0.0)
    return link


def _trigger(document: dict[str, Any]) -> None:
    trigger = document.get("trigger", {})
    if not isinstance(trigger, dict):
        return
    document["trigger"] = trigger = dict(trigger)
    trigger.setdefault("latency_s", 0.0)  # a cable: version 1 had no other word for it
    wanted = trigger.pop("wanted_delay_s", None)
    if wanted is not None:
        moment = document.get("moment", {})
        if isinstance(moment, dict):
            document["moment"] = {"at_s": wanted, **moment}
    if isinstance(trigger.get("links"), list | tuple):
        trigger["links"] = [_link(link) for link in trigger["links"]]


def upgrade(document: Mapping[str, Any]) -> dict[str, Any]:
    """The document in the present version; one that is of it already is returned as it is, without a version it is 1.

    Never raises: what is wrong with a document is left for its reader to say.
    """
    if document.get("version", 1) != 1 or isinstance(document.get("version"), bool):
        return dict(document)
    raised = {**document, "version": VERSION}
    if isinstance(raised.get("camera"), dict):
        raised["camera"] = dict(raised["camera"])
        _camera(raised["camera"])
    _trigger(raised)
    return raised
