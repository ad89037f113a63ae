"""The inputs of the workbench, in the order of the job. A place in the document that is not here cannot be set."""

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

from rapzel.core.document.places import get, identified
from rapzel.core.light import room
from rapzel.core.rehearsal.subject import BACKGROUNDS, SUBJECTS
from rapzel.core.shared import units
from rapzel.core.shared.errors import UnitError
from rapzel.core.shared.refusals import cleaned
from rapzel.ui.quantities import QUANTITIES

Document = dict[str, Any]
Choices = tuple[tuple[str, str], ...]

MOTIONS: Choices = (
    ("steady", "steady speed"),
    ("fall", "falling"),
    ("leap", "leap, near its top"),
    ("rotation", "turning"),
    ("swing", "swinging"),
    ("measured", "measured, way and time"),
)
METHODS: Choices = (
    ("pulse", "short pulse, at or below sync"),
    ("hss", "high-speed sync"),
    ("ambient", "no flash, shutter alone"),
    ("open_shutter", "open shutter, trigger fires the flash"),
)
CRITERIA: Choices = (
    ("pixels", "pixels on screen"),
    ("print", "print, diagonal / 1500"),
    ("viewing", "print seen from afar"),
)
FIRES: Choices = (("camera", "the camera, which fires the flash"), ("flash", "the flash itself"))
KINDS_OF_LINK = {"fixed": "fixed lag", "sound": "sound", "beam": "beam"}
HAZARDS: Choices = (
    ("water", "liquid or powder"),
    ("glass", "glass"),
    ("projectile", "arrow, ball, projectile"),
    ("athlete", "athlete"),
    ("performer", "jumping or falling performer"),
    ("public", "public floor"),
    ("animal", "animal"),
    ("unattended", "left unattended"),
    ("hot", "heat or flame"),
)


@dataclass(frozen=True)
class Field:
    """One input: where it writes, how it is read and shown."""

    path: str
    label: str
    quantity: str = ""
    choices: Choices = ()
    optional: bool = False
    check: bool = False
    member: str = ""  # of a list of chosen words, for a check box
    text: str = ""
    hint: str = ""

    @cached_property
    def key(self) -> str:
        """The field in an HTML id."""
        base = re.sub(r"[^A-Za-z0-9]+", "-", self.path)
        return f"{base}-{self.member}" if self.member else base

    @property
    def checked(self) -> bool:
        return self.text == "1"

    @property
    def structural(self) -> bool:
        """Whether other inputs come or go with it."""
        return not self.quantity

    def read(self, text: str, document: Document, imperial: bool) -> Any:
        """The value for the document from what was typed; raises UnitError with what is accepted."""
        if self.member:
            chosen = [word for word in get(document, self.path, []) if word != self.member]
            return [*chosen, self.member] if text == "1" else chosen
        if self.check:
            return text == "1"
        if self.choices:
            if text not in dict(self.choices):
                raise UnitError(text, "a choice offered here", ", ".join(key or "none" for key, _ in self.choices))
            return text or None
        if self.optional and not text.strip():
            return None
        if not self.quantity:
            return cleaned(text).strip()[:200]
        value = QUANTITIES[self.quantity].parse(text, imperial)
        return int(value) if self.quantity == "count" else value

    def stepped(self, value: float, direction: int) -> float:
        """The value one step up (+1) or down (-1)."""
        return QUANTITIES[self.quantity].step(value, direction)


@dataclass(frozen=True)
class Section:
    """Fields that belong together; one light, one link, or the whole of a group."""

    fields: list[Field]
    title: str = ""
    note: str = ""
    kind: str = ""  # light or link, for the buttons that go with it
    item: str = ""  # the identity of the light or link
    more: list[Field] = field(default_factory=list)  # folded away: what is set once

    @property
    def key(self) -> str:
        """The section's fold in the page."""
        return f"{self.kind}-{self.item}"


@dataclass(frozen=True)
class Group:
    """One step of the job: its name, its state in words, and its inputs."""

    key: str
    title: str
    state: str
    sections: list[Section] = field(default_factory=list)
    pickers: tuple[str, ...] = ()


