"""The inputs of the room: by EV, a meter reading, lux or the sky, and how one follows from another."""

import math
from collections.abc import Mapping
from typing import Any

from django.utils import timezone

from rapzel.core.document.places import Document, get
from rapzel.core.light import room
from rapzel.core.light.sky import SKIES
from rapzel.core.physics import Physics
from rapzel.core.shared import constants
from rapzel.core.shared.errors import DocumentError, Problem
from rapzel.core.shared.units import SHUTTERS_S
from rapzel.core.verdict.change import nearest_mark
from rapzel.shoots.documents import judged
from rapzel.shoots.fields import Choices, Field, Group, Reader, Section

WAYS: Choices = (
    ("dark", "dark"),
    ("ev100", "EV at ISO 100"),
    ("meter", "a meter reading"),
    ("lux", "lux"),
    ("sky", "sky, place and time"),
)
STATES: Choices = tuple((key, sky.title) for key, sky in SKIES.items())
PRESETS = tuple((str(place), name) for place, name in enumerate(room.PRESETS))
_METER = {"f_number": 4.0, "iso": 400.0}
# A place to begin with: the yard of the demo, on a tidal river; everybody sets their own.
_PLACE = {"state": "clear", "latitude_deg": 51.5, "longitude_deg": 0.9}
_BY = "ambient.known_by"  # no place of the document: setting it changes which one knows the room


def way_of(document: Document) -> str:
    """How the room is known."""
    known = ("ev100", "meter", "lux", "sky")
    return next((way for way in known if get(document, f"ambient.{way}") is not None), "dark")


def with_way(document: Document, values: Mapping[str, Any]) -> dict[str, Any]:
    """The values with a chosen way to know the room replaced by what makes it known so, as bright as it was."""
    if _BY not in values:
        return dict(values)
    way = values[_BY]
    if way not in dict(WAYS):
        raise DocumentError([Problem(_BY, f"must be one of {', '.join(dict(WAYS))}")])
    rest = {path: value for path, value in values.items() if path != _BY}
    return (
        rest
        | {f"ambient.{one}": None for one in ("ev100", "meter", "lux", "sky")}
        | _begin(document, way)
    )


def _begin(document: Document, way: str) -> dict[str, Any]:
    """What a way begins with: the same light as before, where there was any."""
    ev100 = Physics(judged(document)).room_ev100[0]
    if ev100 is None:
        ev100 = room.PRESETS["Room with lamps"]
    if way == "ev100":
        return {"ambient.ev100": round(ev100, 1)}
    if way == "lux":
        lux = 2.0**ev100 * constants.FLAT_RECEPTOR_C / 100
        return {"ambient.lux": float(f"{lux:.3g}")}
    if way == "meter":
        wanted = _METER["f_number"] ** 2 / 2.0 ** (ev100 + math.log2(_METER["iso"] / 100))
        return {"ambient.meter": {**_METER, "shutter_s": nearest_mark(wanted, SHUTTERS_S)}}
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


def _fields(read: Reader, way: str) -> list[Field]:
    if way in ("ev100", "dark"):
        return [read.quantity("ambient.ev100", "EV at ISO 100", "ev", True, "empty: dark")]
    if way == "lux":
        return [read.quantity("ambient.lux", "Lux", "number")]
    if way == "meter":
        return [
            read.quantity("ambient.meter.f_number", "Read at", "f_number"),
            read.quantity("ambient.meter.shutter_s", "for", "shutter"),
            read.quantity("ambient.meter.iso", "at ISO", "iso"),
        ]
    if way == "sky":
        return [
            read.choice("ambient.sky.state", "Sky", STATES),
            read.quantity("ambient.sky.latitude_deg", "Latitude", "angle", hint="south negative"),
            read.quantity("ambient.sky.longitude_deg", "Longitude", "angle", hint="west negative"),
            read.words("ambient.sky.date", "Date"),
            read.quantity("ambient.sky.hour", "Clock", "clock", hint="18:30"),
            read.quantity("ambient.sky.utc_offset_h", "Hours before UTC", "number"),
        ]
    return []


def room_group(read: Reader) -> Group:
    """The room."""
    way = way_of(read.document)
    by = Field(_BY, "Known by", choices=WAYS, text=way)
    fields = _fields(read, way)
    limits = [
        read.quantity("ambient.trail_stops", "A trail shows under", "stops"),
        read.quantity("ambient.clear_stops", "No trail from", "stops"),
    ]
    return Group("room", "Room", _state(read, way), [Section([by, *fields, *limits])], ("room",))


def _state(read: Reader, way: str) -> str:
    document = read.document
    if way == "ev100":
        return f"EV {get(document, 'ambient.ev100'):g}"
    if way == "lux":
        return f"{get(document, 'ambient.lux'):g} lux"
    if way == "sky":
        sky = SKIES[get(document, "ambient.sky.state")].title
        return f"{sky}, {get(document, 'ambient.sky.date')}"
    return {"meter": "by meter"}.get(way, "dark")
