"""How a number came about: its formula with the values put in, and where each value came from."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

Provenance = Literal["measured", "claimed", "estimated"]

_DOUBT: dict[str, int] = {"measured": 0, "claimed": 1, "estimated": 2}


def least_certain(several: Iterable[Provenance]) -> Provenance:
    """The provenance of a result is that of its least certain input: estimated < claimed < measured."""
    return max(several, key=_DOUBT.__getitem__, default="measured")


@dataclass(frozen=True, slots=True)
class Step:
    """One line of working. `value` is SI in `unit`; `provenance` is set where an input has one."""

    symbol: str
    value: float | None
    unit: str
    formula: str
    source: str
    provenance: Provenance | None = None


step = Step
