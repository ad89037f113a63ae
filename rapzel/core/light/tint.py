"""The colour of a strobe over its power, and of two lights beside each other (science §11).

Colour temperatures are compared in mired, 10⁶ / K, of which equal steps look alike.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

_ALIKE_STOPS = 1 / 6  # of a dial: as near to a measured power its colour holds
SEEN_MIRED = 10.0  # lights farther apart are told apart side by side on white; (memory)
SEEN_DUV = 0.006  # and so greener or pinker; (memory)


class Coloured(Protocol):
    """A power and its colour, where it was measured."""

    @property
    def power(self) -> float: ...
    @property
    def cct_k(self) -> float | None: ...
    @property
    def duv(self) -> float | None: ...


@dataclass(frozen=True)
class Tint:
    """Colour temperature [K] and distance from the black body line [-, + is green]; None is not known."""

    cct_k: float
    duv: float | None

    @property
    def mired(self) -> float:
        return 1e6 / self.cct_k


def tint_at(table: Sequence[Coloured], power: float) -> Tint | None:
    """The colour at a power, interpolated in mired over log2(power); None outside of what was measured."""
    known = sorted(
        (math.log2(row.power), 1e6 / row.cct_k, row.duv) for row in table if row.cct_k is not None
    )
    dial = math.log2(power)
    if not known or not known[0][0] - _ALIKE_STOPS <= dial <= known[-1][0] + _ALIKE_STOPS:
        return None
    mired = float(np.interp(dial, [row[0] for row in known], [row[1] for row in known]))
    greens = [(at, duv) for at, _, duv in known if duv is not None]
    duv = None
    if len(greens) == len(known):
        duv = float(np.interp(dial, [row[0] for row in greens], [row[1] for row in greens]))
    return Tint(1e6 / mired, duv)


def mired_apart(one: Tint, other: Tint) -> float:
    """How much warmer one is than the other [mired]; negative is cooler."""
    return one.mired - other.mired
