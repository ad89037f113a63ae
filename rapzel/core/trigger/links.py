"""The links of a chain: what senses the event, what passes it on, and how long each takes (science §11).

A new kind is one class here: its fields with their labels, its title, what a new one begins with; then a line in
`Link` and in `KINDS`. A lag or jitter that is null is not known, and is never taken for zero.
"""

import math
from dataclasses import dataclass
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from rapzel.core.shared import constants
from rapzel.core.shared.part import Identity, Lag, Name, NotNegative, Part, shown
from rapzel.core.shared.working import Provenance

Shape = Literal["normal", "uniform"]


@dataclass(frozen=True, slots=True)
class Delay:
    """One lag of the chain: its mean [s] and its jitter as a standard deviation [s]; None is not known."""

    name: str
    lag_s: float | None
    jitter_s: float | None
    uniform: bool = False
    provenance: Provenance | None = None
    kind: str = "device"

    @property
    def known(self) -> bool:
        return self.lag_s is not None and self.jitter_s is not None


def speed_of_sound_m_s(temperature_c: float) -> float:
    """Speed of sound in dry air [m/s]: 331.3 √(1 + T/273.15); 2.9 ms per metre at 20 °C. Checked against CoolProp."""
    return constants.SOUND_AT_0C_M_S * math.sqrt(1 + temperature_c / constants.ZERO_CELSIUS_K)


class ChainLink(Part):
    """What every link has."""

    id: Identity | None = None
    name: Name = ""
    lag_s: Lag | None = shown(None, "Lag", "duration", "empty: not known")
    jitter_s: Lag | None = shown(
        None, "Its jitter", "duration", "sd, or half width where even; empty: not known"
    )
    lag_provenance: Provenance | None = None
    jitter_shape: Shape = Field("normal", description="jitter_s is its sd, or its half width")

    title: ClassVar[str]
    beginning: ClassVar[dict[str, Any]]

    def extra_s(self) -> float:
        """What comes on top of the link's own lag [s]."""
        return 0.0

    @property
    def upstream_m(self) -> float:
        """How far before the wanted place the link senses the subject [m]."""
        return 0.0

    def says(self) -> str:
        """The link by name, as the chain shows it."""
        return self.name or self.title

    def delay(self) -> Delay:
        """Mean and standard deviation of the link; a uniform half width w counts as w/√3."""
        uniform = self.jitter_shape == "uniform"
        sd = (
            None
            if self.jitter_s is None
            else self.jitter_s / math.sqrt(3)
            if uniform
            else self.jitter_s
        )
        lag = None if self.lag_s is None else self.lag_s + self.extra_s()
        return Delay(self.says(), lag, sd, uniform, self.lag_provenance, self.kind)

    kind: str


class Finger(ChainLink):
    """A person who reacts to the event, or who anticipates it in a rhythm; each has a mean and a spread of its own."""

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

    title = "finger"
    beginning: ClassVar = {"name": "Finger", "way": "reacts"}

    def delay(self) -> Delay:
        usual = constants.FINGER_S[self.way]
        lag = usual[0] if self.lag_s is None else self.lag_s
        spread = usual[1] if self.jitter_s is None else self.jitter_s
        sd = spread / math.sqrt(3) if self.jitter_shape == "uniform" else spread
        said = self.lag_provenance or (
            "estimated" if self.lag_s is None or self.jitter_s is None else None
        )
        return Delay(
            f"{self.says()}, {self.way}", lag, sd, self.jitter_shape == "uniform", said, self.kind
        )


class Sound(ChainLink):
    """A microphone: its lag grows with the air between it and the event."""

    kind: Literal["sound"] = "sound"
    distance_m: NotNegative = shown(0.0, "Distance to the sound", "length")
    temperature_c: float = shown(20.0, "Temperature, °C", "temperature", gt=-273.15, le=1000)

    title = "sound"
    beginning: ClassVar = {
        "name": "Sound trigger",
        "lag_s": 0.0002,
        "jitter_s": 0.0001,
        "distance_m": 0.5,
    }

    def extra_s(self) -> float:
        return self.distance_m / speed_of_sound_m_s(self.temperature_c)

    def says(self) -> str:
        return f"{super().says()}, {self.distance_m:g} m of air"


class Beam(ChainLink):
    """A beam that the subject crosses, upstream of the place where it is wanted."""

    kind: Literal["beam"] = "beam"
    distance_m: NotNegative = shown(0.0, "Upstream", "length", "from the beam to the wanted place")

    title = "beam"
    beginning: ClassVar = {
        "name": "Beam pair",
        "lag_s": 0.0001,
        "jitter_s": 0.00005,
        "distance_m": 0.3,
    }

    @property
    def upstream_m(self) -> float:
        return self.distance_m


class LightSensor(ChainLink):
    """A sensor of light: lightning, a spark, another flash."""

    kind: Literal["light"] = "light"
    title = "light sensor"
    beginning: ClassVar = {"name": "Light sensor", "lag_s": 0.00005, "jitter_s": 0.00001}


class Contact(ChainLink):
    """Two conductors that the event brings together or parts."""

    kind: Literal["contact"] = "contact"
    title = "contact"
    beginning: ClassVar = {"name": "Contact", "lag_s": 0.0001, "jitter_s": 0.00005}


class Valve(ChainLink):
    """A valve that lets a drop go: from its command to the release."""

    kind: Literal["valve"] = "valve"
    title = "valve"
    beginning: ClassVar = {"name": "Valve", "lag_s": 0.004, "jitter_s": 0.0005}


class Device(ChainLink):
    """Anything else with a lag: a trigger unit, a radio, a relay."""

    kind: Literal["device"] = "device"
    title = "device"
    beginning: ClassVar = {"name": "Trigger unit", "lag_s": 0.0005, "jitter_s": 0.0001}


Link = Annotated[
    Finger | Sound | Beam | LightSensor | Contact | Valve | Device, Field(discriminator="kind")
]
KINDS: dict[str, type[ChainLink]] = {
    "finger": Finger,
    "sound": Sound,
    "beam": Beam,
    "light": LightSensor,
    "contact": Contact,
    "valve": Valve,
    "device": Device,
}
