"""The methods side by side on equal terms: the best set-up by each, which is best, and what would change that.

The one with the most light left is recommended. Of methods within a third of a stop of it the one is taken that needs
the least to be set up. None is left out: one that cannot be says why.
"""

import math
from dataclasses import dataclass, field
from typing import Any

from rapzel.core.document.scene import Scene
from rapzel.core.methods import METHODS
from rapzel.core.search.columns import Column
from rapzel.core.search.find import Kit, Progress, Search
from rapzel.core.search.limits import Limits
from rapzel.core.search.misses import nearest_of_each
from rapzel.core.search.reserve import (
    ALIKE_STOPS,
    Chart,
    Crossing,
    Reserves,
    chart_of,
    crossings_of,
    ev_of,
)
from rapzel.core.shared.once import once
from rapzel.core.shared.units import format_length, format_number, format_speed


@dataclass(frozen=True)
class Comparison:
    """The columns, the best first; which is recommended and why; where another would be."""

    columns: list[Column]
    recommended: str | None
    because: str
    crossings: list[Crossing] = field(default_factory=list)
    # (lights, reach [m])
    by_lights: list[tuple[int, float]] = field(default_factory=list)
    reserves: Reserves | None = None

    @once
    def chart(self) -> Chart | None:
        """The winner over room light and speed."""
        if self.reserves is not None:
            return chart_of(self.reserves)
        return None

    def column(self, key: str) -> Column:
        """The column of a method."""
        return next(one for one in self.columns if one.method.key == key)

    @property
    def here(self) -> tuple[float, float]:
        """Room light [EV; −∞ in the dark] and speed [m/s] of the scene."""
        if self.reserves is not None:
            search = self.reserves.search
        else:
            search = None
        if search is None or not search.ways:
            return -math.inf, 0.0
        return ev_of(search), search.ways[0].physics.trajectory.wanted_speed_m_s

    def turning(self, imperial: bool = False) -> list[str]:
        """What would change the verdict, in words."""
        words = [_crossing_in_words(one, self.here, imperial) for one in self.crossings]
        if self.by_lights:
            words.append(_lights_in_words(self.by_lights, imperial))
        return words

    def to_document(self) -> dict[str, Any]:
        """What `compare_methods` prints."""
        return {
            "methods": [one.to_document() for one in self.columns],
            "recommended": self.recommended,
            "because": self.because,
            "crossings": [
                {
                    "axis": one.axis,
                    "at": one.at,
                    "above": one.above,
                    "winner": one.winner,
                }
                for one in self.crossings
            ],
            "reach_by_lights": [
                {"lights": count, "m": reach} for count, reach in self.by_lights
            ],
            "turning": self.turning(),
        }


def compare(
    scene: Scene, kit: Kit, limits: Limits, progress: Progress | None = None
) -> Comparison:
    """Every method for the same scene on the same terms. `progress` is told the share that is done.

    Lights of one kind at a time are compared: no mixture is stronger than as many of its strongest part.
    """
    # (so that no step has to ask whether anybody listens)
    told = progress or _nobody
    search = Search(scene, kit, limits, mixed=False)
    # The search is about half of the work; the bar that is shown should move evenly.
    best = search.best_of_each(lambda share: told(share * 0.5))
    # Methods that can be and find nothing are told by how near they come.
    missing = [way.method.key for way in search.ways if way.method.key not in best]
    nearest = nearest_of_each(search, missing)
    told(0.8)
    reserves = Reserves(search)
    here = ev_of(search)
    if best:
        # By how much light is left, in a closed form that is cheap over a whole chart.
        recommended = reserves.winner(here)
    else:
        recommended = None
    # The closed form may prefer what the search cannot set on its marks: what was found goes first.
    if recommended not in best:
        recommended = next(iter(best), None)
    left = reserves.of(here)
    columns = [
        # What cannot be has its reason, and nothing that could be taken for a figure.
        Column(METHODS[key], search.reasons[key])
        if search.reasons[key]
        else Column(
            METHODS[key],
            "",
            best.get(key),
            nearest.get(key),
            _known(left.get(key)) if key in best else None,
            reserves.reach_m(key),
        )
        for key in search.reasons
    ]
    # Sorted once here, so that page, file and command list them alike.
    columns.sort(key=lambda one: _merit(one, recommended))
    told(0.9)
    return Comparison(
        columns,
        recommended,
        _because(columns, recommended),
        crossings_of(reserves),
        _reach_by_lights(reserves, recommended),
        reserves,
    )


