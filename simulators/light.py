"""What a strobe, a photodiode and a scope would record: a pop of light with the faults of a real bench.

Pure functions of their settings and a seed; the bench process and the tests share them.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace

import numpy as np
from scipy.signal import lfilter

from rapzel.core.pulse.shape import Array, Discharge, quenched_at

FAULTS = (
    "none",
    "clipping",
    "logic",
    "ripple",
    "drift",
    "inverted",
    "preflash",
    "hss",
    "no light",
)


@dataclass(frozen=True)
class Strobe:
    """A made-up strobe by its circuit's constants."""

    circuit: str
    decay_s: float
    afterglow_s: float = 0.0
    scatter_stops: float = 0.02  # of the light from pop to pop
    kit: tuple[str, str] = ("", "")  # name and mode in the demo kit, where they differ

    def shape(self, power: float) -> Discharge:
        """The pulse at a power [share of full]."""
        rise = self.decay_s / 100
        if self.circuit == "quenched":
            return quenched_at(power, self.decay_s, rise, self.afterglow_s)
        if self.circuit == "banks":
            stretch = power
        else:
            stretch = 1.0
        return Discharge(self.decay_s, rise).stretched(stretch)


STROBES = {
    "Monobloc 600 quenched": Strobe(
        "quenched", 0.0019, 28e-6, kit=("Monobloc 600 quenched", "speed")
    ),
    "Monobloc 600 constant colour": Strobe(
        "quenched", 0.0023, 90e-6, 0.008, ("Monobloc 600 quenched", "constant colour")
    ),
    "Hot-shoe 60": Strobe("quenched", 0.0011, 14e-6, 0.03),
    "Bank pack 2400": Strobe("banks", 0.0016, scatter_stops=0.015),
    "Old voltage monobloc 500": Strobe("voltage", 0.0016, scatter_stops=0.05),
}


@dataclass(frozen=True)
class Settings:
    """How the bench is set. Levels in volts, times in seconds, shares of the pulse's height where so named."""

    strobe: str = "Monobloc 600 quenched"
    power: float = 1 / 16
    volts: float = 2.0  # height of the pulse at full power, before any limit
    offset_v: float = 0.02
    noise: float = 0.003  # sd, of the pulse's height
    bandwidth_hz: float = 5e6
    sampling_hz: float = 5e6
    sweep_s: float = 0.001
    pre_s: float = 0.0001  # of the sweep, before the light
    fault: str = "none"
    lag_s: float = 0.0004  # from the trigger signal to the light
    lag_jitter_s: float = 5e-6
    bits: int = 12
    seed: int = field(default=1, compare=False)


@dataclass(frozen=True)
class Trace:
    """One sweep: times from the trigger point [s], the light and the trigger signal [V], and the truth behind them."""

    times_s: Array
    light_v: Array
    trigger_v: Array
    shape: Discharge
    lag_s: float


def pop(settings: Settings, number: int = 0) -> Trace:
    """One pop. `number` counts the pops of a series, so that each has scatter of its own."""
    rng = np.random.default_rng((settings.seed, number))
    strobe = STROBES[settings.strobe]
    shape = strobe.shape(settings.power)
    count = max(int(settings.sweep_s * settings.sampling_hz), 64)
    lag = settings.lag_s + rng.normal(0, settings.lag_jitter_s)
    times = np.arange(count) / settings.sampling_hz - settings.pre_s
    # With a lag the trigger point is the signal's edge; the light follows.
    start = lag - settings.lag_s
    height = settings.volts * 2 ** rng.normal(0, strobe.scatter_stops)
    clean = height * _light(shape, times - start)
    clean = FAULT_LIGHT.get(settings.fault, _same)(clean, times, height, shape)
    clean = amplified(clean, settings)
    noisy = clean + settings.offset_v + rng.normal(0, settings.noise * height, count)
    seen = FAULT_SIGNAL.get(settings.fault, _same)(noisy, times, height, shape)
    trigger = np.where(times >= -settings.lag_s, 3.3, 0.0) + rng.normal(0, 0.01, count)
    return Trace(
        times,
        _converted(seen, settings.bits),
        _converted(trigger, settings.bits),
        shape,
        lag,
    )


def series(settings: Settings, pops: int) -> list[Trace]:
    """Several pops of one setting."""
    return [pop(settings, number) for number in range(pops)]


