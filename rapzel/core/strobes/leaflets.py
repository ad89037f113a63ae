"""What meters and leaflets say of a strobe's light, turned into one figure: the guide number (science §5).

Each answer says how sure it is. Watt-seconds tell what the capacitor holds, not what comes out of the reflector, so
they give an estimate with a wide spread.
"""

import math
from dataclasses import dataclass

from rapzel.core.shared import constants
from rapzel.core.shared.errors import require_positive
from rapzel.core.shared.working import Provenance
from rapzel.core.shutter.rows import slit_loss_stops

# of a bare tube in a usual reflector (memory); from 7 to 30 in practice
CANDELA_SECONDS_PER_WS = 15.0
_SPREAD_WS = constants.LIGHT_DOUBT["estimated"]  # stops, either way
_SPREAD_CLAIM = constants.LIGHT_DOUBT["claimed"]  # leaflets flatter
_SPREAD_METER = constants.LIGHT_DOUBT["measured"]  # a flash meter reads in tenths


@dataclass(frozen=True, slots=True)
class Light:
    """A guide number [m, ISO 100] at full power, how it is known, and its spread either way [stops]."""

    guide_number_m: float
    provenance: Provenance
    spread_stops: float
    formula: str
    source: str

    @property
    def range_m(self) -> tuple[float, float]:
        """The guide numbers between which it lies [m]: its spread, by half a power of two a stop."""
        return self.guide_number_m * 2 ** (
            -self.spread_stops / 2
        ), self.guide_number_m * 2 ** (self.spread_stops / 2)


def from_guide_number(guide_number_m: float, iso: float = 100.0) -> Light:
    """A guide number [m] at any ISO: GN √(100 / ISO). Source: ISO 1230."""
    require_positive(guide_number_m=guide_number_m, iso=iso)
    # Leaflets state guide numbers at ISO 200 as well, which look better.
    value = guide_number_m * math.sqrt(100 / iso)
    return Light(
        value, "claimed", _SPREAD_CLAIM, "GN √(100 / ISO)", constants.SOURCE_ISO_1230
    )


def from_f_number(
    f_number: float, distance_m: float, iso: float = 100.0, power: float = 1.0
) -> Light:
    """A meter's f-number at a distance [m], at a power [share of full]: N d √(100 / ISO) / √power. ISO 1230."""
    require_positive(f_number=f_number, distance_m=distance_m, iso=iso, power=power)
    # Measured at less than full power, full is brighter by the same share.
    value = f_number * distance_m * math.sqrt(100 / iso / power)
    return Light(
        value,
        "measured",
        _SPREAD_METER,
        "N · d · √(100 / ISO) / √power",
        constants.SOURCE_ISO_1230,
    )


def from_lux_seconds(lux_s: float, distance_m: float) -> Light:
    """Luminous exposure at a distance [lx s, m]: N² = H · 100 / C with C = 250 (ISO 2720), times the distance."""
    require_positive(lux_s=lux_s, distance_m=distance_m)
    # What falls onto the meter at its distance, brought to one metre.
    value = math.sqrt(lux_s * 100 / constants.FLAT_RECEPTOR_C) * distance_m
    return Light(
        value,
        "measured",
        _SPREAD_METER,
        "√(H · 100 / C) · d, C = 250",
        constants.SOURCE_ISO_2720,
    )


def from_bcps(candela_s: float) -> Light:
    """Beam candle-power seconds [cd s]: H = I / d², so GN = √(I · 100 / C) with C = 250 (ISO 2720)."""
    require_positive(candela_s=candela_s)
    value = math.sqrt(candela_s * 100 / constants.FLAT_RECEPTOR_C)
    return Light(
        value,
        "claimed",
        _SPREAD_CLAIM,
        "√(BCPS · 100 / C), C = 250",
        constants.SOURCE_ISO_2720,
    )


def from_watt_seconds(energy_ws: float) -> Light:
    """An estimate from the stored energy [W s], with 15 cd s a watt-second in a usual reflector (memory)."""
    require_positive(energy_ws=energy_ws)
    value = math.sqrt(
        energy_ws * CANDELA_SECONDS_PER_WS * 100 / constants.FLAT_RECEPTOR_C
    )
    return Light(
        value, "estimated", _SPREAD_WS, "√(Ws · 15 cd s/Ws · 100 / C)", "memory"
    )


def own_hss_loss_stops(weaker_stops: float, travel_s: float, shutter_s: float) -> float:
    """The strobe's own HSS loss [stops] from one pair of frames or readings at the same power, aperture and ISO.

    weaker_stops: how much darker the HSS frame is; the slit's own loss log2((T_c + t_s) / t_s) is taken off.
    """
    require_positive(shutter_s=shutter_s)
    return max(weaker_stops - slit_loss_stops(travel_s, shutter_s), 0.0)
