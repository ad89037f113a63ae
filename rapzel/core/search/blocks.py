"""Rigs of two kinds, a block of bounded size at a time: of a large kit there are more than memory holds."""

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from rapzel.core.search.at_shutter import AtShutter, usable
from rapzel.core.search.limits import Limits
from rapzel.core.search.pulses import Settings
from rapzel.core.search.rigs import Ints, Rows, counts_of, joined
from rapzel.core.search.ways import Way

ROWS = 50_000  # of a block: what a processor keeps near itself
_TRIED = 4_000_000  # pairs of settings that are looked at together


def counts_of_two(limits: Limits) -> list[tuple[int, int]]:
    """How many of one kind and how many of another."""
    return [(many, others) for many, others in counts_of(limits.lights) if others > 0]


def blocks_of_two(
    way: Way, settings: Settings, at: AtShutter, limits: Limits
) -> Iterator[Rows]:
    """The rigs of two kinds at one shutter that meet it and keep up, a block at a time, whether they freeze or not."""
    if way.one_kind or not way.method.flashes:
        return  # one opening cannot be placed for each of two kinds beforehand
    for first, second in _pairs(way, settings, at, limits):
        for many, others in counts_of_two(limits):
            # Every pair with every way to part the lights between its two kinds.
            counts = np.full(len(first), many), np.full(len(first), others)
            yield joined(way, settings, at, (first, counts[0], second, counts[1]))


def _pairs(
    way: Way, settings: Settings, at: AtShutter, limits: Limits
) -> Iterator[tuple[Ints, Ints]]:
    """Pairs of settings of two kinds of which at least the shorter is fast enough."""
    able = np.flatnonzero(usable(at))
    fast, source = _fast(way, at, able, limits), settings.source[able]
    power = settings.power[able]
    # A square of all settings would not fit into memory; a band of it does.
    step = max(_TRIED // max(len(able), 1), 1)
    for begin in range(0, len(able), step):
        some = slice(begin, begin + step)
        # Each pair of strobes once, and never a strobe with itself: that is one kind.
        wanted = source[some, None] < source[None, :]
        # Two pulses that are both too long freeze nothing together either.
        wanted &= fast[some, None] | fast[None, :]
        if limits.equal_power:
            wanted &= np.isclose(power[some, None], power[None, :], rtol=0.01)
        one, two = np.nonzero(wanted)
        for start in range(0, len(one), ROWS):
            part = slice(start, start + ROWS)
            yield able[begin + one[part]], able[two[part]]


def _fast(way: Way, at: AtShutter, able: Ints, limits: Limits) -> npt.NDArray[np.bool_]:
    enough = way.limit_s * 2.0**-limits.freeze_stops
    return np.asarray(at.lasts_s[able] <= enough * (1 + 1e-9))


def row_count_of_two(
    way: Way, settings: Settings, at: AtShutter, limits: Limits
) -> int:
    """How many rigs `blocks_of_two` goes through."""
    if way.one_kind or not way.method.flashes:
        return 0
    able = np.flatnonzero(usable(at))
    slow = able[~_fast(way, at, able, limits)]
    # All pairs without those of which both are too slow.
    pairs = _pair_count(settings, able, limits) - _pair_count(settings, slow, limits)
    return pairs * len(counts_of_two(limits))


def _pair_count(settings: Settings, able: Ints, limits: Limits) -> int:
    """Pairs of different strobes; of equal powers where that is asked for."""
    if not limits.equal_power:
        return _different(settings.source[able])
    # powers of a hundredth apart are equal
    marks = np.round(np.log2(settings.power[able]) * 30)
    return sum(
        _different(settings.source[able[marks == mark]]) for mark in np.unique(marks)
    )


def _different(source: Ints) -> int:
    each = np.bincount(source)
    # All pairs, less those within a strobe, each counted once.
    return int((len(source) ** 2 - int((each**2).sum())) // 2)
