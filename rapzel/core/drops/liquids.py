"""Liquids that drops are made of: how dense they are, for mass and drag."""

from dataclasses import dataclass

from rapzel.core.drops.sizes import mass_of
from rapzel.core.motion.flight import Sphere


@dataclass(frozen=True, slots=True)
class Liquid:
    """One of them at room temperature, wax just molten."""

    says: str
    density_kg_m3: float


# Water: CRC Handbook, 20 °C, checked against CoolProp. Glycerol in water by mass half and half: Cheng 2008, 20 °C,
# checked against CoolProp's mixture. The others from memory, within about 3 %.
LIQUIDS: dict[str, Liquid] = {
    "water": Liquid("water", 998.2),
    "glycerine": Liquid("half water, half glycerine", 1126.0),
    "milk": Liquid("milk", 1030.0),
    "cream": Liquid("cream", 1000.0),
    "wax": Liquid("molten wax", 780.0),
}


def drop_of(diameter_m: float, liquid: str) -> Sphere:
    """The drop of a diameter [m] as a sphere of its liquid, for its fall with drag."""
    return Sphere(diameter_m, mass_of(diameter_m, LIQUIDS[liquid].density_kg_m3))
