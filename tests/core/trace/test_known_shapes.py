"""Shapes with closed forms, and scipy.signal.peak_widths, against the analysis."""

import math
from collections.abc import Callable

import numpy as np
import pytest
from scipy.signal import peak_widths

from rapzel.core.pulse.shape import Discharge, quenched_at
from rapzel.core.trace import analyse
from rapzel.core.trace.reading.samples import TraceError

DT = 1e-6
PRE = 800  # quiet samples before the light


def trace(
    shape: Callable[[np.ndarray], np.ndarray],
    count: int = 24_000,
    height: float = 2.0,
    ground: float = 0.1,
):
    t = (np.arange(count) - PRE) * DT
    return ground + height * np.where(t >= 0, shape(np.maximum(t, 0.0)), 0.0)


def triangle(up: float, down: float) -> Callable[[np.ndarray], np.ndarray]:
    return lambda t: np.clip(np.minimum(t / up, 1 - (t - up) / down), 0, 1)


SIGMA, MIDDLE = 400e-6, 3e-3
TAU = 1e-3
# name: shape, t.5, t.1, light (over the height), each by hand from the closed form.
KNOWN = {
    "rectangle": (lambda t: (t >= 1e-3) & (t < 3e-3), 2e-3, 2e-3, 2e-3),
    "triangle": (triangle(0.5e-3, 2e-3), 1.25e-3, 2.25e-3, 1.25e-3),
    "exponential": (
        lambda t: np.exp(-t / TAU),
        TAU * math.log(2),
        TAU * math.log(10),
        TAU,
    ),
    "gaussian": (
        lambda t: np.exp(-((t - MIDDLE) ** 2) / (2 * SIGMA**2)),
        2 * SIGMA * math.sqrt(2 * math.log(2)),
        2 * SIGMA * math.sqrt(2 * math.log(10)),
        SIGMA * math.sqrt(math.tau),
    ),
}


@pytest.mark.parametrize("name", KNOWN)
def test_closed_forms_within_a_thousandth(name: str) -> None:
    shape, t05, t01, light = KNOWN[name]
    found = analyse(trace(shape), DT)
    assert found.t05_s == pytest.approx(t05, rel=1e-3)
    assert found.t01_s == pytest.approx(t01, rel=1e-3)
    assert found.light_integral == pytest.approx(2.0 * light, rel=1e-3)
    assert found.peak == pytest.approx(2.0, rel=1e-3)
    assert found.baseline == pytest.approx(0.1)
    assert found.codes == ({"two_levels"} if name == "rectangle" else set())


@pytest.mark.parametrize("quiet", [10, 60, 400])
def test_the_skirts_of_a_soft_pulse_are_not_a_drift(quiet: int) -> None:
    t = (np.arange(quiet + 3000) - quiet) * DT
    soft = np.where(t >= 0, np.exp(-((t - 1.5e-3) ** 2) / (2 * 300e-6**2)), 0.0)
    found = analyse(soft, DT)
    assert found.codes == set()
    assert found.t05_s == pytest.approx(600e-6 * math.sqrt(2 * math.log(2)), rel=1e-3)
    assert found.t01_s == pytest.approx(600e-6 * math.sqrt(2 * math.log(10)), rel=1e-3)


def test_little_quiet_before_the_light_is_doubt() -> None:
    shape = trace(lambda t: np.exp(-t / TAU)) + np.random.default_rng(3).normal(
        0, 0.02, 24_000
    )
    long, short = analyse(shape, DT), analyse(shape[PRE - 40 :], DT)
    assert short.u_t01_s > 1.2 * long.u_t01_s


def test_double_exponential_against_its_own_equation() -> None:
    """Crossings by Newton's method on e^(−t/a) − e^(−t/b), independent of the pulse module; 5–95 % by its integral."""
    a, b = 1.5e-3, 0.1e-3
    at = math.log(a / b) * a * b / (a - b)
    peak = math.exp(-at / a) - math.exp(-at / b)

    def crossing(level: float, t: float) -> float:
        for _ in range(60):
            value = math.exp(-t / a) - math.exp(-t / b) - level * peak
            t -= value / (-math.exp(-t / a) / a + math.exp(-t / b) / b)
        return t

    def share(t: float) -> float:
        return (a * (1 - math.exp(-t / a)) - b * (1 - math.exp(-t / b))) / (a - b)

    found = analyse(trace(lambda t: (np.exp(-t / a) - np.exp(-t / b)) / peak), DT)
    assert found.t05_s == pytest.approx(
        crossing(0.5, 1e-3) - crossing(0.5, 1e-5), rel=1e-3
    )
    assert found.t01_s == pytest.approx(
        crossing(0.1, 3e-3) - crossing(0.1, 1e-6), rel=1e-3
    )
    assert found.rise_s == pytest.approx(
        crossing(0.9, at / 2) - crossing(0.1, 1e-6), rel=1e-2
    )
    assert found.time_to_peak_s == pytest.approx(at - crossing(0.1, 1e-6), abs=2 * DT)
    times = np.linspace(0, 0.02, 400_001)
    shares = np.array([share(t) for t in times])
    span = np.interp(0.95, shares, times) - np.interp(0.05, shares, times)
    assert found.light_span_s == pytest.approx(span, rel=2e-3)


