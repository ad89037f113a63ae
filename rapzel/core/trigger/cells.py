"""How long cells last behind a trigger that waits, and whether a visitor is still there once it is awake (§12)."""

import math
from dataclasses import dataclass

from scipy.special import ndtr

from rapzel.core.shared.errors import OutOfRange

# Capacity of one cell at the small currents of a device that waits [mAh], 20 °C (memory: read the maker's figure).
CAPACITY_MAH = {
    "AAA": {"alkaline": 1100.0, "nimh": 800.0, "lithium": 1200.0},
    "AA": {"alkaline": 2600.0, "nimh": 2000.0, "lithium": 3000.0},
    "C": {"alkaline": 7500.0, "nimh": 4500.0, "lithium": 9000.0},
    "D": {"alkaline": 15000.0, "nimh": 8500.0, "lithium": 19000.0},
    "9V": {"alkaline": 550.0, "nimh": 200.0, "lithium": 1200.0},
}
# Share of the capacity left at −10 °C against 20 °C, straight between (memory).
AT_MINUS_TEN = {"alkaline": 0.4, "nimh": 0.75, "lithium": 0.9}
DOUBT = 0.25  # of a capacity from such a table, either way (memory)


@dataclass(frozen=True, slots=True)
class Cells:
    """A holder of cells: so many in series, so many rows of them side by side."""

    kind: str
    series: int = 1
    parallel: int = 1
    chemistry: str = "alkaline"
    capacity_mah: float | None = None  # of one cell, where the maker says it

    def __post_init__(self) -> None:
        if self.kind not in CAPACITY_MAH:
            raise OutOfRange("kind", math.nan, f"one of {', '.join(CAPACITY_MAH)}")

    def charge_mah(self, temperature_c: float = 20.0) -> float:
        """What the holder gives [mAh]: cells in series add voltage, rows side by side add charge."""
        one = self.capacity_mah or CAPACITY_MAH[self.kind][self.chemistry]
        return one * self.parallel * cold_share(self.chemistry, temperature_c)


def cold_share(chemistry: str, temperature_c: float) -> float:
    """Share of the capacity that is left in the cold [0 … 1]."""
    low = AT_MINUS_TEN[chemistry]
    # A straight line through what is known at +20 and −10 °C; never nothing, never more than all.
    return min(max(1 - (1 - low) * (20 - temperature_c) / 30, 0.05), 1.0)


def nights(
    charge_mah: float, standby_ma: float, hours: float, events: float, event_mas: float
) -> float:
    """Nights until a charge is used: charge / (standby · hours + events · charge of one event); infinite without use.

    hours: of standby from one evening to the next; event_mas: what one event takes [mA s].
    """
    # mA s to mAh.
    use = standby_ma * hours + events * event_mas / 3600
    if use > 0:
        return charge_mah / use
    return math.inf


def heard(events_per_night: float, night_h: float, deaf_s: float) -> float:
    """Share of the visits that come while the trigger is not deaf [0 … 1].

    Visits are Poisson; after each that is answered it is deaf for so long, so 1 / (1 + rate · deaf time) is answered.
    Source: a counter with a dead time that new events do not lengthen (renewal theory).
    """
    rate = events_per_night / (night_h * 3600)
    return 1 / (1 + rate * deaf_s)


def still_there(wait_s: float, stays_s: float, stays_sd_s: float) -> float:
    """Chance that a visitor stays longer than `wait_s`, stays being normal [0 … 1]."""
    if stays_sd_s == 0:
        return float(stays_s > wait_s)
    return float(ndtr((stays_s - wait_s) / stays_sd_s))
