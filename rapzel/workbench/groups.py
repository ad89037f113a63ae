"""The inputs of the workbench in the order of the job, as groups and sections."""

from collections.abc import Callable, Iterable, Iterator

from rapzel.core.document.places import Document, get
from rapzel.core.methods import METHODS
from rapzel.core.motion import KINDS as MOTION_KINDS
from rapzel.core.motion import Movement
from rapzel.core.subjects.drawn import BACKGROUNDS, SUBJECTS
from rapzel.shoots.indirect import FOLLOWS
from rapzel.workbench.chain import trigger_group
from rapzel.workbench.fields import Choices, Field, Group, Reader, Section, in_words
from rapzel.workbench.lights import lights_group
from rapzel.workbench.look import room_as_it_is
from rapzel.workbench.rooms import room_group

MOTIONS: Choices = tuple((kind, motion.title) for kind, motion in MOTION_KINDS.items())
# One choice for each word of the document; the camera and the filter decide which row of the table it is.
WAYS: Choices = tuple(
    (method.word, method.title)
    for method in METHODS.values()
    if method.key == method.word
)
CRITERIA: Choices = (
    ("pixels", "pixels on screen"),
    ("print", "print, diagonal / 1500"),
    ("viewing", "print seen from afar"),
)
WAYS_SPREAD: Choices = (
    ("normal", "a standard deviation"),
    ("uniform", "half of an even spread"),
)
LOOKS: Choices = (
    ("black", "black, no room"),
    ("lit", "lit"),
    ("trail", "a trail"),
    ("streaks", "streaks, the camera follows"),
)
CURTAINS: Choices = (
    ("", "first curtain"),
    ("second", "second curtain"),
)
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
# Common to all motions, or seldom wanted: folded away or at the end.
_COMMON = tuple(Movement.model_fields)


def _own_motion_fields(read: Reader, kind: str) -> list[Field]:
    """The inputs of one kind of motion; a measured one is either a speed, or a way and its time."""
    left_out = list(_COMMON)
    if kind == "measured":
        told = get(read.document, "motion.distance_m") is None
        # Asking for both would let a speed disagree with its own measurement.
        left_out += ["distance_m", "interval_s"] if told else ["speed_m_s"]
    return read.part("motion", MOTION_KINDS[kind], left_out)


NOT_SAID = "empty: not known"


def _motion(read: Reader) -> Group:
    kind = get(read.document, "motion.kind")
    own = _own_motion_fields(read, kind)
    common = read.part("motion", Movement, ("off_axis_mm",))
    # What moves decides which inputs follow, so that it stands first.
    fields = [read.choice("motion.kind", "What moves", MOTIONS), *own, *common]
    fields.append(
        read.quantity(
            # The freeze limit is about the sharp part, the room that it needs about the whole
            # figure.
            "subject.extent_m",
            "Must be in the frame",
            "length",
            hint="along its way",
        )
    )
    ways = [
        read.quantity(
            "subject.aside_sd_m", "Ways spread aside ±", "length", True, NOT_SAID
        ),
        read.quantity(
            "subject.above_sd_m", "Ways spread up ±", "length", True, NOT_SAID
        ),
        read.choice("subject.ways_shape", "That is", WAYS_SPREAD),
        read.quantity(
            "subject.thick_m", "Cuts a beam with", "length", True, "empty: enough"
        ),
        read.quantity("subject.height_m", "Above the floor", "length", True, NOT_SAID),
    ]
    # The folded group says in words what the angle means; 90° would have to be thought about.
    angle = get(read.document, "motion.angle_deg", 90.0)
    if angle == 90:
        where = "across"
    elif angle in (0, 180):
        where = "at me"
    else:
        where = f"at {angle:g}°"
    # Titles explain themselves after a comma; folded, there is room for the first words.
    title = MOTION_KINDS[kind].title.split(",")[0]
    return Group(
        "motion",
        "Motion",
        f"{title}, {own[0].text}, {where}",
        [Section(fields, more=ways)],
        ("speed",),
    )


def _criterion_fields(read: Reader, kind: str) -> list[Field]:
    q = read.quantity
    return {
        "pixels": [q("criterion.pixels", "Smear allowed, px", "number")],
        "print": [q("criterion.divisor", "Diagonal divided by", "number")],
        "viewing": [
            q("criterion.print_height_m", "Print height", "length"),
            q("criterion.viewing_distance_m", "Seen from", "length"),
        ],
    }[kind]


