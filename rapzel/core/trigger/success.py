"""How many tries a picture takes, before and after the first of them (science §13)."""

import math
from dataclasses import dataclass

from scipy.special import betainc, betaincinv

from rapzel.core.shared.errors import OutOfRange

MOST_TRIES = 9999


def at_least(keepers: int, chance: float, tries: int) -> float:
    """Probability of at least `keepers` successes in independent tries [0 … 1]: I_p(k, n−k+1)."""
    if tries < keepers:
        return 0.0
    return float(betainc(keepers, tries - keepers + 1, chance))


def tries_for(chance: float, confidence: float = 0.95, keepers: int = 1) -> int | None:
    """Tries [-] after which `keepers` successes are as likely as `confidence` [0 … 1]; None for 10 000 or more.

    The waiting time for k successes is negative binomial: p = 0.5, k = 3 takes 11 tries for 95 %. Raises OutOfRange
    for a chance outside 0 … 1.
    """
    if not 0 <= chance <= 1:
        raise OutOfRange("chance", chance, "between 0 and 1")
    # Beyond ten thousand tries nobody is helped by the exact number.
    if at_least(keepers, chance, MOST_TRIES) < confidence:
        return None
    if keepers == 1:
        return _tries_for_one(chance, confidence)
    low, high = keepers - 1, MOST_TRIES  # the first is too few, the last is enough
    while high - low > 1:
        middle = (low + high) // 2
        if at_least(keepers, chance, middle) >= confidence - 1e-12:
            high = middle
        else:
            low = middle
    return high


def _tries_for_one(chance: float, confidence: float) -> int:
    """The same for one keeper, in closed form: (1 − p)^n ≤ 1 − confidence."""
    if chance >= 1:
        return 1
    tries = math.log1p(-confidence + 1e-12) / math.log1p(-chance)
    return max(math.ceil(tries), 1)


@dataclass(frozen=True, slots=True)
class HitRate:
    """Share of tries that succeed, after some: mean and the bounds of the central interval."""

    hits: int
    tries: int
    mean: float
    low: float
    high: float


def hit_rate(hits: int, tries: int, interval: float = 0.9) -> HitRate:
    """Beta posterior of a hit rate [0 … 1] from counts, with Jeffreys' prior Beta(½, ½).

    Raises OutOfRange unless 0 ≤ hits ≤ tries.
    """
    if not 0 <= hits <= tries:
        raise OutOfRange("hits", hits, f"between 0 and the {tries} tries")
    a, b = hits + 0.5, tries - hits + 0.5
    outer = (1 - interval) / 2
    low, high = float(betaincinv(a, b, outer)), float(betaincinv(a, b, 1 - outer))
    # By convention the interval reaches the end where nothing, or everything, has been seen.
    return HitRate(
        hits,
        tries,
        a / (a + b),
        0.0 if hits == 0 else low,
        1.0 if hits == tries else high,
    )
