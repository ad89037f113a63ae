"""What a log of tries teaches: how often it lands, which way it misses, and what delay to set next (science §13)."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri, stdtrit

from rapzel.core.shared.steps import settled
from rapzel.core.trigger.success import HitRate, hit_rate

_LEAST_SD = 1e-9
FEW = 3  # offsets below which their spread is taken from the plan
_DRAWN = 4000


@dataclass(frozen=True, slots=True)
class Bias:
    """By how much the light usually comes late [s], and its standard error; how that is known, in words."""

    late_s: float
    error_s: float
    spread_s: float | None
    tries: int
    basis: str
    # standard errors beyond which one log in twenty lies by chance: more where few tries tell their own spread
    reach: float = 2.0

    @property
    def sure(self) -> bool:
        """Whether the bias is told apart from none."""
        return abs(self.late_s) > self.reach * self.error_s


def from_offsets(
    late_s: Sequence[float], planned_jitter_s: float | None
) -> Bias | None:
    """The bias from measured offsets of tries; the plan's jitter stands in where few make a poor spread.

    late_s: of each try, positive is late [s]. None without any.
    """
    offsets = np.asarray(late_s, dtype=float)
    if not offsets.size:
        return None
    own = float(offsets.std(ddof=1)) if offsets.size >= FEW else None
    # Two tries give a spread that is hardly one.
    spread = own if own is not None else planned_jitter_s
    if spread is None:
        return Bias(float(offsets.mean()), math.inf, None, offsets.size, "offsets")
    # The spread of three tries is itself a guess, which Student's t makes up for.
    reach = 2.0 if own is None else float(stdtrit(offsets.size - 1, 0.975))
    return Bias(
        float(offsets.mean()),
        max(spread, _LEAST_SD) / math.sqrt(offsets.size),
        own,
        offsets.size,
        "offsets",
        reach,
    )


def from_counts(
    early: int, landed: int, late: int, lasts_s: float, seed: int = 1
) -> Bias | None:
    """The bias from how many tries came early, landed, and came late, in a moment that lasts `lasts_s` [s].

    With Φ((−w/2 − μ)/σ) early and 1 − Φ((w/2 − μ)/σ) late, both shares fix μ and σ; their doubt by drawing the shares
    from their Dirichlet posterior (Jeffreys). None where tries of one kind only leave it open.
    """
    total = early + landed + late
    if total < FEW or sum(count > 0 for count in (early, landed, late)) < 2:
        return None
    rng = np.random.default_rng(seed)
    # No try early does not mean that none ever is: half a try of each kind is counted beforehand.
    shares = rng.dirichlet([early + 0.5, landed + 0.5, late + 0.5], _DRAWN)
    low, high = ndtri(shares[:, 0]), ndtri(1 - shares[:, 2])
    spread = lasts_s / np.maximum(high - low, 1e-6)
    # The middle of the moment lies where early and late are equally likely.
    drawn = -spread * (low + high) / 2
    middle = float(np.median(drawn))
    reach = float(np.quantile(drawn, 0.84) - np.quantile(drawn, 0.16)) / 2
    return Bias(
        middle, reach, float(np.median(spread)), total, "counts of early and late"
    )


def next_delay_s(now_s: float, bias: Bias, resolution_s: float) -> float | None:
    """The delay to set next [s]: as it is, less what comes late; None where no delay can make up for it.

    In whole steps of the unit. A lead that a delay cannot give has to come from finger or sensor.
    """
    wanted = now_s - bias.late_s
    step = resolution_s or 1e-6
    # Nobody can wait for less than nothing: the rest has to come from where the sensor stands.
    if wanted < -step / 2:
        return None
    return max(settled(wanted, step), 0.0)


@dataclass(frozen=True, slots=True)
class Planned:
    """Share of tries that a plan lets land [0 … 1], and where it lies by what is doubtful in the plan."""

    share: float
    low: float
    high: float

    @property
    def says(self) -> str:
        """'38 %', or with its range where it has one."""
        low, high = _percent(self.low), _percent(self.high)
        if low == high:
            return f"{_percent(self.share)} %"
        return f"{_percent(self.share)} % ({low} to {high})"


def plan_against_takes(planned: Planned | None, hits: int, tries: int) -> str:
    """'Plan says 38 %, your takes say 30 % (13 to 50)': nothing before the first try.

    hits, tries: of those whose outcome tells of timing; a ghost or a smear tells nothing of when the light came.
    """
    if not tries:
        return ""
    rate: HitRate = hit_rate(hits, tries)
    # Of one or two tries a share would be mostly what was assumed before them.
    if tries < FEW:
        said = f"{hits} of {tries} {'try' if tries == 1 else 'tries'} landed, which tells little yet"
    else:
        said = f"your takes say {_percent(rate.mean)} % ({_percent(rate.low)} to {_percent(rate.high)})"
    if planned is None:
        return f"The plan says nothing of landing; {said}."
    agrees = rate.low <= planned.high and rate.high >= planned.low
    if agrees:
        tail = ""
    else:
        tail = ": the plan leaves something out"
    return f"Plan says {planned.says}, {said}{tail}."


def _percent(share: float) -> int:
    return round(share * 100)