class _Reader:
    """Reads a document into fields that show its values."""

    def __init__(self, document: Document, imperial: bool) -> None:
        self.document, self.imperial = identified(document), imperial

    def quantity(self, path: str, label: str, quantity: str, optional: bool = False, hint: str = "") -> Field:
        text = QUANTITIES[quantity].show(get(self.document, path), self.imperial)
        return Field(path, label, quantity, optional=optional, text=text, hint=hint)

    def choice(self, path: str, label: str, choices: Choices) -> Field:
        return Field(path, label, choices=choices, text=get(self.document, path) or "")

    def check(self, path: str, label: str) -> Field:
        return Field(path, label, check=True, text="1" if get(self.document, path) else "0")

    def member(self, path: str, word: str, label: str) -> Field:
        return Field(path, label, check=True, member=word, text="1" if word in get(self.document, path, []) else "0")

    def words(self, path: str, label: str) -> Field:
        return Field(path, label, text=get(self.document, path) or "")


def _motion_fields(read: _Reader, kind: str) -> list[Field]:
    q = read.quantity
    own: dict[str, list[Field]] = {
        "steady": [q("motion.speed_m_s", "Speed", "speed", hint="9 m/s, 32 km/h, 20 mph")],
        "fall": [
            q("motion.height_m", "Height fallen", "length"),
            q("motion.terminal_m_s", "Terminal speed", "speed", optional=True, hint="empty: no drag"),
        ],
        "leap": [q("motion.rise_m", "Rise", "length"), q("motion.from_apex_s", "From the apex", "duration")],
        "rotation": [q("motion.radius_m", "Radius", "length"), q("motion.rpm", "Turns a minute", "number")],
        "swing": [
            q("motion.length_m", "Length", "length"),
            q("motion.angle_from_rest_deg", "Angle at release", "angle"),
        ],
        "measured": [q("motion.distance_m", "Way", "length"), q("motion.interval_s", "Time for it", "duration")],
    }
    if kind == "measured" and get(read.document, "motion.distance_m") is None:
        own["measured"] = [q("motion.speed_m_s", "Speed", "speed")]
    return own[kind]


def _motion(read: _Reader) -> Group:
    kind = get(read.document, "motion.kind")
    fields = [
        read.choice("motion.kind", "What moves", MOTIONS),
        *_motion_fields(read, kind),
        read.quantity("motion.angle_deg", "Direction", "angle", hint="90° across the frame, 0° at the camera"),
        read.quantity("motion.reach_m", "Reaches towards me", "length"),
        read.quantity("motion.speed_sd_m_s", "Spread of speeds", "speed"),
    ]
    shown = [f.text for f in fields[1:2]]
    angle = get(read.document, "motion.angle_deg", 90.0)
    where = "across" if angle == 90 else "at me" if angle in (0, 180) else f"at {angle:g}°"
    state = f"{dict(MOTIONS)[kind].split(',')[0]}, {shown[0]}, {where}"
    return Group("motion", "Motion", state, [Section(fields)], ("speed",))


def _criterion_fields(read: _Reader, kind: str) -> list[Field]:
    q = read.quantity
    return {
        "pixels": [q("criterion.pixels", "Smear allowed, px", "number")],
        "print": [q("criterion.divisor", "Diagonal divided by", "number")],
        "viewing": [
            q("criterion.print_height_m", "Print height", "length"),
            q("criterion.viewing_distance_m", "Seen from", "length"),
        ],
    }[kind]


def _frame(read: _Reader) -> Group:
    kind = get(read.document, "criterion.kind")
    distance = read.quantity("lens.subject_distance_m", "Subject distance", "length")
    fields = [
        read.quantity("lens.focal_length_mm", "Focal length, mm", "number"),
        distance,
        read.quantity(
            "lens.field_width_m", "Field width", "length", optional=True, hint="measured; overrides the lens"
        ),
        read.choice("criterion.kind", "Frozen means", CRITERIA),
        *_criterion_fields(read, kind),
    ]
    allowed = f"{fields[4].text} px allowed" if kind == "pixels" else dict(CRITERIA)[kind]
    return Group(
        "frame", "Frame", f"{fields[0].text} mm at {distance.text}, {allowed}", [Section(fields)], ("camera", "lens")
    )


