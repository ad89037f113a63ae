"""How much light each method has left, in closed form, and where one method overtakes another (science §8).

For each method and shutter only two things of a kit matter: how long its light lasts and how strong it is. So the
strongest light that is short enough, put at the nearest place, tells what ISO and aperture it leaves: the *reserve* is
the stops between those and the limits. It needs no search, which makes charts and crossing points quick; equal numbers
of one kind of light are enough for it, since no mixture is stronger than as many of its strongest part.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from rapzel.core.methods import METHODS
from rapzel.core.search.find import Search
from rapzel.core.search.fitting import Room, asked_of
from rapzel.core.search.rigs import rows_at
from rapzel.core.search.ways import Array, Dials, Way

NONE = -math.inf  # the reserve of a method that cannot do it
# from a moonlit night, below which rooms count as dark, to sun on snow
DARKEST_EV, BRIGHTEST_EV = (
    -6.0,
    17.0,
)
_ROOM_STEP_EV = 0.25
# where lights may stand: to 400 m in quarters of an octave
_NEAREST_M, _REACHES = 0.1, 48
_OUT_OF_REACH_M = 1e6
ALIKE_STOPS = 1 / 3  # less than a step of a dial tells no two methods apart


@dataclass(frozen=True)
class Strongest:
    """One method at one shutter: the strongest light (log2 N² at 1 m, ISO 100) by how long it may last [s]."""

    shutter_s: float
    lasts_s: Array  # rising
    # the strongest of all that last at most that long; −∞ behind the last, for none
    light: Array

    def light_within(self, limit_s: Array) -> Array:
        """log2 of the strongest light that lasts no longer; −∞ where none does."""
        at = np.searchsorted(self.lasts_s, limit_s * (1 + 1e-9), "right")
        return np.asarray(self.light[at - 1])


class Reserves:
    """The reserves of every method that a scene's camera and a kit can do, at any room and speed."""

    def __init__(self, search: Search) -> None:
        self.search, self.limits = search, search.limits
        places = search.places
        self.nearest = float(places.gain_stops.max())  # of all places: the most light
        self.bare_stops = -min(modifier.loss_stops for modifier in places.modifiers)
        self._free = self.limits.relaxed(freeze_stops=-1e6)
        self._strongest = {
            way.method.key: [self._at(way, shutter) for shutter in way.shutters]
            for way in search.ways
        }

    def _at(self, way: Way, shutter_s: float) -> Strongest:
        """All that meets the shutter and keeps up, whatever it freezes."""
        step = self.search.step(way, shutter_s)
        rows = rows_at(way, step.at, self._free, self.search.alone(step))
        order = np.argsort(rows.lasts_s, kind="stable")
        light = np.log2(np.maximum(rows.light[order], 1e-300))
        if len(light):
            # Allowed to last longer, one may still use what is shorter.
            strongest = np.maximum.accumulate(light)
        else:
            strongest = light
        return Strongest(shutter_s, rows.lasts_s[order], np.append(strongest, -np.inf))

    def of(self, evs: Any, faster: Any = 1.0) -> dict[str, Any]:
        """The reserve of each method [stops] in rooms of an EV (−∞: dark), the subject so many times as fast.

        Numbers give numbers; a row of EVs and a column of speeds give a table for each method.
        """
        return {
            way.method.key: self._reserve(way, evs, faster, self.nearest)
            for way in self.search.ways
        }

    def _reserve(self, way: Way, evs: Any, faster: Any, gain_stops: Any) -> Any:
        """The stops between what is needed and the most that the dials give; −∞ where the look cannot be had.

        gain_stops: what distance and modifier do to the light. All numbers, or arrays that go together.
        """
        strongest = self._strongest[way.method.key]
        if not strongest:
            return np.full(
                np.broadcast_shapes(*map(np.shape, (evs, faster, gain_stops))), NONE
            )
        axes = max(np.ndim(evs), np.ndim(faster), np.ndim(gain_stops))
        evs, faster, gain_stops = (
            np.array(one, ndmin=axes) for one in (evs, faster, gain_stops)
        )
        shutters = np.array([one.shutter_s for one in strongest]).reshape(
            -1, *[1] * axes
        )
        # Twice as fast, half as long.
        within_s = way.limit_s / faster * 2.0**-self.limits.freeze_stops
        if way.method.flashes:
            flash = (
                np.array([one.light_within(within_s) for one in strongest]) + gain_stops
            )
            able = np.isfinite(flash)
        else:
            # So many stops down are nothing, and unlike −∞ they can be reckoned with.
            flash = np.full(within_s.shape, -1e3)
            able = shutters <= within_s * (1 + 1e-9)
        room = asked_of(way, shutters, evs, faster)
        dials, tolerance = (
            self.search.tables[way.method.key].dials,
            self.limits.tolerance_stops,
        )
        return np.where(able, reserve_stops(flash, room, dials, tolerance), NONE).max(
            axis=0
        )

    def winners(
        self, evs: Any, faster: Any
    ) -> tuple[tuple[str, ...], npt.NDArray[np.int64]]:
        """(methods, which of them has the most reserve; −1 where none can do it), for a table of rooms and speeds.

        Of those within a third of a stop it is the one with the least to set up.
        """
        tables = self.of(evs, faster)
        keys = tuple(tables)
        stacked = np.array(np.broadcast_arrays(*(tables[key] for key in keys)))
        efforts = np.array([METHODS[key].effort for key in keys], dtype=float)
        efforts = efforts.reshape(-1, *[1] * (stacked.ndim - 1))
        best = stacked.max(axis=0)
        with np.errstate(invalid="ignore"):
            alike = stacked >= best - ALIKE_STOPS
        # Effort decides; the reserve only among those of equal effort.
        merit = np.where(alike, efforts - np.clip(stacked, -1e3, 1e3) * 1e-4, np.inf)
        return keys, np.where(np.isneginf(best), -1, np.argmin(merit, axis=0))

    def winner(self, ev100: float, faster: float = 1.0) -> str | None:
        """The method with the most reserve [stops] in a room of that light [EV]; None where none can do it."""
        return self._named(np.array([ev100]), np.array([faster]))[0]

    def winners_by_room(self, evs: Array) -> list[str | None]:
        """The winner in each of several rooms."""
        return self._named(evs, np.array([1.0]))

    def winners_by_speed(self, factors: Array) -> list[str | None]:
        """The winner with the subject so many times as fast."""
        return self._named(np.array([ev_of(self.search)]), factors)

    def _named(self, evs: Array, factors: Array) -> list[str | None]:
        if not self.search.ways:
            return [None] * max(len(evs), len(factors))
        keys, winners = self.winners(evs, factors)
        return [None if place < 0 else keys[place] for place in winners]

    def reach_m(self, key: str, lights: int | None = None) -> float | None:
        """The farthest place of the lights at which a method works in this room [m]; None where none does.

        lights: so many instead of the limit's.
        """
        way = next((one for one in self.search.ways if one.method.key == key), None)
        most = self.limits.lights
        if way is None or not way.method.flashes or not most:
            return None
        fewer = self.bare_stops + math.log2((most if lights is None else lights) / most)
        ev100 = ev_of(self.search)

        def works(distances_m: Array) -> Any:
            gain = fewer - 2 * np.log2(distances_m)
            return self._reserve(way, ev100, 1.0, gain) > NONE

        # Where the room alone exposes the picture, no light's place is a reach.
        if works(np.array([_OUT_OF_REACH_M]))[0]:
            return None
        # A room too bright for the flash to outshine can fail near and far, so all places are
        # asked.
        distances = _NEAREST_M * 2 ** (np.arange(_REACHES) / 4)
        last = np.flatnonzero(works(distances))
        if not len(last):
            return None
        fine = distances[last[-1]] * 2 ** np.linspace(0.0, 0.25, 257)
        return float(fine[np.flatnonzero(works(fine))[-1]])


