"""The light of a scene outdoors, from its sky, place and time (science §6)."""

from rapzel.core.document.sky import SkyAt
from rapzel.core.light import sky
from rapzel.core.shared.working import Step, step


def elevation_deg(at: SkyAt, hour: float | None = None) -> float:
    """Height of the sun [°] at the scene's hour, or at another one of that day."""
    return sky.sun_elevation_deg(
        at.latitude_deg, at.longitude_deg, at.at(at.hour if hour is None else hour)
    )


def ev100_of(at: SkyAt) -> tuple[float, Step]:
    """EV at ISO 100 with its working."""
    height, known = elevation_deg(at), sky.SKIES[at.state]
    usual, low, high = sky.subject_ev100(at.state, height, at.facing)
    formula = (
        f"{known.title}, sun at {height:.1f}°{_turned(at)}: EV {low:.1f} to {high:.1f}"
    )
    return usual, step("EV100", usual, "EV", formula, known.source, "estimated")


def _turned(at: SkyAt) -> str:
    """Where the subject is turned, as a part of the working."""
    if at.facing is None:
        return ", subject turned anywhere"
    return ", subject turned " + _TURNED[at.facing]


_TURNED = {"sun": "to it", "across": "across it", "away": "away from it"}


def doubt_stops(at: SkyAt) -> float:
    """How far the light of the sky may be off [stops], the farther side."""
    usual, low, high = sky.subject_ev100(at.state, elevation_deg(at), at.facing)
    return max(usual - low, high - usual)
