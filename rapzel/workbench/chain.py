"""The inputs of the chain: what fires, the moment that is wanted, and each link from the event to the light."""

from rapzel.core.document.places import Document, get
from rapzel.core.trigger.links import KINDS as LINK_KINDS
from rapzel.workbench.fields import Choices, Group, Reader, Section

FIRES: Choices = (
    ("camera", "the camera, which fires the flash"),
    ("flash", "the flash itself"),
)
FINGERS: Choices = (
    ("reacts", "reacts to the event"),
    ("anticipates", "anticipates it"),
)
BEAMS: Choices = (
    ("pencil", "from sender to receiver"),
    ("reflective", "reflective, to a set range"),
    ("heat", "passive heat sensor"),
)
LIES: Choices = (
    ("", "as suits the way"),
    ("depth", "along the optical axis"),
    ("across", "across the frame"),
    ("up", "upright"),
)
_LINK_CHOICES = (
    ("way", "The person", FINGERS),
    ("variety", "Beam", BEAMS),
    ("lies", "It lies", LIES),
)


def _link(read: Reader, link: Document) -> Section:
    at, kind = f"trigger.links[#{link['id']}]", LINK_KINDS[link["kind"]]
    fields = [read.words(f"{at}.name", "Name")]
    for name, label, choices in _LINK_CHOICES:
        # Each choice belongs to one kind of link.
        if name in kind.model_fields:
            fields.append(read.choice(f"{at}.{name}", label, choices))
    fields += read.part(at, kind)
    return Section(
        fields, link["name"] or kind.title.capitalize(), kind.title, "link", link["id"]
    )


def _moment(read: Reader) -> Section:
    fields = [
        read.quantity(
            "moment.at_s", "Wanted after event", "delay", True, "empty: not stated"
        ),
        read.quantity(
            "moment.lasts_s",
            "The moment lasts",
            "duration",
            True,
            "ball contact 5–10 ms, a pose 40 ms",
        ),
        read.quantity(
            "moment.place_m", "Right within ±", "length", True, "of the place"
        ),
    ]
    return Section(fields, "Moment", "when the picture is right")


def trigger_group(read: Reader) -> Group:
    """The trigger with all of its links."""
    links = get(read.document, "trigger.links", [])
    own = Section(
        [
            read.choice("trigger.fires", "The trigger fires", FIRES),
            read.quantity("trigger.set_delay_s", "Set delay", "delay"),
            read.quantity(
                "camera.lag_s", "Camera lag", "duration", True, "empty: not known"
            ),
            read.quantity(
                "camera.lag_jitter_s",
                "Its jitter (sd)",
                "duration",
                True,
                "empty: not known",
            ),
        ],
        more=[
            # What a body can be set to, each beside what it saves or adds: folded away, as few set
            # it.
            read.check("camera.mirror_up", "Mirror up"),
            read.quantity("camera.mirror_s", "saves", "duration", True),
            read.check("camera.electronic_first_curtain", "Electronic first curtain"),
            read.quantity("camera.first_curtain_s", "saves", "duration", True),
            read.check("camera.asleep", "Body asleep"),
            read.quantity("camera.wake_s", "waking adds", "duration", True),
        ],
    )
    fires = get(read.document, "trigger.fires")
    names = ", ".join(link["name"] or link["kind"] for link in links) or "nothing said"
    sections = [own, _moment(read), *(_link(read, link) for link in links)]
    return Group(
        "trigger", "Trigger", f"{names}, fires the {fires}", sections, ("trigger",)
    )
