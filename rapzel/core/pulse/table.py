"""From a strobe's few known settings to the pulse at any power (science §4).

With the full and the lowest setting known, the circuit model is fitted to both. With three or more, log(duration) is
interpolated over log(power) by a monotone cubic and the model gives the shape only. What was not read off the table
at the very setting is marked estimated.
"""

import math
from dataclasses import dataclass
from functools import lru_cache

from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq

from rapzel.core.pulse.setting import Setting
from rapzel.core.pulse.shape import Discharge, quenched_at, span_s
from rapzel.core.shared import constants
from rapzel.core.shared.once import once
from rapzel.core.shared.working import Provenance

T01, T05 = 0.1, 0.5
_SAME_POWER = 0.005  # 1/3 written as 0.333


@dataclass(frozen=True)
class KnownPulse:
    """The pulse of one strobe at one power, and how it is known."""

    shape: Discharge
    t01_s: float
    t05_s: float
    light_span_s: float
    provenance: Provenance
    basis: str  # in words: as claimed, fitted, interpolated, extrapolated
    doubt_stops: float  # how far off the durations may be, either way

    @once
    def mostly_out_s(self) -> float:
        """When all but a tenth of a stop of the light is out [s]: 93.3 %."""
        return self.shape.time_at_s(constants.TENTH_OF_A_STOP)

    @once
    def half_stop_out_s(self) -> float:
        """When all but half a stop of the light is out [s]: 70.7 %."""
        return self.shape.time_at_s(2.0**-constants.DARK_FRAME_STOPS)

    @property
    def t01_range_s(self) -> tuple[float, float]:
        """The shortest and the longest that t.1 may be [s]."""
        return self.t01_s * 2**-self.doubt_stops, self.t01_s * 2**self.doubt_stops


@dataclass(frozen=True)
class _Model:
    """The circuit's constants: all that is needed to draw a pulse at any power."""

    circuit: str
    decay_s: float
    afterglow_s: float
    exponent: float  # duration ~ power^exponent, for circuits that do not quench

    def pulse(self, power: float) -> Discharge:
        rise = self.decay_s * constants.RISE_SHARE
        if self.circuit == "quenched":
            return quenched_at(power, self.decay_s, rise, self.afterglow_s)
        return Discharge(self.decay_s, rise).stretched(power**self.exponent)


def _best_known(settings: tuple[Setting, ...]) -> tuple[Setting, ...]:
    """One setting a power, from the highest power down: a measurement outranks a claim, a claim an estimate."""
    rank = {"estimated": 0, "claimed": 1, "measured": 2}
    # Later ones replace earlier ones: what is known best comes last.
    best = {s.power: s for s in sorted(settings, key=lambda s: rank[s.provenance])}
    return tuple(best[power] for power in sorted(best, reverse=True))


def _known_width(setting: Setting) -> tuple[float, float]:
    """(level, width [s]) of what the setting tells: t.1 where known, else t.5."""
    if setting.t01_s is not None:
        return (T01, setting.t01_s)
    return (T05, setting.t05_s or math.nan)


def _decay_for(setting: Setting, afterglow_s: float, circuit: str) -> float:
    """The decay constant [s] with which the circuit has the known width at the setting's power."""
    level, width = _known_width(setting)
    # All times of a shape grow together, so one division scales it.
    unit = Discharge(1.0, constants.RISE_SHARE)
    from_full = width / unit.width_s(level)
    if circuit != "quenched" or setting.power > 1 - _SAME_POWER:
        return from_full

    def excess(log_decay: float) -> float:
        model = _Model(
            circuit, math.exp(log_decay), min(afterglow_s, math.exp(log_decay)), 0.0
        )
        return math.log(model.pulse(setting.power).width_s(level) / width)

    # A quenched pulse is shorter than the full one, so its circuit's own decay is longer than the
    # width says.
    low, high = math.log(from_full), math.log(from_full / setting.power * 4)
    try:
        return math.exp(brentq(excess, low, high, xtol=1e-6))
    except (
        ValueError
        # no sign change: the width cannot come from this power; the shape is stretched later
    ):
        return from_full / math.sqrt(setting.power)