def _light(read: _Reader, light: Document) -> Section:
    at, strobe = f"lights[#{light['id']}]", light["strobe"]
    fields = [
        read.quantity(f"{at}.power", "Power", "power", hint="1/32, −5 stops"),
        read.quantity(f"{at}.distance_m", "Distance", "length"),
        read.quantity(f"{at}.loss_stops", "Loss, stops", "stops", hint="modifier, grid, gel"),
    ]
    more = [read.words(f"{at}.name", "Name")]
    modes = [mode["name"] for mode in strobe.get("modes", [])]
    if modes:
        own = (("", "as listed"),) if strobe.get("durations") else ()
        more.append(read.choice(f"{at}.mode", "Mode", (*own, *((name, name) for name in modes))))
    if strobe.get("guide_numbers"):
        more.append(read.quantity(f"{at}.zoom_mm", "Zoom, mm", "number", optional=True))
    more.append(read.check(f"{at}.on_moving_part", "Lights the moving part"))
    return Section(fields, light["name"] or "Light", strobe["name"], "light", light["id"], more)


def _lights(read: _Reader) -> Group:
    lights = read.document["lights"]
    shown = ", ".join(f"{light['name'] or 'Light'} {units.format_power(light['power'])}" for light in lights[:3])
    more = f" and {len(lights) - 3} more" if len(lights) > 3 else ""
    sections = [_light(read, light) for light in lights]
    return Group("lights", "Lights", f"{shown}{more}" or "none yet", sections, ("strobe",))


def _exposure(read: _Reader) -> Group:
    fields = [
        read.quantity("exposure.f_number", "Aperture", "f_number"),
        read.quantity("exposure.iso", "ISO", "iso"),
        read.quantity("exposure.nd_stops", "ND, stops", "stops"),
        read.quantity("exposure.frames_per_s", "Frames a second", "rate", optional=True, hint="empty: single frames"),
    ]
    nd = get(read.document, "exposure.nd_stops")
    state = f"{fields[0].text}, ISO {fields[1].text}, {f'ND {fields[2].text}' if nd else 'no ND'}"
    return Group("exposure", "Exposure", state, [Section(fields)])


def _room(read: _Reader) -> Group:
    ev = get(read.document, "ambient.ev100")
    usual = "; ".join(f"{name} {value:g}" for name, value in room.PRESETS.items())
    fields = [
        read.quantity("ambient.ev100", "EV at ISO 100", "ev", optional=True, hint=f"empty: dark. {usual}"),
        read.quantity("ambient.trail_stops", "A trail shows under", "stops"),
        read.quantity("ambient.clear_stops", "No trail from", "stops"),
    ]
    other = "by meter" if get(read.document, "ambient.meter") or get(read.document, "ambient.lux") else "dark"
    return Group("room", "Room", other if ev is None else f"EV {fields[0].text}", [Section(fields)])


def _shutter(read: _Reader) -> Group:
    method, kind = get(read.document, "exposure.method"), get(read.document, "camera.shutter")
    fields = [
        read.choice("exposure.method", "Method", METHODS),
        read.quantity("exposure.shutter_s", "Shutter", "shutter", hint="1/200, 5 ms"),
        read.quantity("camera.sync_speed_s", "Sync speed", "shutter"),
        read.quantity("camera.curtain_travel_s", "Curtain travel", "duration"),
        read.quantity("trigger.latency_s", "Trigger latency", "duration", hint="contact to light"),
    ]
    if kind == "global":
        fields.append(read.quantity("exposure.offset_s", "Opening after contact", "duration", optional=True))
    state = f"{fields[1].text}, {kind.replace('_', ' ')}, {dict(METHODS)[method].split(',')[0]}"
    return Group("shutter", "Shutter", state, [Section(fields)])


