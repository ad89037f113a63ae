"""How quick this machine is: a plain Python loop and a NumPy sum, timed; every benchmark is stated in this unit.

The same commit takes twice as long on one machine as on another. One unit is what the fixed work below takes here and
now, so that a limit in units holds anywhere. It was `REFERENCE_MS` where the limits were set.
"""

import statistics
import time

import numpy as np

LOOP, NUMBERS = 100_000, 2_000_000
REFERENCE_MS = 6.0
_TIMES = 7


def unit_ms() -> float:
    """The median time of the fixed work [ms]."""
    numbers = np.arange(NUMBERS, dtype=float)
    return statistics.median(_once_ms(numbers) for _ in range(_TIMES))


def _once_ms(numbers: np.ndarray) -> float:
    began = time.perf_counter()
    total = 0
    for number in range(LOOP):
        total += number
    numbers.sum()
    return (time.perf_counter() - began) * 1000


class Clock:
    """Times in units of a machine that was looked at before and after."""

    def __init__(self) -> None:
        self.before_ms = self.after_ms = unit_ms()

    def end(self) -> None:
        """Looks at the machine once more."""
        self.after_ms = unit_ms()

    @property
    def unit(self) -> float:
        """What one unit is [ms]."""
        return (self.before_ms + self.after_ms) / 2

    def limit_ms(self, reference_ms: float) -> float:
        """A limit of the reference machine, as this one has it [ms]."""
        return reference_ms / REFERENCE_MS * self.unit

    def __str__(self) -> str:
        return f"1 unit = {self.unit:.1f} ms here ({self.before_ms:.1f} before, {self.after_ms:.1f} after)"