def _known(reserve: Any) -> float | None:
    """A reserve; None where the closed form has none."""
    if reserve is None or not math.isfinite(reserve):
        return None
    return float(reserve)


def _merit(one: Column, recommended: str | None) -> tuple[bool, bool, bool, float]:
    """What sorts columns: the recommended, those that work by reserve, near ones by how near, those that cannot be."""
    if one.miss:
        near = one.miss.by_stops
    else:
        near = math.inf
    if one.works:
        by = -(one.reserve_stops or 0.0)
    else:
        by = near
    # False sorts before True: the recommended comes first, what works next.
    return (one.method.key != recommended, not one.works, not one.possible, by)


def _because(columns: list[Column], recommended: str | None) -> str:
    """Why one is recommended, by how much."""
    if recommended is None:
        near = _nearest(columns)
        if near is None:
            return "Nothing works within these limits, and nothing comes near."
        return f"Nothing works within these limits. Nearest is {near.method.title}: {near.binds}."
    best, *others = columns
    # It is recommended against what works; being ahead of what fails is no merit.
    rivals = [one for one in others if one.works]
    title = best.method.title[0].upper() + best.method.title[1:]
    if not rivals:
        return f"{title}: the only method that works within these limits."
    mine, rival = best.reserve_stops or 0.0, rivals[0]
    ahead = mine - (rival.reserve_stops or 0.0)
    # Nobody should change the method for less than a step of a dial.
    if ahead <= ALIKE_STOPS:
        return f"{title}: {_left(mine)}, as much as {rival.method.title}, and less to set up."
    return f"{title}: {_left(mine)}, {ahead:.1f} more than {rival.method.title}."


def _nearest(columns: list[Column]) -> Column | None:
    """The method that comes nearest; of those within a third of a stop the one with the least to set up."""
    near = [(one.miss.by_stops, one) for one in columns if one.miss is not None]
    if not near:
        return None
    least = min(by for by, _ in near)
    alike = [one for by, one in near if by <= least + ALIKE_STOPS]
    return min(alike, key=lambda one: one.method.effort)


def _left(stops: float) -> str:
    return f"{stops:.1f} stops of light left within these limits"


def _reach_by_lights(
    reserves: Reserves, recommended: str | None
) -> list[tuple[int, float]]:
    """How far one, two, … lights reach by the recommended method."""
    # Lights do not carry a method that fires none.
    if recommended is None or not METHODS[recommended].flashes:
        return []
    reaches = [
        (count, reserves.reach_m(recommended, count))
        for count in range(1, reserves.limits.lights + 1)
    ]
    return [(count, reach) for count, reach in reaches if reach is not None]


def _crossing_in_words(one: Crossing, here: tuple[float, float], imperial: bool) -> str:
    """Where another method overtakes, and what stays as it is meanwhile: the other axis of the chart.

    “About”: it lies between two marks of the dials, which a set-up has to be on.
    """
    ev100, speed_m_s = here
    if one.winner is None:
        # Beyond the crossing every method runs out of light.
        what = "nothing works"
    else:
        what = f"{METHODS[one.winner].title} wins"
    if one.axis == "room":
        which = "above" if one.above else "below"
        there = f"{which} about EV {format_number(one.at, 2)} {what}"
        if not speed_m_s:
            return there
        return f"at {format_speed(speed_m_s, imperial)}: {there}"
    room = "in the dark"
    if math.isfinite(ev100):
        room = f"in EV {format_number(ev100, 2)}"
    which = "faster" if one.above else "slower"
    return f"{room}: {which} than about {format_speed(one.at, imperial)} {what}"


def _lights_in_words(reaches: list[tuple[int, float]], imperial: bool) -> str:
    words = [
        f"{_count(count)} up to {format_length(reach, imperial)}"
        for count, reach in reaches
    ]
    return f"lights reach: {', '.join(words)}"


_COUNTS = [
    "no",
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
]


def _count(lights: int) -> str:
    return _COUNTS[lights]


def _nobody(share: float) -> None:
    """Nobody wants to know how far it is."""