def _link(read: _Reader, link: Document) -> Section:
    at = f"trigger.links[#{link['id']}]"
    fields = [
        read.words(f"{at}.name", "Name"),
        read.quantity(f"{at}.lag_s", "Lag", "duration"),
        read.quantity(f"{at}.jitter_s", "Jitter (sd)", "duration"),
    ]
    if link["kind"] in ("sound", "beam"):
        label = "Metres of air" if link["kind"] == "sound" else "Upstream"
        fields.append(read.quantity(f"{at}.distance_m", label, "length"))
    if link["kind"] == "sound":
        fields.append(read.quantity(f"{at}.temperature_c", "Air", "temperature"))
    return Section(fields, link["name"] or "Link", KINDS_OF_LINK[link["kind"]], "link", link["id"])


def _trigger(read: _Reader) -> Group:
    links = get(read.document, "trigger.links", [])
    own = Section(
        [
            read.choice("trigger.fires", "The trigger fires", FIRES),
            read.quantity("trigger.set_delay_s", "Set delay", "duration"),
            read.quantity("trigger.wanted_delay_s", "Wanted after event", "duration", optional=True),
            read.quantity("camera.lag_s", "Camera lag", "duration"),
            read.quantity("camera.lag_jitter_s", "Its jitter (sd)", "duration"),
        ]
    )
    fires = get(read.document, "trigger.fires")
    names = ", ".join(link["name"] or link["kind"] for link in links) or "finger"
    sections = [own, *(_link(read, link) for link in links)]
    return Group("trigger", "Trigger", f"{names}, fires the {fires}", sections, ("trigger",))


def _set(read: _Reader) -> Group:
    fields = [
        read.words("name", "Name of the scene"),
        read.quantity("plan.minutes_per_try", "Minutes a try", "number"),
        read.quantity("plan.keepers_wanted", "Keepers wanted", "count"),
        read.choice("rehearsal.subject", "Rehearse with", tuple((key, key) for key in SUBJECTS)),
        read.choice("rehearsal.background", "On", tuple((key, key) for key in BACKGROUNDS)),
    ]
    subject, ground = get(read.document, "rehearsal.subject"), get(read.document, "rehearsal.background")
    return Group("set", "Set", f"{subject} on {ground}, {fields[1].text} min a try", [Section(fields)])


def _cautions(read: _Reader) -> Group:
    hazards = get(read.document, "hazards", [])
    fields = [read.member("hazards", word, label) for word, label in HAZARDS]
    state = ", ".join(dict(HAZARDS)[word] for word in hazards) or "the usual ones"
    return Group("cautions", "Cautions", state, [Section(fields)])


_GROUPS = (_motion, _frame, _lights, _exposure, _room, _shutter, _trigger, _set, _cautions)


def groups_of(document: Document, imperial: bool = False) -> list[Group]:
    """All inputs of a scene, in the order of the job, showing the document's values."""
    read = _Reader(document, imperial)
    return [group(read) for group in _GROUPS]


def all_fields(groups: list[Group]) -> Iterator[Field]:
    """Every input of the groups."""
    for group in groups:
        for section in group.sections:
            yield from section.fields
            yield from section.more


def field_at(document: Document, path: str, member: str = "", imperial: bool = False) -> Field | None:
    """The input that writes to a path; None where no input does."""
    fields = all_fields(groups_of(document, imperial))
    return next((each for each in fields if each.path == path and each.member == member), None)


def differences(documents: list[Document], imperial: bool = False) -> list[tuple[str, list[str]]]:
    """Labels and texts of the inputs that are not the same in all documents; '–' where one has no such input."""
    labels: dict[str, str] = {}
    texts: list[dict[str, str]] = []
    for document in documents:
        shown: dict[str, str] = {}
        for group in groups_of(document, imperial):
            for section in group.sections:
                for each in (*section.fields, *section.more):
                    labels.setdefault(each.key, f"{section.title} {each.label}".strip())
                    shown[each.key] = _in_words(each)
        texts.append(shown)
    rows = [(label, [text.get(key) or "–" for text in texts]) for key, label in labels.items()]
    return [(label, values) for label, values in rows if len(set(values)) > 1]


def _in_words(each: Field) -> str:
    if each.check:
        return "yes" if each.checked else "no"
    return dict(each.choices).get(each.text, each.text)