def _frame(read: Reader) -> Group:
    kind = get(read.document, "criterion.kind")
    distance = read.quantity("lens.subject_distance_m", "Subject distance", "length")
    fields = [
        read.quantity("lens.focal_length_mm", "Focal length, mm", "number"),
        distance,
        read.quantity(
            "lens.field_width_m",
            "Field width",
            "length",
            optional=True,
            hint="measured; overrides the lens",
        ),
        read.choice("criterion.kind", "Frozen means", CRITERIA),
        # (only the figures of the criterion that is chosen)
        *_criterion_fields(read, kind),
    ]
    own = [
        read.quantity(
            "motion.off_axis_mm",
            "Image height, mm",
            "number",
            True,
            "off the middle, on the sensor",
        ),
        read.check("camera.effective_f_number", "Body shows the effective f-number"),
    ]
    if kind == "pixels":
        allowed = f"{fields[4].text} px allowed"
    else:
        allowed = dict(CRITERIA)[kind]
    return Group(
        "frame",
        "Frame",
        f"{fields[0].text} mm at {distance.text}, {allowed}",
        [Section(fields, more=own)],
        ("camera", "lens"),
    )


_LONG = {"trail": "Trail length", "streaks": "Streaks, at the subject"}


def _look(read: Reader) -> Group:
    kind = get(read.document, "look.room") or "black"
    own: list[Field] = []
    if kind != "black":
        # Without a wish the slider rests where the room is today, so that moving it is a change one
        # sees.
        as_is = room_as_it_is(read.document)
        own = [
            read.slider("look.room_stops", "Room at, stops", (-6.0, 1.0, 1 / 3), as_is)
        ]
    if kind in ("trail", "streaks"):
        # Nobody at the set measures a trail in metres: body parts and pixels are read as well.
        hint = "0.3 m, 120 px, a hand, an arm"
        own.insert(0, read.quantity("look.trail_m", _LONG[kind], "trail", True, hint))
    if own:
        first = own[0].text
    else:
        first = ""
    state = {
        "black": "black",
        "lit": f"room at {first}" if first else "room as it is",
        "trail": f"trail of {first or 'any length'}",
        "streaks": f"streaks of {first or 'any length'}",
    }[kind]
    return Group(
        "look",
        "Look",
        state,
        [Section([read.choice("look.room", "Room", LOOKS), *own])],
    )


def _exposure(read: Reader) -> Group:
    fields = [
        read.quantity("exposure.f_number", "Aperture", "f_number"),
        read.quantity("exposure.iso", "ISO", "iso"),
        read.quantity("exposure.nd_stops", "ND, stops", "stops"),
        read.quantity("exposure.polariser_stops", "Polariser, stops", "stops"),
        read.quantity(
            "exposure.frames_per_s",
            "Frames a second",
            "rate",
            optional=True,
            hint="empty: single frames",
        ),
        read.quantity(
            "exposure.burst", "Frames of a burst", "count", True, "empty: without end"
        ),
    ]
    nd, polariser = (
        get(read.document, f"exposure.{name}_stops", 0.0)
        for name in ("nd", "polariser")
    )
    state = f"{fields[0].text}, ISO {fields[1].text}, {f'ND {fields[2].text}' if nd else 'no ND'}"
    # A folded group names a filter only where one is on.
    state += f", polariser {fields[3].text}" if polariser else ""
    return Group("exposure", "Exposure", state, [Section(fields)])


def _shutter(read: Reader) -> Group:
    method, kind = (
        get(read.document, "exposure.method"),
        get(read.document, "camera.shutter"),
    )
    fields = [
        read.choice("exposure.method", "Method", WAYS),
        read.quantity("exposure.shutter_s", "Shutter", "shutter", hint="1/200, 5 ms"),
        read.quantity("camera.sync_speed_s", "Sync speed", "shutter"),
        read.quantity(
            "camera.curtain_travel_s",
            "Curtain travel",
            "duration",
            True,
            "empty: not known",
        ),
        read.quantity(
            "trigger.latency_s",
            "Trigger latency",
            "duration",
            True,
            "contact to light; empty: unknown",
        ),
    ]
    # An opening after the flash or the contact means something with these two alone.
    if method == "long_pulse":
        fields.append(
            read.quantity(
                "exposure.offset_s",
                "Opening after flash",
                "duration",
                True,
                "empty: best",
            )
        )
    elif kind == "global":
        fields.append(
            read.quantity(
                "exposure.offset_s", "Opening after contact", "duration", optional=True
            )
        )
    if kind == "focal_plane" and method == "pulse":
        fields.append(read.choice("exposure.flash_at", "Flash at the", CURTAINS))
    fields += _panning(read)
    state = f"{fields[1].text}, {kind.replace('_', ' ')}, {dict(WAYS)[method].split(',')[0]}"
    return Group("shutter", "Shutter", state, [Section(fields)])


