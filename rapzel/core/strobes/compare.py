"""Strobes against each other: how much light each gives at which duration, and what that costs (science §9).

Light is compared on one footing: stops above a guide number of 1 m at ISO 100, which is 2 log2(GN) + log2(power).
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from rapzel.core.document.gear import Strobe, lowest_power
from rapzel.core.light.guide import relative_light_stops
from rapzel.core.pulse import pulse_at
from rapzel.core.pulse.setting import Durations
from rapzel.core.shared.errors import OutOfRange, require_positive
from rapzel.core.shared.working import Provenance

_FINE = 0.1  # stops between the powers that are tried


@dataclass(frozen=True, slots=True)
class Source:
    """One way to run one strobe: the strobe, its mode ('' for its own table), and that table."""

    strobe: Strobe
    mode: str
    table: Durations

    @property
    def name(self) -> str:
        """Strobe and mode in words."""
        if self.mode:
            return f"{self.strobe.name}, {self.mode}"
        return self.strobe.name


@dataclass(frozen=True, slots=True)
class Point:
    """One setting of one source."""

    source: Source
    power: float
    t01_s: float
    t05_s: float
    light_stops: float
    guide_number_m: float
    recycle_s: float | None
    provenance: Provenance
    basis: str

    @property
    def pops_a_charge(self) -> float | None:
        """Pops that a charge gives at this power; None where those at full power are not known."""
        full = self.source.strobe.battery_pops
        if full is None:
            return None
        return full / self.power

    @property
    def frames_per_s(self) -> float | None:
        """Frames a second that the recycle sustains."""
        if self.recycle_s:
            return 1 / self.recycle_s
        return None


def sources_of(strobe: Strobe) -> list[Source]:
    """The strobe's own table and each of its modes."""
    if strobe.durations:
        own = [Source(strobe, "", strobe.durations)]
    else:
        own = []
    return own + [Source(strobe, mode.name, mode.durations) for mode in strobe.modes]


def point_at(source: Source, power: float) -> Point:
    """What a source gives at a power [share of full]."""
    strobe = source.strobe
    known = pulse_at(strobe.circuit, source.table, power)
    relative = relative_light_stops(source.table, power)
    return Point(
        source=source,
        power=power,
        t01_s=known.t01_s,
        t05_s=known.t05_s,
        light_stops=2 * math.log2(strobe.guide_number_m) + relative,
        guide_number_m=strobe.guide_number_m * 2 ** (relative / 2),
        recycle_s=_recycle_s(strobe, power),
        provenance=known.provenance,
        basis=known.basis,
    )


def _recycle_s(strobe: Strobe, power: float) -> float | None:
    """Time until ready again at a power [s]; None while its full recycle or its floor is not known."""
    if strobe.full_recycle_s is None or strobe.recycle_floor_s is None:
        return None
    return strobe.recycle_floor_s + power * strobe.full_recycle_s


def settings_of(source: Source, per_stop: int = 1) -> list[Point]:
    """Every setting from full power down, `per_stop` steps to a stop (1, 3 or 10)."""
    if per_stop not in (1, 3, 10):
        raise OutOfRange("per_stop", per_stop, "1, 3 or 10")
    span = -math.log2(lowest_power(source.strobe))
    count = math.floor(span * per_stop + 1e-6)
    return [point_at(source, 2 ** (-step / per_stop)) for step in range(count + 1)]


def front(points: Iterable[Point]) -> list[Point]:
    """The settings that no other beats: less light at every shorter duration. From the shortest to the longest."""
    kept: list[Point] = []
    for point in sorted(points, key=lambda each: (each.t01_s, -each.light_stops)):
        if not kept or point.light_stops > kept[-1].light_stops:
            kept.append(point)
    return kept


def at_duration(source: Source, t01_s: float) -> Point | None:
    """The setting with the most light whose t.1 is at most `t01_s` [s], to a tenth of a stop; None where none is."""
    require_positive(t01_s=t01_s)
    fitting = [point for point in settings_of(source, 10) if point.t01_s <= t01_s]
    return max(fitting, key=lambda point: point.light_stops, default=None)


@dataclass(frozen=True, slots=True)
class Offer:
    """What one source offers at a duration, against the best of all."""

    source: Source
    point: Point | None
    behind_stops: float | None  # less light than the best
    lights_needed: int | None  # of these for the best one's exposure
    price_per_light: float | None  # price over light, light in shares of the best one's


def offers(sources: Sequence[Source], t01_s: float) -> list[Offer]:
    """Every source at a duration, the brightest first; sources that are never so short come last."""
    found = [(source, at_duration(source, t01_s)) for source in sources]
    most = max((point.light_stops for _, point in found if point), default=None)
    rows = [_offer(source, point, most) for source, point in found]
    return sorted(
        rows, key=lambda row: math.inf if row.behind_stops is None else row.behind_stops
    )


def _offer(source: Source, point: Point | None, most: float | None) -> Offer:
    if point is None or most is None:
        return Offer(source, None, None, None, None)
    behind = most - point.light_stops
    price = source.strobe.price
    needed = math.ceil(2**behind - 1e-6)
    return Offer(
        source, point, behind, needed, None if price is None else price * 2**behind
    )


def rankings(sources: Sequence[Source]) -> tuple[list[Source], list[Source]]:
    """(by shortest t.5, by shortest t.1): the order a leaflet suggests, and the one that counts."""
    shortest = {id(source): settings_of(source, 3) for source in sources}
    by_t05 = sorted(
        sources, key=lambda source: min(point.t05_s for point in shortest[id(source)])
    )
    by_t01 = sorted(
        sources, key=lambda source: min(point.t01_s for point in shortest[id(source)])
    )
    return by_t05, by_t01


def with_equal_light(point: Point, other: Source) -> Point | None:
    """The setting of another source that gives the same light, to a tenth of a stop; None beyond its range."""
    tries = settings_of(other, 10)
    nearest = min(tries, key=lambda each: abs(each.light_stops - point.light_stops))
    if abs(nearest.light_stops - point.light_stops) <= _FINE / 2 + 1e-9:
        return nearest
    return None


def matched(
    one: Source, other: Source, t01_s: float
) -> tuple[Point | None, Point | None]:
    """Both sources at equal t.1: the brightest setting of each whose t.1 is at most `t01_s` [s]."""
    return at_duration(one, t01_s), at_duration(other, t01_s)
