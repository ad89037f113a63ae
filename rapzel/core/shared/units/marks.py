"""The marks of dials, and the next one up or down from where something stands."""

from collections.abc import Callable

_FULL_APERTURES = "1 1.1 1.2 1.4 1.6 1.8 2 2.2 2.5 2.8 3.2 3.5 4 4.5 5 5.6 6.3 7.1 8 9 10 11 13 14 16 18 20 22 25 29 32"
F_NUMBERS = tuple(float(mark) for mark in _FULL_APERTURES.split())
ISO_SPEEDS = tuple(
    float(digits * scale)
    for scale in (1, 10, 100, 1000)
    for digits in (50, 64, 80, 100, 125, 160, 200, 250, 320, 400)
    if digits * scale <= 204800
)
_PARTS = (
    "8000 6400 5000 4000 3200 2500 2000 1600 1250 1000 800 640 500 400 "
    "320 250 200 160 125 100 80 60 50 40 30 25 20 15 13 10 8 6 5 4"
)
SHUTTERS_S = (
    tuple(
        1 / parts
        for parts in (
            80000,
            64000,
            50000,
            40000,
            32000,
            25000,
            20000,
            16000,
            12500,
            10000,
        )
    )
    + tuple(1 / int(part) for part in _PARTS.split())
    + (
        0.3,
        0.4,
        0.5,
        0.6,
        0.8,
        1.0,
        1.3,
        1.6,
        2.0,
        2.5,
        3.2,
        4.0,
        5.0,
        6.0,
        8.0,
        10.0,
        13.0,
        15.0,
        20.0,
        25.0,
        30.0,
    )
)


def next_mark(value: float, direction: int, marks: tuple[float, ...]) -> float:
    """The neighbour of a value among the markings of a dial: a third of a stop up (+1) or down (-1).

    A value between two markings goes to the one in that direction; at the end of the dial it stays there.
    """
    # Dials run up or down; here all run up.
    ordered = sorted(set(marks))
    close = 1.02  # markings are rounded by up to 2 %: 1/60 is meant as 1/64
    if direction > 0:
        return next(
            (mark for mark in ordered if mark > value * close), max(ordered[-1], value)
        )
    return next(
        (mark for mark in reversed(ordered) if mark < value / close),
        min(ordered[0], value),
    )


def third_of_a_stop(factor: float = 2.0) -> Callable[[float, int], float]:
    """A stepper that multiplies by a third root of `factor`: 2 for light, √2 for distance."""
    return lambda value, direction: float(value * factor ** (direction / 3))
