"""What every link of a chain has: a lag, its jitter, and how both are known. Null is not known, never zero."""

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field
from scipy.special import stdtrit

from rapzel.core.shared import constants
from rapzel.core.shared.part import Identity, Lag, MeasuredLag, Name, Part, shown
from rapzel.core.shared.working import Provenance

Shape = Literal["normal", "uniform"]


@dataclass(frozen=True, slots=True)
class Delay:
    """One lag of the chain: its mean [s] and its jitter as a standard deviation [s]; None is not known."""

    name: str
    lag_s: float | None
    jitter_s: float | None
    uniform: bool = False
    provenance: Provenance | None = None
    kind: str = "device"
    identity: str | None = None
    # how far the mean may be off, once for the whole plan [s]; holds in nine of ten cases
    doubt_s: float = 0.0

    @property
    def known(self) -> bool:
        return self.lag_s is not None and self.jitter_s is not None


def sd_of(jitter_s: float | None, shape: Shape) -> float | None:
    """Standard deviation of a jitter [s]: a uniform half width w counts as w/√3; None is not known."""
    if jitter_s is not None and shape == "uniform":
        return jitter_s / math.sqrt(3)
    return jitter_s


# a chain has a few, and is asked at every change
@lru_cache(maxsize=1024)
def doubt_of(
    lag_s: float | None,
    provenance: Provenance | None,
    measured_s: tuple[float, ...] = (),
) -> float:
    """How far a lag may be off for a whole shoot, either way in nine of ten cases [s].

    measured_s: each measured lag, where they are kept. What nobody says the source of counts as claimed.
    """
    if lag_s is None:
        return 0.0
    many = len(measured_s)
    # Two readings tell how far apart they are, and so how far their mean may be off.
    if provenance == "measured" and many >= 2:
        reach = float(stdtrit(many - 1, 0.95))
        return reach * float(np.std(measured_s, ddof=1)) / math.sqrt(many)
    return abs(lag_s) * constants.LAG_DOUBT[provenance or "claimed"]


class ChainLink(Part):
    """What every link has."""

    id: Identity | None = None
    name: Name = ""
    lag_s: Lag | None = shown(None, "Lag", "duration", "empty: not known")
    jitter_s: Lag | None = shown(
        None, "Its jitter", "duration", "sd, or half width where even; empty: not known"
    )
    lag_provenance: Provenance | None = None
    jitter_shape: Shape = Field(
        "normal", description="jitter_s is its sd, or its half width"
    )
    lags_s: tuple[MeasuredLag, ...] = Field(
        (),
        max_length=300,
        strict=False,
        description="each measured lag, for its histogram",
    )

    kind: str
    title: ClassVar[str]
    beginning: ClassVar[dict[str, Any]]
    after_camera: ClassVar[bool] = False  # passes on what the camera's contact says

    def extra_s(self) -> float:
        """What comes on top of the link's own lag [s]."""
        return 0.0

    @property
    def upstream_m(self) -> float:
        """How far before the wanted place the link senses the subject [m]."""
        return 0.0

    def says(self) -> str:
        """The link by name, as the chain shows it."""
        return self.name or self.title

    def doubt_s(self) -> float:
        """How far its lag may be off for a whole shoot [s]; holds in nine of ten cases."""
        return doubt_of(self.lag_s, self.lag_provenance, self.lags_s)

    def delay(self) -> Delay:
        """Mean and standard deviation of the link."""
        if self.lag_s is None:
            lag = None
        else:
            lag = self.lag_s + self.extra_s()
        return Delay(
            self.says(),
            lag,
            sd_of(self.jitter_s, self.jitter_shape),
            self.jitter_shape == "uniform",
            self.lag_provenance,
            self.kind,
            self.id,
            self.doubt_s(),
        )
