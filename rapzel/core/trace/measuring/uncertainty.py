"""How sure the figures are: noise by repeating the measurement on noisy copies, sampling by its interval."""

import math

import numpy as np

from rapzel.core.trace.measuring.figures import Figures, measure
from rapzel.core.trace.measuring.smoothing import Array, smoothed, smoothing

_COPIES = 40
_LONGEST = 1500  # samples of a copy; longer curves are averaged in groups first
_COVERAGE = 2.0  # standard deviations, for about 95 %
# more where the curve is smoothed: its own waviness is not seen by the copies
_ROUGH = 2.5
_OTHER = 0.7  # of the distance between model and curve that counts as doubt
_NAMES = ("t05_s", "t01_s", "light_integral")


def of(
    curve: Array, dt_s: float, noise: float, figures: Figures, step: float
) -> dict[str, float | None]:
    """Expanded uncertainties of t.5 [s], t.1 [s] and light integral [V s]: `u_t05_s`, `u_t01_s`, `u_light_integral`.

    Noise: spread and bias over noisy copies of the smoothed curve, and what another smoothing would have changed.
    Sampling: half an interval at each crossing, evenly likely.
    """
    # Two crossings, each anywhere within an interval: dt/√12 each, together dt/√6.
    sampling = {
        "t05_s": dt_s / math.sqrt(6),
        "t01_s": dt_s / math.sqrt(6),
        "light_integral": 0.0,
    }
    width = smoothing(curve, noise)
    if width == 1:
        # A clean curve: noise and converter steps move a crossing by their size over the slope there.
        spread = {
            name: _edge(curve, dt_s, noise + step, level)
            for name, level in (("t05_s", 0.5), ("t01_s", 0.1))
        }
        spread["light_integral"] = noise * dt_s * math.sqrt(len(curve))
        return _named(
            {n: _COVERAGE * math.hypot(spread[n], sampling[n]) for n in _NAMES}, figures
        )
    # Forty copies of a million samples would take a minute and tell no more.
    group = max(len(curve) // _LONGEST, 1)
    whole = len(curve) // group * group
    short = curve[:whole].reshape(-1, group).mean(axis=1)
    rate, quiet = dt_s * group, noise / math.sqrt(group)
    return _named(_repeated(short, rate, quiet, figures, sampling), figures)


def _named(found: dict[str, float], figures: Figures) -> dict[str, float | None]:
    return {
        f"u_{name}": None if getattr(figures, name) is None else found[name]
        for name in _NAMES
    }


def _edge(curve: Array, dt_s: float, error: float, level: float) -> float:
    """Error of the width at a level [s]: error over slope at both crossings, and twice that of the peak's share."""
    top = int(np.argmax(curve))
    target = level * float(curve[top])
    above = np.flatnonzero(curve >= target)
    if above.size == 0:
        return 0.0
    total = 0.0
    for at, step in ((int(above[0]), -1), (int(above[-1]), 1)):
        near = range(max(at - 2, 0), min(at + 3, len(curve) - 1))
        slope = (
            max((abs(float(curve[k + 1] - curve[k])) for k in near), default=0.0) / dt_s
        )
        if 0 <= at + step < len(curve) and slope > 0:
            # The level is a share of the peak, so that the peak's own error moves it as well.
            total += (error * (1 + level) / slope) ** 2
    return math.sqrt(total)


def _repeated(
    curve: Array,
    dt_s: float,
    noise: float,
    figures: Figures,
    sampling: dict[str, float],
) -> dict[str, float]:
    width = smoothing(curve, noise)
    truth = smoothed(curve, width)
    known = measure(truth, dt_s, 0.0, width=1)
    rng = np.random.default_rng(7)
    copies = [
        measure(truth + noise * rng.standard_normal(len(truth)), dt_s, noise, width)
        for _ in range(_COPIES)
    ]
    # What another careful person would have smoothed by.
    wide = measure(curve, dt_s, noise, width=int(1.6 * width) | 1)
    found: dict[str, float] = {}
    for name in _NAMES:
        all_ = np.array(
            [value for copy in copies if (value := getattr(copy, name)) is not None]
        )
        base, here, other = (
            getattr(known, name),
            getattr(figures, name),
            getattr(wide, name),
        )
        if all_.size < _COPIES // 2 or base is None or here is None:
            found[name] = here or 0.0
            continue
        bias = float(all_.mean()) - base
        if other is not None:
            method = abs(here - other)
        else:
            method = 0.0
        found[name] = (
            _ROUGH * math.hypot(float(all_.std(ddof=1)), sampling[name])
            + abs(bias)
            + method
        )
    return found


def by_two_rulers(ruler: dict[str, float], figures: Figures) -> dict[str, float | None]:
    """The model's figures; their uncertainty also owns what the curve itself would have said otherwise."""
    found: dict[str, float | None] = dict(ruler)
    for name in _NAMES:
        other = getattr(figures, name)
        if other is None:
            apart = 0.0
        else:
            apart = abs(ruler[name] - other)
        found[f"u_{name}"] = ruler[f"u_{name}"] + _OTHER * apart
    return found


def with_baseline(
    doubt: dict[str, float | None],
    curve: Array,
    dt_s: float,
    noise: float,
    u_baseline: float,
) -> dict[str, float | None]:
    """The uncertainties with that of the baseline: what the figures would be on a ground one deviation up and down."""
    if u_baseline <= 0:
        return {}
    width = smoothing(curve, noise)
    up, down = (
        measure(curve + sign * u_baseline, dt_s, noise, width) for sign in (1, -1)
    )
    found: dict[str, float | None] = {}
    for name in ("t05_s", "t01_s"):
        high, low, known = getattr(up, name), getattr(down, name), doubt[f"u_{name}"]
        if known is not None and high is not None and low is not None:
            found[f"u_{name}"] = math.hypot(known, high - low)
    return found
