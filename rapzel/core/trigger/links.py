"""The links of a chain: what senses the event, what passes it on, and how long each takes (science §11).

A new kind is one class: its fields with their labels, its title, what a new one begins with; then a line in `Link` and
in `KINDS`. A lag or jitter that is null is not known, and is never taken for zero.
"""

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from rapzel.core.shared import constants
from rapzel.core.shared.part import Lag, NotNegative, shown
from rapzel.core.trigger.link import ChainLink, Delay, doubt_of, sd_of
from rapzel.core.trigger.sensors import Beam, Contact, LightSensor, Sound

__all__ = ["KINDS", "Beam", "ChainLink", "Contact", "Delay", "Device", "Finger", "LightSensor", "Link", "Radio",
           "Sound", "Valve"]  # fmt: skip


class Finger(ChainLink):
    """A person who reacts to the event, or who anticipates it in a rhythm; each has a mean and a spread of its own.

    `look_s`: how much later the person sees the event, through an electronic finder say. `lead_s`: how much before its
    time who anticipates presses on purpose.
    """

    kind: Literal["finger"] = "finger"
    way: Literal["reacts", "anticipates"] = "reacts"
    lag_s: float | None = shown(
        None,
        "Mean error",
        "duration",
        "after the event; empty: as people commonly are",
        ge=-1,
        le=5,
    )
    jitter_s: Lag | None = shown(
        None, "Its spread (sd)", "duration", "empty: as people commonly are"
    )
    # An electronic finder shows the event late; the finger cannot know.
    look_s: NotNegative = shown(
        0.0, "Finder's own lag", "duration", "0 past the camera or through glass"
    )

    lead_s: NotNegative = shown(
        0.0, "Pressed ahead by", "duration", "who anticipates can press before its time"
    )

    title = "finger"
    beginning: ClassVar = {"name": "Finger", "way": "reacts"}

    def extra_s(self) -> float:
        # Pressing ahead takes away what the finder and the body will add.
        return self.look_s - (self.lead_s if self.way == "anticipates" else 0.0)

    def doubt_s(self) -> float:
        if self.lag_s is not None and self.lag_provenance == "measured":
            return doubt_of(self.lag_s, "measured", self.lags_s)
        # A mean error near zero is not known the better for being small.
        return constants.FINGER_DOUBT_S[self.way]

    def delay(self) -> Delay:
        # Fingers are measured by the drills; until then they are taken to be common ones, and said
        # to be.
        usual = constants.FINGER_S[self.way]
        if self.lag_s is None:
            lag = usual[0]
        else:
            lag = self.lag_s
        if self.jitter_s is None:
            spread = usual[1]
        else:
            spread = self.jitter_s
        # One figure of one's own beside a usual one is still a guess as a whole.
        guessed = self.lag_s is None or self.jitter_s is None
        said = self.lag_provenance or ("estimated" if guessed else None)
        return Delay(
            f"{self.says()}, {self.way}",
            lag + self.extra_s(),
            sd_of(spread, self.jitter_shape),
            self.jitter_shape == "uniform",
            said,
            self.kind,
            self.id,
            self.doubt_s(),
        )


class Valve(ChainLink):
    """A valve that lets a drop go: from its command, which is the event, to the release, after which a delay counts."""

    kind: Literal["valve"] = "valve"
    title = "valve"
    beginning: ClassVar = {"name": "Valve", "lag_s": 0.004, "jitter_s": 0.0005}


class Device(ChainLink):
    """Anything else with a lag: a trigger unit, a relay. Delays are set in steps of `resolution_s`."""

    kind: Literal["device"] = "device"
    resolution_s: Lag | None = shown(
        None, "Delay in steps of", "duration", "empty: not known, any delay"
    )
    lockout_s: Lag | None = shown(
        None, "Locked out after", "duration", "deaf for so long; empty: not known"
    )

    title = "device"
    beginning: ClassVar = {"name": "Trigger unit", "lag_s": 0.0005, "jitter_s": 0.0001}


class Radio(ChainLink):
    """Sender and receiver between what fires the flash, the camera's contact or the unit, and the flash."""

    kind: Literal["radio"] = "radio"
    title = "radio to the flash"
    beginning: ClassVar = {"name": "Radio", "lag_s": 0.0006, "jitter_s": 0.0001}
    after_camera = True


Link = Annotated[
    Finger | Sound | Beam | LightSensor | Contact | Valve | Device | Radio,
    Field(discriminator="kind"),
]
KINDS: dict[str, type[ChainLink]] = {
    "finger": Finger,
    "sound": Sound,
    "beam": Beam,
    "light": LightSensor,
    "contact": Contact,
    "valve": Valve,
    "device": Device,
    "radio": Radio,
}
