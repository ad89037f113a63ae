"""A dozen motions to begin with, and the figures that such shots usually have; common practice, all of them."""

from dataclasses import dataclass, field
from typing import Any

from rapzel.core.document.places import Document
from rapzel.core.trigger.links import KINDS as LINK_KINDS


@dataclass(frozen=True)
class Beginning:
    """One motion to begin with: its picture, its figures (usual ones, common practice) and what it calls for.

    Figures that nobody has measured yet are usual ones, so that the first answer says whether it lands; spreads are
    stated, since a blank is not known and never none. direct: the sensor fires the flash itself in a dark room, for
    what is over before a camera has opened.
    """

    key: str
    title: str
    subject: str
    says: str
    motion: Document
    frame: tuple[float, float]  # focal length [mm], distance of the subject [m]
    # (the room as such things are usually shot in: a hall, a studio, an evening)
    ev100: float
    # when and where the picture is right
    moment: Document
    # (what must be in the frame, ways aside, ways up) [m]
    ways: tuple[float, float, float]
    hazards: tuple[str, ...] = ()
    link: Document = field(default_factory=dict)  # what triggers it
    direct: bool = False

    def values(self) -> dict[str, Any]:
        """What it sets in a new scene, by path; its trigger apart."""
        extent, aside, above = self.ways
        focal, distance = self.frame
        return {
            "name": self.title,
            "motion": self.motion,
            "lens.focal_length_mm": focal,
            "lens.subject_distance_m": distance,
            "ambient": {"ev100": self.ev100},
            # Sharp on paper: pixels would ask of a beginner what a pixel of smear means.
            "criterion": {"kind": "print"},
            "hazards": list(self.hazards),
            "rehearsal": {"subject": self.subject},
            "moment": self.moment,
            "subject": {"extent_m": extent, "aside_sd_m": aside, "above_sd_m": above},
            "trigger.links": [self.link],
        }


def _steady(speed_m_s: float, sd_m_s: float) -> Document:
    return {"kind": "steady", "speed_m_s": speed_m_s, "speed_sd_m_s": sd_m_s}


def _link(kind: str, **own: Any) -> Document:
    return {"kind": kind, **LINK_KINDS[kind].beginning, **own}


# A finger that knows the movement anticipates it.
# The one trigger that everybody has at hand.
_FINGER = _link("finger", way="anticipates")
# Contact of a ball about 5-10 ms, the top of a swing or a pose ± 20 ms (memory).
_CONTACT, _POSE = {"at_s": 0.0, "lasts_s": 0.008}, {"at_s": 0.0, "lasts_s": 0.04}
_DARK_EV = -4.0  # lights out, which everything needs that is fired into an open shutter


_ALL = (
    Beginning(
        "leap",
        "A leap",
        "dancer",
        "half a metre high, 2 m/s along the floor",
        {
            "kind": "leap",
            "rise_m": 0.5,
            "from_apex_s": 0.05,
            "horizontal_m_s": 2.0,
            "speed_sd_m_s": 0.3,
        },
        (50.0, 5.0),
        4.0,
        _POSE,
        (1.2, 0.12, 0.06),
        ("performer",),
        _FINGER,
    ),
    Beginning(
        "turn",
        "A turn",
        "turner",
        "a turn in a second, hand at 70 cm",
        {"kind": "rotation", "radius_m": 0.7, "rpm": 60.0, "speed_sd_m_s": 0.6},
        (50.0, 5.0),
        4.0,
        {"at_s": 0.0, "lasts_s": 0.08},
        (0.3, 0.1, 0.05),
        ("performer",),
        _FINGER,
    ),
    Beginning(
        "kick",
        "A kick or punch",
        "kicker",
        "a foot at 18 m/s",
        _steady(18.0, 4.0),
        (50.0, 4.0),
        5.0,
        _CONTACT,
        (0.3, 0.1, 0.1),
        ("athlete",),
        _FINGER,
    ),
    Beginning(
        "run",
        "A run",
        "runner",
        "a swinging foot at 13 m/s",
        _steady(13.0, 3.6),
        (85.0, 8.0),
        6.0,
        _POSE,
        (0.3, 0.15, 0.05),
        ("athlete",),
        _FINGER,
    ),
    Beginning(
        "wheels",
        "A jump on wheels",
        "skater",
        "80 cm high, 5 m/s along the ground",
        {
            "kind": "leap",
            "rise_m": 0.8,
            "from_apex_s": 0.05,
            "horizontal_m_s": 5.0,
            "speed_sd_m_s": 0.6,
        },
        (35.0, 4.0),
        6.0,
        _POSE,
        (1.0, 0.2, 0.1),
        ("athlete", "public"),
        _FINGER,
    ),
    Beginning(
        "swing",
        "A swing of a racket or sword",
        "racket",
        "a racket's head at 32 m/s",
        _steady(32.0, 9.0),
        (50.0, 3.5),
        5.0,
        _CONTACT,
        (0.3, 0.1, 0.1),
        ("athlete",),
        _FINGER,
    ),
    Beginning(
        "spray",
        "Spray or splash",
        "spray",
        "threads of water at 3 m/s",
        _steady(3.0, 1.5),
        (85.0, 2.0),
        3.0,
        {"at_s": 0.0, "lasts_s": 0.12},
        (0.2, 0.03, 0.03),
        ("water",),
        _FINGER,
    ),
    Beginning(
        "drop",
        "A drop",
        "drop",
        "falls 25 cm, 2.2 m/s",
        {"kind": "fall", "height_m": 0.25, "speed_sd_m_s": 0.02},
        (100.0, 0.5),
        _DARK_EV,
        {"place_m": 0.008},
        (0.005, 0.001, 0.001),
        ("water",),
        _link("beam", distance_m=0.1, length_m=0.05),
        True,
    ),
    Beginning(
        "glass",
        "Breaking glass",
        "glass",
        "shards at 10 m/s",
        _steady(10.0, 4.0),
        (85.0, 2.0),
        _DARK_EV,
        {"at_s": 0.006, "lasts_s": 0.006},
        (0.12, 0.005, 0.005),
        ("glass",),
        _link("sound"),
        True,
    ),
    Beginning(
        "balloon",
        "A balloon",
        "balloon",
        "its skin at 30 m/s",
        _steady(30.0, 6.0),
        (50.0, 3.0),
        _DARK_EV,
        {"at_s": 0.003, "lasts_s": 0.003},
        (0.25, 0.005, 0.005),
        ("water",),
        _link("sound"),
        True,
    ),
    Beginning(
        "wings",
        "An insect or bird at a feeder",
        "moth",
        "a wing tip at 4 m/s",
        _steady(4.0, 1.8),
        (100.0, 1.0),
        -6.0,  # after dusk
        {"place_m": 0.07},
        (0.06, 0.03, 0.03),
        ("animal", "unattended"),
        _link("beam", distance_m=0.06, length_m=0.3),
        True,
    ),
    Beginning(
        "machine",
        "A machine part",
        "machine",
        "1000 turns a minute, teeth at 8 cm",
        {"kind": "rotation", "radius_m": 0.08, "rpm": 1000.0, "speed_sd_m_s": 0.1},
        (85.0, 1.5),
        5.0,
        # It turns and turns: any instant will do.
        {"at_s": 0.0, "lasts_s": 1.0},
        (0.1, 0.0, 0.0),
        (),
        _FINGER,
    ),
)
BEGINNINGS: dict[str, Beginning] = {one.key: one for one in _ALL}