def reserve_stops(flash: Any, room: Room, dials: Dials, tolerance_stops: float) -> Any:
    """Stops between the dials that are needed and the most they give; −∞ where no dials are right.

    flash: log2 of the most flash that there is, of which less can always be had; room: what the look asks.
    """
    if not len(dials.gain_stops):
        return NONE
    least, most = float(dials.gain_stops.min()), float(dials.gain_stops.max())
    with np.errstate(invalid="ignore"):  # a dark room is −∞ stops
        lit = np.isfinite(room.level)
        flash = np.where(lit, np.minimum(flash, room.over + room.level), flash)
        together = np.logaddexp2(flash, room.level)
        least_flash = np.where(
            np.isfinite(room.under) & lit, room.under + room.level, -np.inf
        )
        at_least = np.logaddexp2(least_flash, room.level)  # of flash and room together
        # The least that the dials must give with all of the flash …
        low = np.maximum(np.maximum(least, room.x_low), -tolerance_stops - together)
        # … and the most that they may with as little flash as the look allows.
        high = np.minimum(np.minimum(most, room.x_high), tolerance_stops - at_least)
        able = room.possible & (flash >= least_flash - 1e-9) & (low <= high + 1e-9)
        needed = np.minimum(np.maximum(-together, low), high)
        # What is taken away by a filter is not in reserve: it counts as the dials do without one.
        needed = np.maximum(needed, float((dials.gain_stops + dials.nd_stops).min()))
    return np.where(able, most - needed, NONE)