def _afterglow_for(setting: Setting, decay_s: float) -> float | None:
    """The afterglow constant [s] that gives the lowest setting its known width; None where none does."""
    level, width = _known_width(setting)

    def excess(log_afterglow: float) -> float:
        return math.log(
            _Model("quenched", decay_s, math.exp(log_afterglow), 0.0)
            .pulse(setting.power)
            .width_s(level)
            / width
        )

    try:
        return math.exp(
            brentq(
                excess, math.log(decay_s * 1e-6), math.log(decay_s * 0.999), xtol=1e-6
            )
        )
    except ValueError:
        return None


@lru_cache(maxsize=4096)
def _fit(circuit: str, settings: tuple[Setting, ...]) -> tuple[_Model, bool]:
    """The model through the highest and the lowest known setting, and whether it meets both."""
    high, low = settings[0], settings[-1]
    several = len(settings) > 1
    if circuit != "quenched":
        # Usual circuits: at lower voltage the same time, with fewer banks a shorter one.
        exponent = {"voltage": 0.0, "banks": 1.0}[circuit]
        decay = _decay_for(high, 0.0, circuit)
        if several:
            # Two known settings replace the usual by the strobe's own.
            exponent = math.log(
                _decay_for(high, 0.0, circuit) / _decay_for(low, 0.0, circuit)
            )
            exponent /= math.log(high.power / low.power)
        return _Model(circuit, decay / high.power**exponent, 0.0, exponent), True
    decay = _decay_for(high, constants.AFTERGLOW_S, circuit)
    if several:
        afterglow = _afterglow_for(low, decay)
    else:
        afterglow = min(constants.AFTERGLOW_S, decay / 2)
    if afterglow is None:
        # No afterglow meets both rows: the shape is kept, the durations come off the table.
        return _Model(circuit, decay, min(constants.AFTERGLOW_S, decay / 2), 0.0), False
    return _Model(circuit, decay, afterglow, 0.0), True


def _interpolated(
    power: float, settings: tuple[Setting, ...], widths: list[float]
) -> float:
    """Width at a power [s]: monotone cubic in log-log inside the table, the end's slope outside of it."""
    # Durations go by powers of the dial: straight in log-log, so a cubic there is nearly a line.
    x = [math.log(setting.power) for setting in reversed(settings)]
    y = [math.log(width) for width in reversed(widths)]
    wanted = math.log(power)
    if wanted < x[0]:
        return math.exp(y[0] + (wanted - x[0]) * (y[1] - y[0]) / (x[1] - x[0]))
    if wanted > x[-1]:
        return math.exp(y[-1] + (wanted - x[-1]) * (y[-1] - y[-2]) / (x[-1] - x[-2]))
    if len(x) == 2:
        return math.exp(y[0] + (wanted - x[0]) * (y[1] - y[0]) / (x[1] - x[0]))
    return float(math.exp(_monotone(tuple(x), tuple(y))(wanted)))


@lru_cache(maxsize=256)
def _monotone(x: tuple[float, ...], y: tuple[float, ...]) -> PchipInterpolator:
    """The monotone cubic through points, kept: a strobe is asked at many powers, and to make it takes longest."""
    return PchipInterpolator(x, y)


def _basis(power: float, settings: tuple[Setting, ...], fitted: bool) -> str:
    count = len(settings)
    if count == 1:
        return "estimated from the one known setting and the circuit"
    if not settings[-1].power * 0.995 <= power <= settings[0].power * 1.005:
        return f"extrapolated beyond the {count} known settings"
    if fitted:
        return "fitted to the 2 known settings"
    return f"interpolated between {count} known settings"


