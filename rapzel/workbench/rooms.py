"""The inputs of the room: by EV, a meter reading, lux or the sky, and how one follows from another."""

from rapzel.core.document.places import get
from rapzel.core.light import room
from rapzel.core.light.sky import SKIES
from rapzel.shoots.indirect import (
    BY,
    FLICKER_BY,
    FLICKERS,
    WAYS,
    flicker_of,
    way_of,
)
from rapzel.workbench.fields import Choices, Field, Group, Reader, Section

STATES: Choices = tuple((key, sky.title) for key, sky in SKIES.items())
FACINGS: Choices = (
    ("", "not said"),
    ("sun", "turned to the sun"),
    ("across", "across the sun"),
    ("away", "away from the sun"),
)
NOT_SAID = "empty: not known"
PRESETS = tuple((str(place), name) for place, name in enumerate(room.PRESETS))


def _fields(read: Reader, way: str) -> list[Field]:
    if way in ("ev100", "dark"):
        return [
            read.quantity("ambient.ev100", "EV at ISO 100", "ev", True, "empty: dark")
        ]
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
            read.choice("ambient.sky.facing", "The side you see is", FACINGS),
            read.quantity(
                "ambient.sky.latitude_deg", "Latitude", "angle", hint="south negative"
            ),
            read.quantity(
                "ambient.sky.longitude_deg", "Longitude", "angle", hint="west negative"
            ),
            read.words("ambient.sky.date", "Date"),
            read.quantity("ambient.sky.hour", "Clock", "clock", hint="18:30"),
            read.quantity("ambient.sky.utc_offset_h", "Hours before UTC", "number"),
        ]
    return []


def room_group(read: Reader) -> Group:
    """The room."""
    way = way_of(read.document)
    # How it is known is no figure of the document: it follows from which of them is there.
    by = Field(BY, "Known by", choices=WAYS, text=way)
    fields = _fields(read, way)
    limits = [
        read.quantity("ambient.cct_k", "Its colour, K", "number", True, NOT_SAID),
        read.quantity("ambient.trail_stops", "A trail shows under", "stops"),
        read.quantity("ambient.clear_stops", "No trail from", "stops"),
        read.quantity(
            "ambient.black_stops", "Black from", "stops", hint="under correct exposure"
        ),
    ]
    own = [by, *fields, *_flicker(read, way)]
    sections = [Section(own, more=limits), _backdrop(read)]
    return Group("room", "Room", _state(read, way), sections, ("room",))


def _flicker(read: Reader, way: str) -> list[Field]:
    """How the room's light flickers; nothing in the dark, and under the sky, which does not."""
    lamps = get(read.document, "lamps")
    if way == "sky" or (way in ("dark", "ev100") and not _lit(read) and not lamps):
        return []
    kind = flicker_of(read.document)
    chosen = Field(FLICKER_BY, "Its light is from", choices=FLICKERS, text=kind)
    if kind in ("unsaid", "steady"):
        return [chosen]
    fields = [
        chosen,
        read.quantity(
            "ambient.flicker.frequency_hz",
            "Flickers at, Hz",
            "number",
            True,
            "twice the mains; empty: not known",
        ),
        read.quantity(
            "ambient.flicker.depth",
            "How deep",
            "share",
            True,
            "100 %: it goes out between; empty: not known",
        ),
    ]
    if kind == "dimmed":
        fields.append(
            read.quantity(
                "ambient.flicker.lit_share",
                "On for",
                "share",
                hint="of its period, by the dimmer",
            )
        )
    return fields


def _lit(read: Reader) -> bool:
    return get(read.document, "ambient.ev100") is not None


def _backdrop(read: Reader) -> Section:
    """What stands behind the subject: the lights spill on it, and black has to be black there too."""
    fields = [
        read.quantity(
            "backdrop.behind_m", "Behind the subject", "length", True, "empty: not said"
        ),
        read.quantity(
            "backdrop.reflectance",
            "Sends back",
            "number",
            True,
            "black cloth 0.03, grey 0.18, white wall 0.8",
        ),
        read.quantity("backdrop.flagged_stops", "Kept off by flags", "stops"),
    ]
    return Section(fields, "Backdrop")


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
