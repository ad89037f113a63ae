"""A person's own finger, measured: bias and spread of a drill's tries, with their doubts (science §13)."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.stats import chi2, t

from rapzel.core.shared.errors import OutOfRange

FEWEST = 5  # tries below which nothing is said
# robust standard deviations from the median, beyond which a try is an outlier: of twelve plain ones
# 2 % are
_FAR = 5.5
_CONSISTENT = 1.4826  # median distance to standard deviation of a normal law
# the clock of a browser and its screen: no hand is judged finer
_LEAST_SPREAD_S = 0.004
_CERTAINTY = 0.9
LONGEST_S = 2.0  # of an error: who is later has not tried


@dataclass(frozen=True, slots=True)
class Drilled:
    """Bias [s, positive is late] and spread (sd) of the tries that count, each with its 90 % interval."""

    bias_s: float
    bias_low_s: float
    bias_high_s: float
    spread_s: float
    spread_low_s: float
    spread_high_s: float
    counted: int
    outliers: tuple[int, ...]  # places of the tries that do not count


def measure(errors_s: Sequence[float]) -> Drilled:
    """What a drill says of a finger: outliers set aside by the median, then mean and sd with Student's t and χ².

    errors_s: of each try, press minus instant. Raises OutOfRange for too few, or for one beyond two seconds.
    """
    for error in errors_s:
        if not (math.isfinite(error) and abs(error) <= LONGEST_S):
            raise OutOfRange(
                "errors_s", error, f"within {LONGEST_S:g} s of the instant"
            )
    errors = np.asarray(errors_s, dtype=float)
    if errors.size < FEWEST:
        raise OutOfRange("errors_s", errors.size, f"at least {FEWEST} tries")
    # A slip of the finger must not widen the measure by which it is called a slip: medians, not
    # means.
    middle = float(np.median(errors))
    spread = max(
        _CONSISTENT * float(np.median(np.abs(errors - middle))), _LEAST_SPREAD_S
    )
    far = np.abs(errors - middle) > _FAR * spread
    kept = errors[~far]
    number, mean = kept.size, float(kept.mean())
    sd = float(kept.std(ddof=1))
    # Twelve tries are few: Student's t and χ² say how little they tell.
    reach = float(t.ppf((1 + _CERTAINTY) / 2, number - 1)) * sd / math.sqrt(number)
    low, high = (
        sd * math.sqrt((number - 1) / float(chi2.ppf(share, number - 1)))
        for share in ((1 + _CERTAINTY) / 2, (1 - _CERTAINTY) / 2)
    )
    return Drilled(
        mean,
        mean - reach,
        mean + reach,
        sd,
        low,
        high,
        number,
        tuple(map(int, np.flatnonzero(far))),
    )
