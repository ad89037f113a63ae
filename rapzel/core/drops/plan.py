"""A set of drops solved: sizes, falls, the jet, the meeting with its spread, and the instants that follow from them."""

from dataclasses import dataclass
from functools import lru_cache

from rapzel.core.drops.asked import Drops, OtherValve
from rapzel.core.drops.jet import Fitted, Jet, fit_jet
from rapzel.core.drops.liquids import LIQUIDS, drop_of
from rapzel.core.drops.meeting import (
    Falling,
    Meeting,
    Scatter,
    Spread,
    meeting_of,
    met_by,
    spread_of,
)
from rapzel.core.drops.sizes import Opening, calibrated, diameter_m
from rapzel.core.shared.steps import settled


@dataclass(frozen=True)
class Plan:
    """What is known of a set of drops; None where it is not."""

    asked: Drops
    opening: Opening | None
    diameter_m: float | None
    first: Falling
    second: Falling
    fitted: Fitted | None
    jet: Jet | None
    solved: Meeting | None  # as it should be set
    meeting: Meeting | None  # as it is set, or as solved
    spread: Spread | None

    @property
    def flash_s(self) -> float | None:
        """The delay of the flash [s], in whole steps."""
        if self.meeting is None:
            return None
        return _flash_s(self.asked, self.meeting)[1]

    @property
    def light_s(self) -> float | None:
        """When the light comes [s]."""
        if self.flash_s is None:
            return None
        return self.flash_s + self.asked.flash_lag_s

    @property
    def coarse_second_s(self) -> float:
        """A second release to begin with by eye, from usual times: its drop comes when a usual jet stands on top."""
        on_top = self.first.impact_s + self.asked.jet_after_s + self.asked.jet_top_s
        takes = (
            self.second.reaches_s(min(self.asked.meet_height_m, self.second.height_m))
            or 0.0
        )
        return max(on_top - takes, 0.0)

    def release_s(self, other: OtherValve) -> float | None:
        """When another valve must be told to open [s]; None where its drop never is there, negative where too late."""
        takes = self.falling(other).reaches_s(other.wanted_m)
        if takes is None or self.light_s is None:
            return None
        return settled(self.light_s - takes, self.asked.resolution_s)

    def falling(self, other: OtherValve) -> Falling:
        """The drop of another valve."""
        return Falling(other.height_m, other.lag_s, self.first.drop)


def planned(asked: Drops) -> Plan:
    """Everything of a set of drops; which instant is shown changes nothing of it."""
    return _planned(asked.model_copy(update={"shown_s": None}))


@lru_cache(maxsize=32)
def _planned(asked: Drops) -> Plan:
    # Without a weighing, a size is only what somebody says it is.
    weighed = [(each.open_s, each.drops, each.mass_kg) for each in asked.weighings]
    if weighed:
        opening = calibrated(weighed)
    else:
        opening = None
    size = _size_m(asked, opening)
    if size is None:
        drop = None
    else:
        drop = drop_of(size, asked.liquid)
    first = Falling(asked.valve_height_m, asked.valve_lag_s, drop)
    height = asked.second_valve_height_m or asked.valve_height_m
    second = Falling(height, asked.valve_lag_s, drop)
    fitted, jet = _jet(asked)
    solved = meeting = spread = None
    if jet is not None:
        falling = asked.leg == "falling"
        solved = meeting_of(
            jet, second, asked.meet_height_m, falling, asked.resolution_s
        )
        # What is set on the unit is what will happen, whatever would be right.
        if asked.second_set_s is None:
            meeting = solved
        else:
            meeting = met(jet, second, asked.second_set_s)
    if meeting is not None and jet is not None:
        scatter = _scatter(asked, fitted, meeting)
        # A jet about as thick as its drop: they touch while their middles are within one diameter (memory).
        # The unit's steps make the light a little early or late, and the same one each time.
        wanted, flash = _flash_s(asked, meeting)
        spread = spread_of(meeting, scatter, asked.lasts_s, size, flash - wanted)
    return Plan(
        asked, opening, size, first, second, fitted, jet, solved, meeting, spread
    )


def _size_m(asked: Drops, opening: Opening | None) -> float | None:
    """The drop's diameter as said, else as its open time gives it; None: not known."""
    if asked.diameter_m is not None or opening is None or asked.open_s is None:
        return asked.diameter_m
    mass = opening.mass_kg(asked.open_s)
    if mass > 0:
        return diameter_m(mass, LIQUIDS[asked.liquid].density_kg_m3)
    return None


def _jet(asked: Drops) -> tuple[Fitted | None, Jet | None]:
    """From frames first, which are measured; else as said. A frame's light comes the flash's lag after its delay."""
    # One frame shows a height, and two make a jet.
    if len(asked.observations) > 1:
        frames = [
            (each.flash_delay_s + asked.flash_lag_s, each.height_m)
            for each in asked.observations
        ]
        fitted = fit_jet(frames)
        return fitted, fitted.jet
    if asked.jet is not None:
        return None, Jet(asked.jet.launch_s, asked.jet.speed_m_s)
    return None, None


def met(jet: Jet, second: Falling, release_s: float) -> Meeting | None:
    """Where they meet with a second release, looked for all along the jet's way; None where they pass each other."""
    for about in (
        jet.apex_s,
        (jet.launch_s + jet.apex_s) / 2,
        (jet.apex_s + jet.falls_back_s) / 2,
    ):
        found = met_by(jet, second, release_s, about)
        if found is not None:
            return found
    return None


def _flash_s(asked: Drops, meeting: Meeting) -> tuple[float, float]:
    """The delay that the flash should have [s], and the nearest in whole steps."""
    wanted = meeting.at_s + asked.flash_after_s - asked.flash_lag_s
    return wanted, settled(wanted, asked.resolution_s)


def _scatter(asked: Drops, fitted: Fitted | None, meeting: Meeting) -> Scatter:
    if fitted is None or asked.jets_sd_m is not None:
        measured = None
    else:
        measured = fitted.differ_m
    return Scatter(
        step_s=asked.resolution_s,
        valve_sd_s=asked.valve_sd_s,
        jets_sd_m=measured if asked.jets_sd_m is None else asked.jets_sd_m,
        jets_doubt_m=None if fitted is None else fitted.doubt_m(meeting.at_s),
        aside_sd_m=asked.aside_sd_m,
        contains_first=measured is not None,
    )
