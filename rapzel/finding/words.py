"""A set-up that was found, in the words of a set: lights, dials and what it takes."""

from dataclasses import dataclass

from rapzel.core.search.hits import Hit
from rapzel.core.shared import units


@dataclass(frozen=True)
class Words:
    """The facts of a set-up; empty where there is none."""

    hit: Hit | None
    imperial: bool = False

    @property
    def rig(self) -> str:
        """How many of which light at which power."""
        if self.hit is None:
            return ""
        return ", ".join(
            rig_in_words(one["strobe"], one["mode"], one["power"], one["count"])
            for one in self.hit.rig_document
        )

    @property
    def distance(self) -> str:
        return "" if self.hit is None or not self.hit.rig else self.length(self.hit.distance_m)

    @property
    def iso(self) -> str:
        return "" if self.hit is None else f"{self.hit.iso:g}"

    @property
    def aperture(self) -> str:
        return "" if self.hit is None else units.format_f_number(self.hit.f_number)

    @property
    def shutter(self) -> str:
        return "" if self.hit is None else units.format_shutter(self.hit.shutter_s)

    @property
    def filter(self) -> str:
        if self.hit is None or not self.hit.nd_stops:
            return ""
        stops = self.hit.nd_stops
        return f"{units.format_number(stops)} stop{'' if stops == 1 else 's'}"

    @property
    def rate(self) -> str:
        """Frames a second that it sustains."""
        if self.hit is None:
            return ""
        rate = self.hit.evaluation.pace.sustained_fps
        return "not known" if rate is None else f"{units.format_number(rate, 2)} /s"

    @property
    def energy(self) -> str:
        """Of one frame, of all lights."""
        if self.hit is None or not self.hit.rig:
            return ""
        energy = self.hit.cost["energy_ws"]
        return "not known" if energy is None else f"{units.format_number(energy, 2)} W s"

    def length(self, value_m: float | None) -> str:
        return "" if value_m is None else units.format_length(value_m, self.imperial)

    def stops(self, value: float | None) -> str:
        return "" if value is None else f"{units.format_stops(value)} stops"


def rig_in_words(strobe: str, mode: str, power: float, count: int) -> str:
    """Two lights of a kind: '2 × Monobloc 600, speed at 1/8'."""
    called = f"{strobe}, {mode}" if mode else strobe or "light"
    return f"{count} × {called} at {units.format_power(power)}"
