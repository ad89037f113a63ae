"""The light ladder: from full power bare at 1 m down to the margin left at the subject (science §5). Stops."""

import math
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Rung:
    """One rung of the light ladder: what it does, in stops, and the running total after it."""

    name: str
    detail: str
    stops: float
    total_stops: float


_ALWAYS = ("Full power, bare, 1 m", "Power", "Distance", "ISO", "Aperture")


def ladder(steps: list[tuple[str, str, float]]) -> list[Rung]:
    """Rungs from (name, detail, stops); what changes nothing is left out, but for the dials that are always there."""
    rungs: list[Rung] = []
    total = 0.0
    for name, detail, stops in steps:
        total += stops
        # A rung of nothing would make a reader look for what it does.
        if stops or name in _ALWAYS:
            rungs.append(Rung(name, detail, stops, total))
    return rungs


def steps_of(
    guide_number_m: float,
    distance_m: float,
    iso: float,
    f_number: float,
    power: tuple[float, float],
) -> dict[str, tuple[str, float]]:
    """The dials that every light has: detail and stops by name; power is (share of full, its light in stops)."""
    return {
        "Full power, bare, 1 m": (
            f"GN {guide_number_m:.3g} m at ISO 100",
            2 * math.log2(guide_number_m),
        ),
        "Power": (f"{power[0]:.4g} of full", power[1]),
        "Distance": (f"{distance_m:g} m", -2 * math.log2(distance_m)),
        "ISO": (f"{iso:g} against 100", math.log2(iso / 100)),
        "Aperture": (f"f/{f_number:g} needs", -2 * math.log2(f_number)),
    }
