"""One effective light curve for each row: all pulses, each cut by its row's opening, and the room (science §7).

Everything that is said about exposure, shares, smear, trails and the picture is read off these curves.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from scipy.optimize import minimize_scalar

from rapzel.core.pulse.shape import Array, Pulse
from rapzel.core.shared import constants
from rapzel.core.shared.once import once
from rapzel.core.shutter.rows import MIDDLES, Opening

# of a frame whose opening is sought: its ends decide where one pulse burns down
_PLACED_ROWS = 9
_PLACED_FRAMES = 31
_ON_TIME: Array = np.zeros(1)
_PLACED_S = 1e-10  # how near to its best an opening is placed


@dataclass(frozen=True, slots=True)
class Flash:
    """One light as the shutter meets it: its shape, when it starts [s] and its weight in the exposure."""

    pulse: Pulse
    start_s: float
    weight: float  # N² on the subject, shutter effects left out

    def between(self, begin_s: Array, end_s: Array) -> Array:
        """Share of its light that comes between two instants [0 … 1]; arrays of any shape."""
        # asked at once: each call costs its own
        both = np.stack((begin_s, end_s)) - self.start_s
        begun, ended = self.pulse.cumulative(both)
        return np.asarray(ended - begun)


def row_shares(opening: Opening, flashes: Sequence[Flash], rows: Array) -> Array:
    """Share of each light that each row records [0 … 1]: lights × rows."""
    opens, closes = opening.opens(rows), opening.closes(rows)
    return np.array([flash.between(opens, closes) for flash in flashes]).reshape(
        len(flashes), np.size(rows)
    )


# most changes of a scene change one of its lights, or none
@lru_cache(maxsize=256)
def _at_middles(opening: Opening, flash: Flash) -> Array:
    """Share of a light that each of `MIDDLES` records [0 … 1]; not to be written to."""
    shares = flash.between(opening.opens(MIDDLES), opening.closes(MIDDLES))
    shares.flags.writeable = False
    return shares


def in_segments(opening: Opening, flash: Flash, rows: Array, edges_s: Array) -> Array:
    """Share [0 … 1] of a light that each row records in each segment between edges [s]: rows × segments."""
    opens, closes = opening.opens(rows)[:, None], opening.closes(rows)[:, None]
    # A segment outside of a row's opening shrinks to nothing, and so to no light.
    cut = np.clip(edges_s[None, :], opens, closes)
    return np.diff(flash.pulse.cumulative(cut - flash.start_s), axis=1)


def recorded_s(opening: Opening, flash: Flash, row: float, level: float = 0.1) -> float:
    """t.1 of a light as one row records it [s]: the time above a tenth of the peak, cut by the row's opening."""
    opens = float(opening.opens(np.asarray(row))) - flash.start_s
    return flash.pulse.width_between_s(level, opens, opens + opening.shutter_s)


def best_offset_s(
    opening: Opening, flashes: Sequence[Flash], late_s: Array = _ON_TIME
) -> float:
    """When the first row should open [s], so that the row with the least of all flashes' light gets the most.

    Of a frame that opens at once that is the opening which catches most of the light. late_s: by how much the light
    comes late in each of many frames; then the opening is the one that catches most on average.
    """
    if not flashes:
        return 0.0
    alike = Opening(opening.travel_s, opening.shutter_s, 0.0)
    return _best_offset_s(alike, tuple(flashes), late_s.tobytes())


