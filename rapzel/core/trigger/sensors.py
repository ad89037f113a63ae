"""The links that sense the event: a microphone, a beam, a sensor of light, a contact (science §11)."""

import math
from typing import ClassVar, Literal, Self

from pydantic import Field, model_validator

from rapzel.core.shared import constants
from rapzel.core.shared.errors import OutOfRange
from rapzel.core.shared.part import NotNegative, shown
from rapzel.core.shared.units import format_length
from rapzel.core.trigger.air import speed_of_sound_m_s
from rapzel.core.trigger.link import ChainLink


class Sound(ChainLink):
    """A microphone: its lag grows with the air between it and the event, a delay line without electronics."""

    kind: Literal["sound"] = "sound"
    # The commonest delay of all: a metre of air is three milliseconds.
    distance_m: NotNegative = shown(0.0, "Distance to the sound", "length")
    temperature_c: float = shown(
        20.0, "Temperature, °C", "temperature", gt=-273.15, le=1000
    )
    # Of little weight, so that it may stay empty without making the lag unknown.
    humidity_percent: float | None = shown(
        None, "Humidity, %", "number", "empty: dry air; 50 % adds 0.2 %", ge=0, le=100
    )
    # A soft sound climbs to the threshold; a pop is there at once.
    rise_s: NotNegative = shown(
        0.0, "It rises to the threshold in", "duration", "from a recording; 0: at once"
    )
    # An echo comes back by way of the nearest wall, and may fire a second time.
    wall_m: float | None = shown(
        None,
        "To the nearest wall",
        "length",
        "from the microphone; empty: none near",
        ge=0,
        le=1e4,
    )
    # What else is loud may fire in place of the event.
    neighbour_m: float | None = shown(
        None,
        "To the next loud thing",
        "length",
        "from the microphone; empty: none",
        ge=0.01,
        le=1e5,
    )
    neighbour_db: float = shown(
        0.0,
        "Louder than the event, dB",
        "number",
        "at equal distance; negative: quieter",
        ge=-120,
        le=120,
    )

    title = "sound"
    beginning: ClassVar = {
        "name": "Sound trigger", "lag_s": 0.0002, "jitter_s": 0.0001, "distance_m": 0.5,
    }  # fmt: skip

    @model_validator(mode="after")
    def _air_is_known(self) -> Self:
        try:
            speed_of_sound_m_s(self.temperature_c, self.humidity_percent)
        except OutOfRange as error:
            raise ValueError(str(error)) from None
        return self

    @property
    def speed_m_s(self) -> float:
        """Of sound in this air [m/s]."""
        return speed_of_sound_m_s(self.temperature_c, self.humidity_percent)

    def extra_s(self) -> float:
        # Beyond the electronics: the way through the air, and the rise at its end.
        return self.distance_m / self.speed_m_s + self.rise_s

    def doubt_s(self) -> float:
        # The air is known as well as the tape that measured it.
        air = self.distance_m / self.speed_m_s * constants.TAPE_DOUBT
        return math.hypot(super().doubt_s(), air)

    def says(self) -> str:
        return f"{super().says()}, {self.distance_m:g} m of air"


class Beam(ChainLink):
    """A beam that the subject crosses, upstream of the place where it is wanted.

    Where it stands: `distance_m` upstream along the usual way, which cuts it `offset_m` from its middle; it lies in the
    direction `lies`, turned by `turned_deg` towards the way. `zone_m`: anywhere along so much of the way it may fire.
    """

    kind: Literal["beam"] = "beam"
    # How it senses decides how sharply it knows the place.
    variety: Literal["pencil", "reflective", "heat"] = "pencil"
    distance_m: NotNegative = shown(
        0.0, "Upstream", "length", "from the beam to the wanted place"
    )
    length_m: float | None = shown(
        None,
        "Its length",
        "length",
        "between the ends, or the set range; empty: not known",
        ge=1e-3,
        le=1e4,
    )
    lies: Literal["depth", "across", "up"] | None = Field(
        None,
        description="along the optical axis, across the frame, upright; null: as suits the way",
    )
    turned_deg: float = shown(
        0.0, "Turned", "angle", "from that direction towards the way", ge=-80, le=80
    )
    offset_m: float = shown(
        0.0,
        "Cut off its middle by",
        "length",
        "where the usual way meets it",
        ge=-1e4,
        le=1e4,
    )
    zone_m: NotNegative = shown(
        0.0,
        "Wide along the way",
        "length",
        "a heat sensor's zone: it fires anywhere within",
    )
    # Two in a row measure the speed of each try, see the tool of the two beams.
    second_m: float | None = shown(
        None,
        "A second beam after",
        "length",
        "its speedometer; empty: one beam",
        ge=1e-3,
        le=1000,
    )

    title = "beam"
    beginning: ClassVar = {
        "name": "Beam pair", "lag_s": 0.0001, "jitter_s": 0.00005, "distance_m": 0.3,
    }  # fmt: skip

    @property
    def upstream_m(self) -> float:
        return self.distance_m

    def says(self) -> str:
        if self.second_m is None:
            two = ""
        else:
            two = f" and a second {format_length(self.second_m)} on"
        return f"{super().says()}{two}"


class LightSensor(ChainLink):
    """A sensor of light: lightning, a spark, another flash."""

    kind: Literal["light"] = "light"
    title = "light sensor"
    beginning: ClassVar = {
        "name": "Light sensor",
        "lag_s": 0.00005,
        "jitter_s": 0.00001,
    }


class Contact(ChainLink):
    """Two conductors that the event brings together or parts."""

    kind: Literal["contact"] = "contact"
    title = "contact"
    beginning: ClassVar = {"name": "Contact", "lag_s": 0.0001, "jitter_s": 0.00005}