def _light(shape: Discharge, times: Array) -> Array:
    return np.where(times >= 0, shape.intensity(np.maximum(times, 0)), 0.0)


def amplified(values: Array, settings: Settings) -> Array:
    """A first-order amplifier: time constant 1 / (2π bandwidth)."""
    share = 1 - np.exp(-2 * np.pi * settings.bandwidth_hz / settings.sampling_hz)
    return np.asarray(lfilter([share], [1, share - 1], values))


def _converted(values: Array, bits: int) -> Array:
    step = 8.0 / 2**bits
    return np.round(values / step) * step


# --- faults: of the light itself, and of what the signal goes through afterwards ------------------------------

Fault = Callable[[Array, Array, float, Discharge], Array]


def _same(values: Array, times: Array, height: float, shape: Discharge) -> Array:
    return values


def _preflash(values: Array, times: Array, height: float, shape: Discharge) -> Array:
    early = 0.5 * float(times[0])
    short = quenched_at(1 / 128, 0.0019, 19e-6, 15e-6).stretched(
        shape.width_s(0.1) / 1e-3
    )
    return values + 0.35 * height * _light(short, times - early)


def _train(values: Array, times: Array, height: float, shape: Discharge) -> Array:
    period = (float(times[-1]) - 0.0) / 40
    lit = (times >= 0) & (times < 0.75 * float(times[-1]))
    phase = np.mod(times, period)
    return np.where(lit, height * (0.35 + 0.65 * np.exp(-phase / (0.35 * period))), 0.0)


def _dark(values: Array, times: Array, height: float, shape: Discharge) -> Array:
    return np.zeros_like(values)


def _clipped(values: Array, times: Array, height: float, shape: Discharge) -> Array:
    return np.minimum(values, 0.7 * height)


def _logic(values: Array, times: Array, height: float, shape: Discharge) -> Array:
    return np.where(values > 0.2 * height, 3.3, 0.0)


def _ripple(values: Array, times: Array, height: float, shape: Discharge) -> Array:
    return values + 0.04 * height * np.sin(2 * np.pi * 100 * times + 0.7)


def _drift(values: Array, times: Array, height: float, shape: Discharge) -> Array:
    return values + 0.15 * height * (times - times[0]) / (times[-1] - times[0])


def _inverted(values: Array, times: Array, height: float, shape: Discharge) -> Array:
    return -values


FAULT_LIGHT: dict[str, Fault] = {
    "preflash": _preflash,
    "hss": _train,
    "no light": _dark,
}
FAULT_SIGNAL: dict[str, Fault] = {
    "clipping": _clipped, "logic": _logic, "ripple": _ripple, "drift": _drift, "inverted": _inverted,
}  # fmt: skip


def fitting(settings: Settings) -> Settings:
    """The same bench with a sweep that suits the pulse: room for the trigger's edge, and eight times its t.1 after."""
    t01 = STROBES[settings.strobe].shape(settings.power).width_s(0.1)
    pre = max(2 * t01, 1.5 * settings.lag_s)
    sweep = pre + 8 * t01
    if settings.fault == "ripple":
        sweep = max(sweep, 0.04)  # two periods of the mains, or nothing could be told
    sampling = max(
        8000 / sweep, 60 / STROBES[settings.strobe].shape(settings.power).width_s(0.5)
    )
    return replace(settings, sweep_s=sweep, pre_s=pre, sampling_hz=sampling)


def to_csv(traces: list[Trace], settings: Settings) -> str:
    """The sweeps as a scope writes them: a preamble, then time, light and trigger; sweeps parted by a header."""
    tau = 1 / (2 * np.pi * settings.bandwidth_hz)
    lines = [
        "Bench simulator",
        f"Strobe,{settings.strobe}",
        f"Power,{settings.power:.6g}",
        f"Detector time constant,{tau:.4g} s",
        "",
    ]
    for number, trace in enumerate(traces):
        lines += ([""] if number else []) + ["Time (s),Light (V),Trigger (V)"]
        rows = zip(trace.times_s, trace.light_v, trace.trigger_v, strict=True)
        lines += [f"{t:.9g},{light:.6g},{trigger:.4g}" for t, light, trigger in rows]
    return "\n".join(lines) + "\n"