def _panning(read: Reader) -> list[Field]:
    """Whether the camera follows the subject, and how well."""
    follows = get(read.document, "exposure.panning") is not None
    fields = [Field(FOLLOWS, "The camera follows", check=True, text=str(int(follows)))]
    if follows:
        error = "exposure.panning.error"
        hint = "5 to 20 % of its speed; empty: not known"
        fields.append(read.quantity(error, "It is off by", "share", True, hint))
    return fields


def _subjects(read: Reader) -> tuple[tuple[str, str], ...]:
    """The drawn subjects, and the scene's own cut-out where it has one."""
    # A subject cannot be chosen before its picture is there.
    own = (("cutout", "own cut-out"),) if get(read.document, "rehearsal.cutout") else ()
    return (*((key, key) for key in SUBJECTS), *own)


def _set(read: Reader) -> Group:
    fields = [
        read.words("name", "Name of the scene"),
        read.quantity("plan.minutes_per_try", "Minutes a try", "number"),
        read.quantity("plan.keepers_wanted", "Keepers wanted", "count"),
        read.words("plan.uses_up", "A try uses up"),
        read.choice("rehearsal.subject", "Rehearse with", _subjects(read)),
        read.choice(
            "rehearsal.background", "On", tuple((key, key) for key in BACKGROUNDS)
        ),
    ]
    subject, ground = (
        get(read.document, "rehearsal.subject"),
        get(read.document, "rehearsal.background"),
    )
    return Group(
        "set",
        "Set",
        f"{subject} on {ground}, {fields[1].text} min a try",
        [Section(fields)],
    )


def _cautions(read: Reader) -> Group:
    # None named does not mean none: the usual cautions stand on every sheet.
    hazards = get(read.document, "hazards", [])
    fields = [read.member("hazards", word, label) for word, label in HAZARDS]
    state = ", ".join(dict(HAZARDS)[word] for word in hazards) or "the usual ones"
    return Group("cautions", "Cautions", state, [Section(fields)])


def _tools(read: Reader) -> Group:
    pinned = len(get(read.document, "pinned", []))
    return Group("tools", "Tools", f"{pinned} pinned" if pinned else "none pinned")


_GROUPS = (
    _motion, _frame, _look, lights_group, _exposure, room_group, _shutter, trigger_group, _set, _cautions, _tools,
)  # fmt: skip


def groups_of(document: Document, imperial: bool = False) -> list[Group]:
    """All inputs of a scene, in the order of the job, showing the document's values."""
    read = Reader(document, imperial)
    return [group(read) for group in _GROUPS]


def all_fields(groups: Iterable[Group]) -> Iterator[Field]:
    """Every input of the groups."""
    for group in groups:
        for section in group.sections:
            yield from section.fields
            yield from section.more


def field_at(
    document: Document, path: str, member: str = "", imperial: bool = False
) -> Field | None:
    """The input that writes to a path; None where no input does."""
    read = Reader(document, imperial)
    # A group is worked out only when the ones before it do not have the input.
    fields = all_fields(group(read) for group in _likely_first(path))
    return next(
        (each for each in fields if each.path == path and each.member == member), None
    )


# where the inputs of a part stand that are not in the first of the groups
_GROUP_OF_PART = {
    "exposure": _exposure,
    "ambient": room_group,
    "camera": trigger_group,
    "plan": _set,
    "hazards": _cautions,
}


def _likely_first(path: str) -> list[Callable[[Reader], Group]]:
    """The groups that may have an input, beginning with the one that most inputs of its part stand in."""
    # A change that comes in has one path; working out all eleven groups for it would cost most of
    # an answer.
    of_lights = path.startswith(("lights", "lamps"))
    # The lights say how they stand against the key, for which the scene is worked out: only where they are asked.
    groups = [group for group in _GROUPS if group is not lights_group or of_lights]
    likely = (
        lights_group
        if of_lights
        else _GROUP_OF_PART.get(path.split(".", maxsplit=1)[0])
    )
    return sorted(groups, key=lambda group: group is not likely)


def differences(
    documents: list[Document], imperial: bool = False
) -> list[tuple[str, list[str]]]:
    """Labels and texts of the inputs that are not the same in all documents; '–' where one has no such input."""
    labels: dict[str, str] = {}
    texts: list[dict[str, str]] = []
    for document in documents:
        shown: dict[str, str] = {}
        for group in groups_of(document, imperial):
            for section in group.sections:
                for each in (*section.fields, *section.more):
                    # A light that one document lacks still gets its row, with the label from where
                    # it is.
                    labels.setdefault(each.key, f"{section.title} {each.label}".strip())
                    shown[each.key] = in_words(each)
        texts.append(shown)
    rows = [
        # An input that is there and empty reads like one that is not: both say that nothing is set.
        (label, [text.get(key) or "–" for text in texts])
        for key, label in labels.items()
    ]
    return [(label, values) for label, values in rows if len(set(values)) > 1]