@pytest.mark.parametrize("power", [1.0, 1 / 4, 1 / 16, 1 / 64, 1 / 256])
def test_clean_pulses_against_peak_widths(power: float) -> None:
    shape = quenched_at(power, 1.9e-3, 19e-6, 28e-6)
    dt = shape.width_s(0.1) / 3000
    count = 18_000
    values = np.where(
        np.arange(count) >= 600,
        shape.intensity(np.maximum(np.arange(count) - 600, 0) * dt),
        0.0,
    )
    found = analyse(values, dt)
    top = [int(values.argmax())]
    for level, ours in ((0.5, found.t05_s), (0.1, found.t01_s)):
        whole = (np.array([values.max()]), np.array([0]), np.array([count - 1]))
        reference = (
            peak_widths(values, top, rel_height=1 - level, prominence_data=whole)[0][0]
            * dt
        )
        assert ours == pytest.approx(reference, rel=1e-6)
        assert ours == pytest.approx(shape.width_s(level), rel=1e-3)
    assert found.codes == set()


def test_level_polarity_and_gain_do_not_matter() -> None:
    shape = trace(lambda t: np.exp(-t / TAU))
    plain = analyse(shape, DT)
    turned = analyse(-3 * shape + 1, DT)
    assert turned.inverted
    assert turned.codes == {"inverted"}
    assert (turned.t05_s, turned.t01_s) == pytest.approx((plain.t05_s, plain.t01_s))
    assert turned.light_integral == pytest.approx(3 * (plain.light_integral or 0))


def test_time_scales_with_the_interval() -> None:
    values = trace(lambda t: np.exp(-t / TAU))
    assert analyse(values, 2 * DT).t01_s == pytest.approx(
        2 * (analyse(values, DT).t01_s or 0)
    )


def test_the_model_says_which_circuit_it_looks_like() -> None:
    full = Discharge(1.6e-3, 16e-6)
    found = analyse(trace(full.intensity), DT, fit=True).fit
    assert found is not None
    assert found.circuit == "exponential"
    assert found.decay_s == pytest.approx(1.6e-3, rel=0.01)
    assert found.residual_share < 0.002
    cut = analyse(
        trace(quenched_at(1 / 8, 1.9e-3, 19e-6, 28e-6).intensity), DT, fit=True
    ).fit
    assert cut is not None
    assert cut.circuit == "quenched"
    assert cut.afterglow_s == pytest.approx(28e-6, rel=0.05)
    other = analyse(trace(triangle(0.5e-3, 2e-3)), DT, fit=True).fit
    assert other is not None
    assert any("another shape" in doubt for doubt in other.doubts)


def test_a_slow_detector_is_named_and_its_lag_taken_out() -> None:
    tau, a = 100e-6, 0.5e-3
    t = (np.arange(24_000) - PRE) * DT
    # A step exponential through a first-order detector: (e^(−t/a) − e^(−t/τ)) a/(a − τ), by hand.
    seen = np.where(
        t >= 0,
        (np.exp(-np.maximum(t, 0) / a) - np.exp(-np.maximum(t, 0) / tau))
        * a
        / (a - tau),
        0.0,
    )
    plain, known = analyse(seen, DT), analyse(seen, DT, detector_s=tau)
    assert known.codes == {"slow_detector"}
    assert plain.codes == set()
    assert known.t05_s > a * math.log(2) * 1.2
    assert known.corrected_t05_s == pytest.approx(a * math.log(2), rel=0.02)
    assert known.corrected_t01_s == pytest.approx(a * math.log(10), rel=0.02)
    assert analyse(seen, DT, detector_s=1e-6).codes == set()


@pytest.mark.parametrize(
    ("values", "dt", "says"),
    [
        (np.zeros(5), DT, "at least eight samples"),
        (np.full(100, np.nan), DT, "not finite"),
        (np.zeros(100), 0.0, "interval between two samples is 0 s"),
        (np.zeros(100), math.nan, "must be above 0"),
    ],
)
def test_what_is_no_trace_is_refused(values: np.ndarray, dt: float, says: str) -> None:
    with pytest.raises(TraceError, match=says):
        analyse(values, dt)


@pytest.mark.parametrize(
    "values",
    [
        np.zeros(1000),
        np.full(1000, 3.3),
        np.random.default_rng(2).normal(0, 1, 100_000),
    ],
)
def test_nothing_but_noise_is_no_pulse(values: np.ndarray) -> None:
    found = analyse(values, DT)
    assert found.codes == {"no_pulse"}
    assert found.t05_s is None
    assert found.peak is None
