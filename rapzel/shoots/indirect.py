"""What one may set that is no place of the document: a ratio against the key, and how the room is known.

Each is replaced by the values of the document that make it so.
"""

import math
import re
from collections.abc import Mapping
from typing import Any

from django.utils import timezone

from rapzel.core.document.places import Document, get, located, split
from rapzel.core.light import room
from rapzel.core.physics import Physics
from rapzel.core.physics.ratios import By, with_ratio
from rapzel.core.shared import constants
from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.core.shared.units import SHUTTERS_S
from rapzel.core.verdict.change import nearest_mark
from rapzel.shoots.documents import judged

# A ratio is no place of the document: setting it moves the light's power or its distance.
_RATIO = re.compile(r"(lights\[#[\w-]{1,40}\])\.against_key_by_(power|distance)")


WAYS: tuple[tuple[str, str], ...] = (
    ("dark", "dark"),
    ("ev100", "EV at ISO 100"),
    ("meter", "a meter reading"),
    ("lux", "lux"),
    ("sky", "sky, place and time"),
)
# Each is a place of the document; in the dark none of them is there.
_KNOWN = tuple(way for way, _ in WAYS if way != "dark")
_METER = {"f_number": 4.0, "iso": 400.0}
# A place to begin with: the yard of the demo, on a tidal river; everybody sets their own.
_PLACE = {"state": "clear", "latitude_deg": 51.5, "longitude_deg": 0.9}
# no place of the document: setting it changes which one knows the room
BY = "ambient.known_by"
# the same of how the room's light flickers
FLICKER_BY = "ambient.flickers_by"
FLICKERS: tuple[tuple[str, str], ...] = (
    ("unsaid", "not said"),
    ("steady", "daylight, or steady"),
    ("mains_50", "lamps on 50 Hz mains"),
    ("mains_60", "lamps on 60 Hz mains"),
    ("dimmed", "LED, dimmed by switching"),
)
# the same of whether the camera follows the subject
FOLLOWS = "exposure.follows"
_STEADY = {"frequency_hz": None, "depth": 0.0, "lit_share": None}
_BY_FLICKER: dict[str, dict[str, Any] | None] = {
    "unsaid": None,
    "steady": _STEADY,
    "mains_50": {"frequency_hz": 100.0, "depth": None, "lit_share": None},
    "mains_60": {"frequency_hz": 120.0, "depth": None, "lit_share": None},
    # A light that is switched goes out altogether; how fast, its maker knows.
    "dimmed": {"frequency_hz": None, "depth": 1.0, "lit_share": 0.5},
}


def with_ratios(document: Document, values: Mapping[str, Any]) -> dict[str, Any]:
    """The values with every ratio replaced by the power or distance that makes it. Raises DocumentError."""
    plain: dict[str, Any] = {}
    for path, value in values.items():
        match = _RATIO.fullmatch(path)
        if match is None:
            plain[path] = value
            continue
        # The ratio is worked out by position; people and pages call the light by its identity.
        place = int(split(located(document, match[1]))[1])
        by: By = "power" if match[2] == "power" else "distance"
        plain |= dict(with_ratio(judged(document), place, float(value), by))
    return plain


def way_of(document: Document) -> str:
    """How the room is known."""
    return next(
        (way for way in _KNOWN if get(document, f"ambient.{way}") is not None), "dark"
    )


def flicker_of(document: Document) -> str:
    """How the room's light flickers, as a choice of `FLICKERS`."""
    flicker = get(document, "ambient.flicker")
    if flicker is None:
        return "unsaid"
    if flicker.get("depth") == 0:
        return "steady"
    if flicker.get("lit_share") is not None:
        return "dimmed"
    # What is no mains frequency was typed beside one of them.
    if flicker.get("frequency_hz") == 120:
        return "mains_60"
    return "mains_50"


def with_flicker(values: Mapping[str, Any]) -> dict[str, Any]:
    """The values with a chosen kind of flicker replaced by what is known of it."""
    if FLICKER_BY not in values:
        return dict(values)
    kind = values[FLICKER_BY]
    if kind not in _BY_FLICKER:
        raise DocumentError(
            [Problem(FLICKER_BY, f"must be one of {', '.join(_BY_FLICKER)}")]
        )
    rest = {path: value for path, value in values.items() if path != FLICKER_BY}
    return rest | {"ambient.flicker": _BY_FLICKER[kind]}


def with_following(values: Mapping[str, Any]) -> dict[str, Any]:
    """The values with “the camera follows” replaced by a panning of which nobody knows how well, or by none."""
    rest = {path: value for path, value in values.items() if path != FOLLOWS}
    if FOLLOWS in values:
        return rest | {"exposure.panning": {"error": None} if values[FOLLOWS] else None}
    return rest


def with_way(document: Document, values: Mapping[str, Any]) -> dict[str, Any]:
    """The values with a chosen way to know the room replaced by what makes it known so, as bright as it was."""
    if BY not in values:
        return dict(values)
    way = values[BY]
    if way not in dict(WAYS):
        raise DocumentError([Problem(BY, f"must be one of {', '.join(dict(WAYS))}")])
    rest = {path: value for path, value in values.items() if path != BY}
    others = {f"ambient.{one}": None for one in _KNOWN}
    return rest | others | _begin(document, way)


def _begin(document: Document, way: str) -> dict[str, Any]:
    """What a way begins with: the same light as before, where there was any."""
    # Whatever it was known by, in one measure.
    ev100 = Physics(judged(document)).room_ev100[0]
    if ev100 is None:
        ev100 = room.PRESETS["Room with lamps"]
    if way == "ev100":
        return {"ambient.ev100": round(ev100, 1)}
    if way == "lux":
        lux = 2.0**ev100 * constants.FLAT_RECEPTOR_C / 100
        return {"ambient.lux": float(f"{lux:.3g}")}
    if way == "meter":
        # The time that a meter would have shown at usual settings.
        wanted = _METER["f_number"] ** 2 / 2.0 ** (
            ev100 + math.log2(_METER["iso"] / 100)
        )
        return {
            "ambient.meter": {**_METER, "shutter_s": nearest_mark(wanted, SHUTTERS_S)}
        }
    if way == "sky":
        now = timezone.localtime()  # on the clock of the shoot
        offset = now.utcoffset()
        clock = {
            "date": now.date().isoformat(),
            "hour": round(now.hour + now.minute / 60, 2),
            "utc_offset_h": 0.0 if offset is None else offset.total_seconds() / 3600,
        }
        return {"ambient.sky": {**_PLACE, **clock}}
    return {}
