"""Periodic disturbances under a pulse: of the mains, or faster ones from switching supplies and dimmed lamps."""

import math

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.floating]
Wave = tuple[float | None, tuple[float, float]]  # frequency [Hz], sine and cosine part
NONE: Wave = (None, (0.0, 0.0))

MAINS_HZ = (50.0, 60.0, 100.0, 120.0)
_LEAST_PERIODS = 0.9  # of the mains, from the first to the last of the quiet part
_PHASES = 6  # eighths of a period that the quiet part must show
_AMPLITUDE = 0.005  # of the peak
_GONE = 0.7  # of what the quiet part varies: more than that must not be left
_FAST_PERIODS = 4.0  # of any other disturbance, within one quiet stretch
_FAST_AMPLITUDE = 0.005  # of the peak
_FAST_GONE = 0.35  # a wave of another frequency has to be nearly all that is there
_ROUNDS, _STEPS = 4, 21  # of the search for its exact frequency


def _fit(times: Array, means: Array, hertz: float) -> tuple[tuple[float, float], float]:
    """(sine and cosine part, squares left) of a wave on a straight line."""
    turn = math.tau * hertz * times
    columns = np.column_stack([np.ones(len(times)), times, np.sin(turn), np.cos(turn)])
    found = np.linalg.lstsq(columns, means, rcond=None)[0]
    gone = means - columns @ found
    return (float(found[2]), float(found[3])), float(gone @ gone)


def _about_a_line(times: Array, means: Array) -> Array:
    plain = np.column_stack([np.ones(len(times)), times])
    rest: Array = means - plain @ np.linalg.lstsq(plain, means, rcond=None)[0]
    return rest


def mains(times: Array, means: Array, peak: float, noise: float) -> Wave:
    """The mains' ripple of the quiet part; none where it is short or clean.

    times [s] and levels of the quiet blocks; peak of the light; noise: standard deviation of one block.
    """
    if (
        len(times) < 40
        or peak <= 0
        or times[-1] - times[0] < _LEAST_PERIODS / max(MAINS_HZ)
    ):
        return NONE
    rest = _about_a_line(times, means)
    # A wave has to explain more than the straight line does, else it is none.
    best, left = NONE, float(rest @ rest)
    for hertz in MAINS_HZ:
        phases = np.unique((times * hertz * 8).astype(int) % 8)
        if (times[-1] - times[0]) * hertz < _LEAST_PERIODS or len(phases) < _PHASES:
            continue  # a wave of which only a part is seen could be anything
        wave, squares = _fit(times, means, hertz)
        counts = math.hypot(*wave) > max(
            _AMPLITUDE * peak, 6 * noise / math.sqrt(len(times))
        )
        if counts and squares < _GONE * float(rest @ rest) and squares < left:
            left, best = squares, (hertz, wave)
    return best


def faster(times: Array, means: Array, peak: float, noise: float) -> Wave:
    """A wave of any other frequency that is nearly all the quiet part shows; none where there is no such.

    The longest stretch of even blocks tells the frequency roughly, all quiet blocks then tell it exactly.
    """
    stretch = _longest_even(times)
    count = stretch.stop - stretch.start
    if count < 64 or peak <= 0:
        return NONE
    step = float(times[stretch.start + 1] - times[stretch.start])
    rest = _about_a_line(times[stretch], means[stretch])
    # Windowed, so that a wave between two bins does not smear over all of them.
    power = np.abs(np.fft.rfft(rest * np.hanning(count))) ** 2
    first = math.ceil(_FAST_PERIODS)
    if len(power) <= first + 2:
        return NONE
    place = first + int(power[first:].argmax())
    # One line of the spectrum must hold most of it: else it is noise with a highest point.
    if power[max(place - 2, 0) : place + 3].sum() < 0.5 * power.sum():
        return NONE
    hertz, width = place / (count * step), 1 / (count * step)
    # The bins are coarse: the frequency is narrowed down by the fit itself.
    for _ in range(_ROUNDS):
        tried = np.linspace(hertz - width, hertz + width, _STEPS)
        hertz = float(min(tried, key=lambda each: _fit(times, means, float(each))[1]))
        width *= 2 / (_STEPS - 1)
    wave, squares = _fit(times, means, hertz)
    rest = _about_a_line(times, means)
    strong = math.hypot(*wave) > max(
        _FAST_AMPLITUDE * peak, 6 * noise / math.sqrt(len(times))
    )
    if strong and squares < _FAST_GONE * float(rest @ rest):
        return (hertz, wave)
    return NONE


def _longest_even(times: Array) -> slice:
    """The longest stretch of blocks without a gap."""
    if len(times) < 2:
        return slice(0, len(times))
    steps = np.diff(times)
    breaks = np.flatnonzero(steps > 1.5 * float(steps.min())) + 1
    edges = np.concatenate([[0], breaks, [len(times)]])
    longest = int(np.diff(edges).argmax())
    return slice(int(edges[longest]), int(edges[longest + 1]))
