"""From event to light: lags in order, their sum and their jitter (science §11). Times in seconds."""

import math
import operator
from collections.abc import Sequence
from functools import reduce

import numpy as np
import numpy.typing as npt

from rapzel.core.shared import draws
from rapzel.core.trigger.links import Delay

Array = npt.NDArray[np.float64]


def total_lag_s(delays: Sequence[Delay]) -> float | None:
    """Sum of all lags [s]; None while one of them is not known."""
    lags = [delay.lag_s for delay in delays]
    known = [lag for lag in lags if lag is not None]
    if len(known) == len(lags):
        # A sum without one of its parts would be a figure that is too small, and look like a good
        # one.
        return sum(known)
    return None


def total_jitter_s(delays: Sequence[Delay]) -> float | None:
    """Standard deviation of the whole chain [s]: √Σσ², for independent links; None while one is not known."""
    jitters = [delay.jitter_s for delay in delays]
    known = [jitter for jitter in jitters if jitter is not None]
    if len(known) == len(jitters):
        # Independent errors rarely all come the same way, so their squares add up.
        return math.sqrt(sum(jitter**2 for jitter in known))
    return None


def unknown_of(delays: Sequence[Delay]) -> list[str]:
    """What is not known, in words: the link and which of its two figures."""
    missing = []
    for delay in delays:
        if delay.lag_s is None:
            missing.append(f"lag of {delay.name}")
        elif delay.jitter_s is None:
            missing.append(f"jitter of {delay.name}")
    return missing


def error_s(delay: Delay, source: int) -> Array | float:
    """Errors in time of `draws.TRIES` tries by one link [s]; 0.0 where it does not vary."""
    if not delay.jitter_s:
        return 0.0
    return delay.jitter_s * (
        draws.uniform(source) if delay.uniform else draws.normal(source)
    )


def errors_s(delays: Sequence[Delay], first_source: int = 1) -> Array | float:
    """Errors in time of `draws.TRIES` tries [s], each link drawn by its own shape; 0.0 where nothing varies."""
    # Each link has a source of its own, so that what one of them draws does not change with the
    # others.
    varies = [
        error_s(delay, place)
        for place, delay in enumerate(delays, start=first_source)
        if delay.jitter_s
    ]
    if varies:
        return reduce(operator.add, varies)
    return 0.0
