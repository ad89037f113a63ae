"""Repeatable random tries: the same evenly spread points for everything that is judged by simulation.

Points of a scrambled Sobol sequence (Owen 1998) instead of independent ones: shares come out several times closer to
the truth for the same work, and the same scene always gives the same answer.
"""

from functools import lru_cache
from typing import Any

import numpy as np
import numpy.typing as npt
from scipy.special import ndtri
from scipy.stats import qmc

Array = npt.NDArray[np.float64]
# Of sixty scenes the share of hits is then within 0.05 percentage points of that of 64 times as many; of four times as
# many independent tries within 0.15.
TRIES = 2**13
# independent things that vary at once; beyond these, points are used again in another order
SOURCES = 16
# What varies beside the links, which are sources 1, 2, … in their order.
SPEED, FOLLOWS, MEASURED, ZONE, ASIDE, ABOVE = 0, 11, 12, 13, 14, 15
_SEED = 2027

# A plan has two kinds of error. Jitter differs from try to try; what is claimed or remembered is off once for all of
# them. So the tries come in worlds: in each of them what is doubtful has one value, and tries differ by jitter alone.
WORLDS = 64
EACH = (
    TRIES // WORLDS
)  # tries of one world; any such block of the sequence is evenly spread itself
# What may be off once for the whole plan.
LAGS, MEAN_SPEED, DURATION, WAYS, OWN_SPEED, DEAF = 0, 1, 2, 3, 4, 5
_KINDS_OF_DOUBT = 6


def _sequence(dimensions: int, points: int) -> Array:
    """Scrambled Sobol points in 0 … 1: dimensions × points."""
    drawn: Array = qmc.Sobol(dimensions, seed=_SEED).random(points).T
    # Neither 0 nor 1: the normal law sends both to infinity.
    return np.ascontiguousarray(np.clip(drawn, 1e-12, 1 - 1e-12))


@lru_cache(maxsize=1)
def _points() -> Array:
    return _sequence(SOURCES, TRIES)


@lru_cache(maxsize=SOURCES)
def _normal(source: int) -> Array:
    return np.asarray(ndtri(_points()[source]))


@lru_cache(maxsize=8)
def _order(round_: int) -> npt.NDArray[np.intp]:
    return np.random.default_rng(_SEED + round_).permutation(TRIES)


def _again(values: Array, round_: int) -> Array:
    # Shuffled, not shifted: neighbours in the sequence are no strangers to each other.
    if round_:
        return values[_order(round_)]
    return values


@lru_cache(maxsize=1)
def _worlds() -> Array:
    return _sequence(_KINDS_OF_DOUBT, WORLDS)


@lru_cache(maxsize=_KINDS_OF_DOUBT)
def world_share(kind: int) -> Array:
    """Evenly spread draws in 0 … 1 of what is off once for a plan, one for each of `WORLDS`."""
    return np.asarray(_worlds()[kind])


@lru_cache(maxsize=_KINDS_OF_DOUBT)
def world_normal(kind: int) -> Array:
    """Standard normal draws of what is off once for a plan, one for each of `WORLDS`."""
    return np.asarray(ndtri(world_share(kind)))


def nine_in_ten(values: Array) -> tuple[float, float]:
    """The 5 % and the 95 % quantile of one value of each world, between the two nearest as `numpy.quantile` does it."""
    ordered = np.sort(values)
    place = 0.05 * (len(ordered) - 1)
    whole = int(place)
    part = place - whole
    low = ordered[whole] * (1 - part) + ordered[whole + 1] * part
    high = ordered[-1 - whole] * (1 - part) + ordered[-2 - whole] * part
    return float(low), float(high)


@lru_cache(maxsize=_KINDS_OF_DOUBT)
def parabolas(kind: int) -> Array:
    """Three orthonormal columns that span every parabola over one kind of doubt: `WORLDS` × 3."""
    at = world_normal(kind)
    columns = np.stack([np.ones(WORLDS), at, at**2], axis=1)
    return np.asarray(np.linalg.qr(columns)[0])


def of_each_try(by_world: Array) -> Array:
    """A value of each world for each of its tries: `WORLDS` values become `TRIES`."""
    return np.repeat(by_world, EACH)


def shifted(tries: Array, by_world_: Array) -> Array:
    """Values of tries, each with its own world's added: `TRIES` and `WORLDS` values become `TRIES`."""
    return (by_world(tries) + by_world_[:, None]).reshape(TRIES)


def by_world(tries: npt.NDArray[Any]) -> npt.NDArray[Any]:
    """Values of tries, world by world: `TRIES` values become `WORLDS` × `EACH`."""
    return tries.reshape(WORLDS, EACH)


def normal(source: int) -> Array:
    """Standard normal draws of the source of that number, one for each of `TRIES`."""
    return _again(_normal(source % SOURCES), source // SOURCES)


def uniform(source: int) -> Array:
    """Evenly spread draws with standard deviation 1 of the source of that number, one for each of `TRIES`."""
    even = (_points()[source % SOURCES] - 0.5) * np.sqrt(12)
    return _again(even, source // SOURCES)
