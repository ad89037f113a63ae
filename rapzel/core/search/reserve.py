"""How much light each method has left, in closed form, and where one method overtakes another (science §8).

For each method and shutter only two things of a kit matter: how long its light lasts and how strong it is. So the
strongest light that is short enough, put at the nearest place, tells what ISO and aperture it leaves: the *reserve* is
the stops between those and the limits. It needs no search, which makes charts and crossing points quick; equal numbers
of one kind of light are enough for it, since no mixture is stronger than as many of its strongest part.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from rapzel.core.methods import METHODS
from rapzel.core.search.find import Search
from rapzel.core.search.fitting import Room, asked_of, trail_px
from rapzel.core.search.limits import Limits
from rapzel.core.search.rigs import at_shutter, rows_at
from rapzel.core.search.ways import Array, Dials, Way, dials_of, places_of

NONE = -math.inf  # the reserve of a method that cannot do it
ALIKE_STOPS = 1 / 3  # less than a step of a dial tells no two methods apart


@dataclass(frozen=True)
class Strongest:
    """One method at one shutter: the strongest light (log2 N² at 1 m, ISO 100) by how long it may last [s]."""

    way: Way
    shutter_s: float
    lasts_s: Array  # rising
    light: Array  # the strongest of all that last at most that long

    def light_within(self, limit_s: Array) -> Array:
        """log2 of the strongest light that lasts no longer; −∞ where none does."""
        at = np.searchsorted(self.lasts_s, limit_s * (1 + 1e-9), "right")
        return np.append(self.light, -np.inf)[at - 1]


class Reserves:
    """The reserves of every method that a scene's camera and a kit can do, at any room and speed."""

    def __init__(self, search: Search) -> None:
        self.search, self.limits = search, search.limits
        places = places_of(search.scene, search.limits, search.kit.modifiers)
        self.nearest = float(places.gain_stops.max())  # of all places: the most light
        self._strongest = [
            self._at(way, shutter) for way in search.ways for shutter in way.shutters
        ]

    def _at(self, way: Way, shutter_s: float, limits: Limits | None = None) -> Strongest:
        """All that meets the shutter and keeps up, whatever it freezes."""
        settings = self.search.settings
        free = (limits or self.limits).relaxed(freeze_stops=-1e6)
        at = at_shutter(way, settings, shutter_s, free)
        rows = rows_at(way, settings, at, free, mixed=False)
        order = np.argsort(rows.lasts_s, kind="stable")
        light = np.log2(np.maximum(rows.light[order], 1e-300))
        strongest = np.maximum.accumulate(light) if len(light) else light
        return Strongest(way, shutter_s, rows.lasts_s[order], strongest)

    @cached_property
    def _dials(self) -> dict[str, Dials]:
        return {way.method.key: dials_of(way, self.limits) for way in self.search.ways}

    def of(self, evs: Any, faster: Any = 1.0) -> dict[str, Any]:
        """The reserve of each method [stops] in rooms of an EV (−∞: dark), the subject so many times as fast.

        Numbers give numbers; a row of EVs and a column of speeds give a table for each method.
        """
        best: dict[str, Any] = {}
        for one in self._strongest:
            key = one.way.method.key
            reserve = self._reserve(one, evs, faster, self.nearest)
            best[key] = reserve if key not in best else np.maximum(best[key], reserve)
        return best

    def _reserve(self, one: Strongest, evs: Any, faster: Any, place_stops: float) -> Any:
        """The stops between what is needed and the most that the dials give; −∞ where the look cannot be had."""
        way, limits = one.way, self.limits
        within_s = way.limit_s / np.asarray(faster) * 2.0**-limits.freeze_stops
        if way.method.flashes:
            flash = one.light_within(within_s) + place_stops
            able = np.isfinite(flash)
        else:
            flash, able = np.full(np.shape(within_s), -1e3), one.shutter_s <= within_s * (1 + 1e-9)
        ways_px = [trail_px(way, one.shutter_s, float(factor)) for factor in np.ravel(faster)]
        room = asked_of(way, one.shutter_s, evs, np.reshape(ways_px, np.shape(faster)))
        reserve = reserve_stops(flash, room, self._dials[way.method.key], limits.tolerance_stops)
        return np.where(able, reserve, NONE)

    def winners(self, evs: Any, faster: Any) -> tuple[tuple[str, ...], npt.NDArray[np.int64]]:
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
        merit = np.where(alike, efforts - np.clip(stacked, -1e3, 1e3) * 1e-4, np.inf)
        return keys, np.where(np.isneginf(best), -1, np.argmin(merit, axis=0))

    def winner(self, ev100: float, faster: float = 1.0) -> str | None:
        """The method with the most reserve; None where none can do it."""
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

        lights: at most so many instead of the limit's.
        """
        ev100, limits = ev_of(self.search), self.limits
        places = places_of(self.search.scene, limits, self.search.kit.modifiers)
        loss = -min(modifier.loss_stops for modifier in places.modifiers)
        if lights is not None:
            limits = limits.relaxed(lights=lights)
        farthest: float | None = None
        for way in self.search.ways:
            if way.method.key != key or not way.method.flashes:
                continue
            for shutter in way.shutters:
                one = self._at(way, shutter, limits)
                reach = self._farthest(one, ev100, loss)
                farthest = max(filter(None, (farthest, reach)), default=None)
        return farthest

    def _farthest(self, one: Strongest, ev100: float, loss: float) -> float | None:
        """Where the reserve of one shutter ends [m], by halving; None where it has none even at 10 cm."""

        def works(distance_m: float) -> bool:
            place = -2 * math.log2(distance_m) + loss
            return bool(self._reserve(one, ev100, 1.0, place) > NONE)

        distances = [0.1 * 2 ** (step / 4) for step in range(48)]
        last = next((one for one in reversed(distances) if works(one)), None)
        return None if last is None else boundary(works, last, last * 2**0.25)


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
        least_flash = np.where(np.isfinite(room.under) & lit, room.under + room.level, -np.inf)
        at_least = np.logaddexp2(least_flash, room.level)  # of flash and room together
        low = np.maximum(np.maximum(least, room.x_low), -tolerance_stops - together)
        high = np.minimum(np.minimum(most, room.x_high), tolerance_stops - at_least)
        able = room.possible & (flash >= least_flash - 1e-9) & (low <= high + 1e-9)
        needed = np.minimum(np.maximum(-together, low), high)
        # What is taken away by a filter is not in reserve: it counts as the dials do without one.
        needed = np.maximum(needed, float((dials.gain_stops + dials.nd_stops).min()))
    return np.where(able, most - needed, NONE)


def ev_of(search: Search) -> float:
    """EV at ISO 100 of the scene's room; −∞ for a dark one."""
    ev100 = search.ways[0].physics.ev100[0] if search.ways else None
    return -math.inf if ev100 is None else ev100


def boundary(holds: Callable[[float], bool], inside: float, outside: float) -> float:
    """Where a property ends between a value that has it and one that has not, to a thousandth of itself."""
    for _ in range(40):
        middle = (inside + outside) / 2
        if holds(middle):
            inside = middle
        else:
            outside = middle
        if abs(outside - inside) <= 1e-3 * max(abs(inside), 1e-9):
            break
    return inside


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
        side = 1 if above else -1
        if math.isfinite(ev100):
            rooms = ev100 + side * np.linspace(0.0, 10.0, 41)
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