@lru_cache(maxsize=4096)
def pulse_at(circuit: str, durations: tuple[Setting, ...], power: float) -> KnownPulse:
    """The pulse of a strobe at a power, from its duration table.

    circuit: quenched, voltage or banks; power: share of full. The shape comes from the circuit, its time axis is
    stretched so that t.1 agrees with the table. Source: docs/science.md §4; t.5 and t.1 as in ISO 2827.
    """
    # Shape and length are known from different things: the circuit, and the table.
    settings = _best_known(durations)
    model, meets_both = _fit(circuit, settings)
    fitted = len(settings) <= 2 and meets_both
    at = next((s for s in settings if abs(s.power / power - 1) < _SAME_POWER), None)
    drawn = model.pulse(power)
    drawn_t01 = drawn.width_s(T01)
    t01 = _t01_at(power, settings, at, model, drawn_t01, fitted)
    shape = drawn.stretched(t01 / drawn_t01)
    t05 = _t05(power, settings, at, shape, t01)
    # A t.1 that is made from a t.5 is an estimate, however well the t.5 was measured.
    exact = at is not None and at.t01_s is not None
    provenance: Provenance = at.provenance if exact and at is not None else "estimated"
    if at is None:
        basis = _basis(power, settings, fitted)
    elif exact:
        basis = f"as {at.provenance}"
    else:
        basis = f"t.1 estimated from the {at.provenance} t.5"
    return KnownPulse(
        shape, t01, t05, span_s(shape), provenance, basis, _doubt(power, settings, at)
    )


def _t01_at(
    power: float,
    settings: tuple[Setting, ...],
    at: Setting | None,
    model: _Model,
    drawn_s: float,
    fitted: bool,
) -> float:
    """t.1 at a power [s]: off the table, by the model that meets the whole table, else interpolated.

    drawn_s: t.1 of the model's own pulse at that power; fitted: whether the model meets the whole table.

    Below the table a quenched light follows its model down to the afterglow, which no quench cuts short; a straight
    line through the last two rows would promise pulses that do not exist.
    """
    if at is not None:
        return _t01(at, model)
    if fitted or len(settings) == 1:
        return drawn_s
    low = settings[-1]
    if model.circuit == "quenched" and power < low.power:
        # The model's ratio from the last row down, not its absolute length: the row itself is
        # better known.
        shorter = drawn_s / model.pulse(low.power).width_s(T01)
        return max(
            _t01(low, model) * min(shorter, 1.0), model.afterglow_s * math.log(1 / T01)
        )
    return _interpolated(power, settings, [_t01(s, model) for s in settings])


def _doubt(power: float, settings: tuple[Setting, ...], at: Setting | None) -> float:
    """How far off t.1 may be [stops], either way: by how the nearest settings are known, and how far away they are."""
    own = constants.DURATION_DOUBT
    if at is not None:
        if at.t01_s is not None:
            return own[at.provenance]
        return own[at.provenance] + constants.CONVERTED_DOUBT
    away = {
        abs(math.log2(setting.power / power)): own[setting.provenance]
        for setting in settings
    }
    # A doubt grows with the way from what is known, twice as fast where nothing lies beyond.
    nearest = min(away)
    inside = settings[-1].power < power < settings[0].power
    if inside:
        each_stop = constants.BETWEEN_DOUBT
    else:
        each_stop = constants.BEYOND_TABLE_DOUBT
    return away[nearest] + each_stop * nearest


def _t05(
    power: float,
    settings: tuple[Setting, ...],
    at: Setting | None,
    shape: Discharge,
    t01_s: float,
) -> float:
    """t.5 at a power [s]: as the table says, between two such rows interpolated, else by the circuit's shape."""
    if at is not None and at.t05_s is not None:
        return at.t05_s
    rows = tuple(setting for setting in settings if setting.t05_s is not None)
    if len(rows) < 3 or at is not None:
        return shape.width_s(T05)
    return min(
        _interpolated(power, rows, [row.t05_s or math.nan for row in rows]), t01_s
    )


def _t01(setting: Setting, model: _Model) -> float:
    """t.1 of a table row [s]: as it says, or its t.5 converted by the shape that the circuit has at that power."""
    if setting.t01_s is not None:
        return setting.t01_s
    shape = model.pulse(setting.power)
    # How much longer t.1 is goes by the circuit: 3 to 4 times for a discharge, hardly more for a
    # quenched one.
    return (setting.t05_s or math.nan) * shape.width_s(T01) / shape.width_s(T05)
