"""How many tries a picture takes, before and after the first of them (science §13)."""

import math
from dataclasses import dataclass

from scipy.special import betaincinv

from rapzel.core.shared.errors import OutOfRange

MOST_TRIES = 9999


def at_least_one(chance: float, tries: int) -> float:
    """Probability of at least one success in independent tries [0 … 1]: 1 − (1 − p)^n."""
    return -math.expm1(tries * math.log1p(-chance)) if chance < 1 else float(tries > 0)


def tries_for(chance: float, confidence: float = 0.95) -> int | None:
    """Tries after which at least one success is as likely as `confidence`; None when that takes 10 000 or more."""
    if not 0 <= chance <= 1:
        raise OutOfRange("chance", chance, "between 0 and 1")
    if chance >= confidence:
        return 1
    if chance == 0:
        return None
    needed = math.ceil(math.log1p(-confidence) / math.log1p(-chance) - 1e-9)
    return needed if needed <= MOST_TRIES else None


@dataclass(frozen=True, slots=True)
class HitRate:
    """Share of tries that succeed, after some: mean and the bounds of the central interval."""

    hits: int
    tries: int
    mean: float
    low: float
    high: float


def hit_rate(hits: int, tries: int, interval: float = 0.9) -> HitRate:
    """Beta posterior of a hit rate from counts, with Jeffreys' prior Beta(½, ½).

    Raises OutOfRange unless 0 ≤ hits ≤ tries.
    """
    if not 0 <= hits <= tries:
        raise OutOfRange("hits", hits, f"between 0 and the {tries} tries")
    a, b = hits + 0.5, tries - hits + 0.5
    outer = (1 - interval) / 2
    low, high = float(betaincinv(a, b, outer)), float(betaincinv(a, b, 1 - outer))
    # By convention the interval reaches the end where nothing, or everything, has been seen.
    return HitRate(hits, tries, a / (a + b), 0.0 if hits == 0 else low, 1.0 if hits == tries else high)
