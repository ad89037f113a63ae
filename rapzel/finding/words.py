"""A set-up that was found, in the words of a set: lights, dials and what it takes."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from rapzel.core.shared import units


@dataclass(frozen=True)
class Words:
    """The facts of a set-up (`needs` and `cost` as the core writes them) in words; empty where they do not apply."""

    needs: Mapping[str, Any]
    cost: Mapping[str, Any]
    imperial: bool = False

    @property
    def rig(self) -> str:
        """How many of which light at which power."""
        return ", ".join(
            rig_in_words(one["strobe"], one["mode"], one["power"], one["count"])
            for one in self.needs["rig"]
        )

    @property
    def distance(self) -> str:
        return self.length(self.needs["distance_m"])

    @property
    def iso(self) -> str:
        return f"{self.needs['iso']:g}"

    @property
    def aperture(self) -> str:
        return units.format_f_number(self.needs["f_number"])

    @property
    def shutter(self) -> str:
        return units.format_shutter(self.needs["shutter_s"])

    @property
    def filter(self) -> str:
        stops = self.needs["nd_stops"]
        if stops:
            return f"{units.format_number(stops)} stop{'' if stops == 1 else 's'}"
        return ""

    @property
    def dials(self) -> str:
        """Everything that is set on the camera, in one line."""
        parts = [f"ISO {self.iso}", self.aperture, self.shutter]
        return ", ".join([*parts, f"ND {self.filter}"] if self.filter else parts)

    @property
    def rate(self) -> str:
        """Frames a second that it sustains."""
        between = self.cost["between_frames_s"]
        if between is None:
            return "not known"
        return f"{units.format_number(1 / between, 2)} /s"

    @property
    def between(self) -> str:
        """Time from one frame to the next."""
        between = self.cost["between_frames_s"]
        if between is None:
            return "not known"
        return units.format_time(between)

    @property
    def energy(self) -> str:
        """Of one frame, of all lights."""
        # Two digits: what a strobe stores is told in round figures, and its dial is not exact.
        return self._of_lights(self.cost["energy_ws"], " W s", digits=2)

    @property
    def price(self) -> str:
        """Of all lights, as the kit has it."""
        return self._of_lights(self.cost["price"], "", digits=9)

    def _of_lights(self, value: float | None, unit: str, digits: int) -> str:
        if not self.needs["rig"]:
            return ""
        if value is None:
            return "not known"
        return f"{units.format_number(value, digits)}{unit}"

    def length(self, value_m: float | None) -> str:
        if value_m is None:
            return ""
        return units.format_length(value_m, self.imperial)

    def stops(self, value: float | None) -> str:
        if value is None:
            return ""
        return f"{units.format_stops(value)} stops"


def rig_in_words(strobe: str, mode: str, power: float, count: int) -> str:
    """Two lights of a kind: '2 × Monobloc 600, speed at 1/8'."""
    if mode:
        called = f"{strobe}, {mode}"
    else:
        called = strobe or "light"
    return f"{count} × {called} at {units.format_power(power)}"