def ev_of(search: Search) -> float:
    """EV at ISO 100 of the scene's room; −∞ for a dark one."""
    if search.ways:
        ev100 = search.ways[0].physics.ev100[0]
    else:
        ev100 = None
    if ev100 is None:
        return -math.inf
    return ev100


@dataclass(frozen=True)
class Crossing:
    """Where another method overtakes: along `axis` (room in EV, speed in m/s), beyond `at`, in that direction."""

    axis: str
    at: float
    above: bool
    winner: str | None


def crossings_of(reserves: Reserves) -> list[Crossing]:
    """The nearest change of the winner on both sides of this room's light and of this subject's speed."""
    search, found = reserves.search, []
    if not search.ways:
        return []
    ev100, speed = ev_of(search), search.ways[0].physics.trajectory.wanted_speed_m_s
    for above in (True, False):
        if above:
            side = 1
        else:
            side = -1
        if above:
            end = BRIGHTEST_EV
        else:
            end = DARKEST_EV
        here = max(ev100, DARKEST_EV)
        if (end - here) * side > 0:
            rooms = np.arange(here, end, side * _ROOM_STEP_EV)
            change = _first_change(reserves.winners_by_room, rooms)
            if change is not None:
                found.append(Crossing("room", change[0], above, change[1]))
        if speed > 0 and math.isfinite(search.ways[0].limit_s):
            speeds = 2.0 ** (side * np.linspace(0.0, 3.0, 37))
            change = _first_change(reserves.winners_by_speed, speeds)
            if change is not None:
                found.append(Crossing("speed", change[0] * speed, above, change[1]))
    return found


def _first_change(
    winners: Callable[[Array], list[str | None]], values: Array
) -> tuple[float, str | None] | None:
    """Where along rising or falling values another wins than at the first, and which; None where none does.

    The step in which that happens is divided finely, so that the place is good to a 64th of it.
    """
    coarse = winners(values)
    for place in range(1, len(values)):
        if coarse[place] != coarse[0]:
            fine = np.linspace(values[place - 1], values[place], 65)
            within = winners(fine)
            edge = next(at for at, winner in enumerate(within) if winner != coarse[0])
            return float((fine[edge - 1] + fine[edge]) / 2), within[edge]
    return None


@dataclass(frozen=True)
class Chart:
    """The winner at each room light (columns, EV) and speed (rows, m/s); −1 where nothing works."""

    evs: Array
    speeds_m_s: Array
    keys: tuple[str, ...]
    winners: npt.NDArray[np.int64]


def chart_of(reserves: Reserves, columns: int = 40, rows: int = 22) -> Chart | None:
    """The winners around this scene: from dark rooms to full sun, an eighth to eight times its speed."""
    search = reserves.search
    if not search.ways:
        return None
    speed = search.ways[0].physics.trajectory.wanted_speed_m_s
    if speed <= 0 or not math.isfinite(search.ways[0].limit_s):
        return None
    evs = np.linspace(-3.0, 16.0, columns)
    factors = np.geomspace(1 / 8, 8, rows)
    keys, winners = reserves.winners(evs[None, :], factors[:, None])
    return Chart(evs, factors * speed, keys, winners)