# most changes of a scene leave pulses and exposure as they are
@lru_cache(maxsize=64)
def _best_offset_s(opening: Opening, flashes: tuple[Flash, ...], late: bytes) -> float:
    """The same, by what it depends on; `late` are the bytes of its array."""
    late_s = np.frombuffer(late)
    # The light of a row between is never less than that of both ends for one pulse; more rows are
    # for several.
    rows = np.linspace(0.0, opening.travel_s, _PLACED_ROWS if opening.travel_s else 1)
    # Opened earlier, even the last row has closed before the first flash; later, the last is nearly
    # over.
    earliest = min(flash.start_s for flash in flashes) - opening.travel_s
    latest = max(flash.start_s + flash.pulse.time_at_s(0.95) for flash in flashes)

    # A few frames show where the middle of them lies; each costs as much as the search without jitter.
    step = max(len(late_s) // _PLACED_FRAMES, 1)
    shown = late_s[(len(late_s) - 1) % step // 2 :: step]
    earliest, latest = earliest + float(shown.min()), latest + float(shown.max())

    def caught(offset_s: Array) -> Array:
        opens = np.asarray(offset_s)[..., None, None] + rows[:, None] - shown
        given = sum(
            flash.weight * flash.between(opens, opens + opening.shutter_s)
            for flash in flashes
        )
        return np.asarray(np.min(np.mean(given, axis=-1), axis=-1))

    # Several flashes give several hills: a grid finds the highest, the search only its top.
    grid = np.linspace(earliest - opening.shutter_s, latest, 400)
    best = int(np.argmax(caught(grid)))
    around = (grid[max(best - 1, 0)], grid[min(best + 1, len(grid) - 1)])
    options = {"xatol": _PLACED_S}
    return float(
        minimize_scalar(
            lambda at: -float(caught(np.asarray(at))),
            bounds=around,
            method="bounded",
            options=options,
        ).x
    )


def in_stops(share: float) -> float:
    """A share of light as a loss [stops, positive], up to what any sensor still tells from nothing."""
    darkest = 2.0**-constants.DARKEST_STOPS
    if share > darkest:
        return max(0.0, -math.log2(share))
    return constants.DARKEST_STOPS


def stops_of_rows(by_row: Array) -> Array:
    """Shares of light as stops, none of them darker than any sensor tells from nothing."""
    return np.asarray(np.log2(np.maximum(by_row, 2.0**-constants.DARKEST_STOPS)))


def row_between(by_row: Array) -> Any:
    """The row whose light is half-way in stops between the brightest and the darkest; along the last axis."""
    stops = stops_of_rows(by_row)
    half_way = (
        stops.max(axis=-1, keepdims=True) + stops.min(axis=-1, keepdims=True)
    ) / 2
    return np.argmin(np.abs(stops - half_way), axis=-1)


def fall_stops(by_row: Array) -> Any:
    """From the brightest row to the darkest [stops, positive]; along the last axis."""
    return np.ptp(stops_of_rows(by_row), axis=-1)


@dataclass(frozen=True)
class RowCurves:
    """The light of every row: how much of each flash it records, and what follows for the frame."""

    opening: Opening
    flashes: tuple[Flash, ...]
    # whether a row between the brightest and the darkest is judged
    between: bool = False

    @once
    def by_light(self) -> Array:
        """Share of each light that each row records: lights × rows (at `MIDDLES`)."""
        if not self.flashes:
            return row_shares(self.opening, self.flashes, MIDDLES)
        return np.array([_at_middles(self.opening, flash) for flash in self.flashes])

    @once
    def total_weight(self) -> float:
        return sum(flash.weight for flash in self.flashes)

    @once
    def by_row(self) -> Array:
        """Share of all flash light that each row records [0 … 1]."""
        if not self.total_weight:
            return np.zeros(MIDDLES.shape)
        weights = np.array([flash.weight for flash in self.flashes])
        return np.asarray(weights @ self.by_light / self.total_weight)

    @once
    def best_row(self) -> int:
        """Which of `MIDDLES` is judged: the one with the most light, the middle of the frame where many get the same.

        Of a light that burns down across the frame it is the row half-way in stops, so that none is far from it.
        """
        if self.between:
            return int(row_between(self.by_row))
        # Where the whole frame is lit all rows tie, and rounding must not choose between them.
        most = self.by_row >= self.by_row.max() - 1e-9
        places = np.flatnonzero(most)
        return int(places[np.argmin(np.abs(MIDDLES[places] - 0.5))])

    @property
    def best_place(self) -> float:
        """The best-lit row [0 … 1]."""
        return float(MIDDLES[self.best_row])

    @once
    def best_shares(self) -> Array:
        """Share of each light that the best-lit row records."""
        return np.asarray(self.by_light[:, self.best_row])

    @once
    def best_loss_stops(self) -> float:
        if self.flashes:
            return in_stops(float(self.by_row[self.best_row]))
        return 0.0

    @once
    def fall_stops(self) -> float:
        """From the brightest row to the darkest [stops, positive]; 0 without a flash."""
        if self.flashes:
            return float(fall_stops(self.by_row))
        return 0.0

    @once
    def worst_loss_stops(self) -> float:
        if self.flashes:
            return in_stops(float(self.by_row.min()))
        return 0.0

    @once
    def dark_share(self) -> float:
        """Share of rows that get less than half of the light [0 … 1].

        What a frame that opens at once misses, all rows miss alike: light lost, not a band.
        """
        if not self.flashes or self.opening.travel_s == 0:
            return 0.0
        # The two ends stand for no height of the frame.
        return float(np.mean(self.by_row[1:-1] < 0.5))


def lasting(
    shares: Sequence[float], times_s: Sequence[float]
) -> list[tuple[float, float]]:
    """S(t): for each time, from the longest down, the share of the exposure that lasts at least that long.

    shares: of the exposure, summing to 1; times_s: how long each of them lasts. Returns (time [s], S).
    """
    ordered = sorted(zip(times_s, shares, strict=True), reverse=True)
    summed, result = 0.0, []
    for time, share in ordered:
        summed += share
        result.append((time, summed))
    return result


def deciding_s(lasts: Sequence[tuple[float, float]], seen_stops: float) -> float | None:
    """The longest time with S(t) ≥ 2^−seen_stops [s]: what the eye takes for the picture. None without light."""
    # A share that lies just at the threshold is seen, whatever the last bit says.
    floor = 2.0**-seen_stops * (1 - 1e-9)
    return next((time for time, share in lasts if share >= floor), None)
