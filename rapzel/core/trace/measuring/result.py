"""What the analysis of a trace says: plain numbers, their doubt, and what to mind."""

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict

Code = Literal[
    "two_levels",
    "clipped",
    "tail_missing",
    "undersampled",
    "slow_detector",
    "baseline_drift",
    "ripple",
    "several_pulses",
    "inverted",
    "no_pulse",
]


# Mistakes after which the figures are not those of one pulse, so that they must not go into a strobe's table.
SPOILED: frozenset[Code] = frozenset(
    {"two_levels", "clipped", "no_pulse", "several_pulses", "undersampled"}
)


class _Plain(BaseModel):
    model_config = ConfigDict(frozen=True, allow_inf_nan=False)


class Warned(_Plain):
    """A mistake that the trace shows, in words that say what to do."""

    code: Code
    says: str


class PulseFigures(_Plain):
    """One pulse of several: its beginning [s from the sweep's first sample], figures and share of the light."""

    at_s: float
    peak: float
    t05_s: float | None
    t01_s: float | None
    light_integral: float
    share: float


class Train(_Plain):
    """A train of pulses, as of high-speed sync."""

    frequency_hz: float
    plateau_s: float
    ripple_share: float


class Fit(_Plain):
    """The circuit model fitted to the pulse (science §4), and how far it is off."""

    circuit: Literal["quenched", "exponential"]
    decay_s: float
    rise_s: float
    quench_s: float | None
    afterglow_s: float | None
    residual_share: float
    doubts: list[str]


class TraceResult(_Plain):
    """One sweep of one channel. Levels in the channel's unit; times in seconds; None where not to be read.

    `u_…` are expanded uncertainties (coverage about 95 %) from noise and sampling.
    """

    t05_s: float | None = None
    t01_s: float | None = None
    u_t05_s: float | None = None
    u_t01_s: float | None = None
    rise_s: float | None = None
    time_to_peak_s: float | None = None
    light_span_s: float | None = None
    light_integral: float | None = None
    u_light_integral: float | None = None
    peak: float | None = None
    baseline: float | None = None
    noise: float | None = None
    ripple: float = 0.0
    first05_s: float | None = None
    last05_s: float | None = None
    first01_s: float | None = None
    last01_s: float | None = None
    saturated: bool = False
    inverted: bool = False
    corrected_t05_s: float | None = None
    corrected_t01_s: float | None = None
    pulses: list[PulseFigures] = []
    train: Train | None = None
    fit: Fit | None = None
    warnings: list[Warned] = []

    @property
    def codes(self) -> set[str]:
        """The codes of the warnings."""
        return {warning.code for warning in self.warnings}

    @property
    def usable(self) -> bool:
        """Whether the figures may go into a strobe's table."""
        return self.t05_s is not None and not (self.codes & SPOILED)

    @property
    def durations_s(self) -> tuple[float | None, float | None]:
        """(t.5, t.1) [s] for a table: as read, or with the detector's lag taken out where that was found to matter."""
        # A detector that is quick enough needs no correction, which would only add noise.
        if "slow_detector" not in self.codes:
            return self.t05_s, self.t01_s
        return self.corrected_t05_s or self.t05_s, self.corrected_t01_s or self.t01_s


class Spread(_Plain):
    """A figure over repeated pops: mean, standard deviation and how many."""

    mean: float
    sd: float | None
    count: int


class RecordingResult(_Plain):
    """All pops of a channel. The figures at the top are means over the pops that could be read."""

    format: Literal["rapzel.trace"] = "rapzel.trace"
    version: Literal[1] = 1
    channel: str
    channel_number: int
    unit: str
    samples: int
    interval_s: float
    pops: list[TraceResult]
    spreads: dict[str, Spread]
    light_spread_stops: float | None
    light_sd_stops: float | None
    light_drift_stops: float | None
    warnings: list[Warned]
    notes: list[str]

    def mean(self, name: str) -> float | None:
        """The mean of a figure over the pops; None where none has it."""
        spread = self.spreads.get(name)
        if spread is None:
            return None
        return spread.mean

    def to_document(self) -> dict[str, Any]:
        """The result as JSON, with the means under the names of the figures."""
        # (ripple is the circuit's: it is the same in every pop)
        first = self.pops[0]
        plain = self.model_dump(mode="json")
        plain |= {name: self.mean(name) for name in FIGURES}
        plain |= {
            "ripple": first.ripple,
            "saturated": any(pop.saturated for pop in self.pops),
        }
        # All of them in a row, for readers that know nothing of sweeps.
        plain["pulses"] = [each for pop in plain["pops"] for each in pop["pulses"]]
        return plain


FIGURES = (
    "t05_s", "t01_s", "rise_s", "time_to_peak_s", "light_span_s", "light_integral", "peak", "baseline", "noise",
    "u_t05_s", "u_t01_s", "u_light_integral", "corrected_t05_s", "corrected_t01_s",
)  # fmt: skip
