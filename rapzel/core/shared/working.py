"""How a number came about: its formula with the values put in, and where each value came from."""

from collections.abc import Iterable
from typing import Literal

from pydantic import BaseModel, ConfigDict

Provenance = Literal["measured", "claimed", "estimated"]

_DOUBT: dict[str, int] = {"measured": 0, "claimed": 1, "estimated": 2}


def least_certain(several: Iterable[Provenance]) -> Provenance:
    """The provenance of a result is that of its least certain input: estimated < claimed < measured."""
    return max(several, key=_DOUBT.__getitem__, default="measured")


class Step(BaseModel):
    """One line of working. `value` is SI in `unit`; `provenance` is set where an input has one."""

    model_config = ConfigDict(frozen=True)

    symbol: str
    value: float | None
    unit: str
    formula: str
    source: str
    provenance: Provenance | None = None


def step(
    symbol: str, value: float | None, unit: str, formula: str, source: str, provenance: Provenance | None = None
) -> Step:
    """A line of working, built without a second validation: the core made these values itself."""
    return Step.model_construct(
        symbol=symbol, value=value, unit=unit, formula=formula, source=source, provenance=provenance
    )
