"""Writing what people read: SI -> `1/8000 s`, `8 ft`, `−3 stops`. For eyes only: sums and exports use the number."""

import functools
import math

MINUS = "\u2212"
# Up to ten minutes seconds are said as such: “90 s” is a timer's figure.
_TIMES = ((1e-3, 1e6, "µs"), (1.0, 1e3, "ms"), (600.0, 1.0, "s"))
_SHORTEST_S = 1e-9
_LONG_TIMES = (1 / 60, "min")
_PREFIXES = ((1.0, ""), (1e-3, "m"), (1e-6, "µ"))


def _rounded(value: float, digits: int = 2) -> float:
    # (neither has a first digit to count from)
    if value == 0 or not math.isfinite(value):
        return value
    return round(value, digits - 1 - math.floor(math.log10(abs(value))))


# a page writes a hundred figures, mostly those that it had
@functools.lru_cache(maxsize=8192)
def _number(value: float, digits: int = 3) -> str:
    """Up to `digits` significant figures without a trailing zero or an exponent."""
    rounded = _rounded(value, digits) + 0.0  # no minus before nothing
    return f"{rounded:.10f}".rstrip("0").rstrip(".").replace("-", MINUS)


def format_time(value_s: float, digits: int = 3) -> str:
    """0.0000948 [s] -> '94.8 µs': a length of time in the unit that suits it."""
    # What is left of sums of times by rounding is none.
    if abs(value_s) < _SHORTEST_S:
        return "0 s"
    # From 1 ms on in milliseconds, from 1 s in seconds: the steps of a unit's display.
    factor, unit = _unit_of_time(value_s)
    return f"{_number(value_s * factor, digits)} {unit}"


def _unit_of_time(value_s: float) -> tuple[float, str]:
    """By how much a time is multiplied in the unit that suits it, and the unit."""
    for below, factor, unit in _TIMES:
        if abs(value_s) < below:
            return factor, unit
    return _LONG_TIMES


def format_known_time(value_s: float | None) -> str:
    """A length of time [s] in the unit that suits it; 'not known' for None."""
    if value_s is None:
        return "not known"
    return format_time(value_s)


def to_the_place_of(doubt: float, value: float) -> float:
    """265.3 with a doubt of 30.1 -> 265.0: no digit beyond the second one of the doubt."""
    if not doubt or not math.isfinite(doubt):
        return value
    return round(value, 1 - math.floor(math.log10(abs(doubt)))) + 0.0


def format_time_within(value_s: float, doubt_s: float | None) -> str:
    """0.2653, 0.0301 -> '265 ± 30 ms': a time and how far it may be off [s], in one unit and to the same place."""
    if doubt_s is None:
        return f"{format_time(value_s)} ± not known"
    if doubt_s == 0:
        return format_time(value_s)
    doubt_s = _rounded(doubt_s)
    shown_s = to_the_place_of(doubt_s, value_s)
    largest = max(abs(shown_s), doubt_s)
    factor, unit = _unit_of_time(largest)
    return f"{_number(shown_s * factor, 6)} ± {_number(doubt_s * factor)} {unit}"


def format_set_time(value_s: float) -> str:
    """0.1366 -> '136.6 ms': a time that is set, to the steps that units have."""
    return format_time(value_s, 5)


def format_minutes(minutes: float) -> str:
    """1 -> '1 minute', 45 -> '45 minutes', 150 -> '2.5 hours': a length of work, as people plan it."""
    if minutes < 120:
        shown = _number(minutes, 2)
        return f"{shown} minute{'' if shown == '1' else 's'}"
    return f"{_number(minutes / 60, 2)} hours"


def format_prefixed(value: float, unit: str) -> str:
    """(0.0195, 'V') -> '19.5 mV': with the prefix that suits it, down to millionths (SI brochure, 9th ed., 3).

    Without a unit there is nothing to put a prefix to: the plain figure.
    """
    if not unit:
        return format_number(value)
    factor, prefix = next(
        (each for each in _PREFIXES if abs(value) >= each[0]),
        _PREFIXES[-1 if value else 0],
    )
    return f"{format_number(value / factor)} {prefix}{unit}"


def format_exposure(value_s: float) -> str:
    """0.004 -> '1/250 s', 1 -> '1 s': the marking on the camera with its unit, once."""
    shown = format_shutter(value_s)
    if shown.endswith(" s"):
        return shown
    return f"{shown} s"


def format_fraction(value_s: float) -> str:
    """35e-6 -> '1/29 000 s': rounded to two figures, the way people say it. From half a second on, decimal."""
    if value_s <= 0 or value_s >= 0.5:
        return f"{_number(max(value_s, 0.0))} s"
    return f"1/{_grouped(_rounded(1 / value_s))} s"


def format_shutter(value_s: float) -> str:
    """0.004 -> '1/250': the marking on the camera, in whole parts of a second below 0.3 s."""
    if value_s >= 0.3:
        return f"{_number(value_s)} s"
    parts = 1 / value_s
    if parts >= 9.5:
        return f"1/{_grouped(round(parts))}"
    # Long parts have a decimal on the dial: 1/2.5.
    return f"1/{_number(parts, 2)}"


def _grouped(value: float) -> str:
    whole = f"{value:.0f}"
    # Four digits stand together, five are grouped (SI brochure, 9th ed., 5.4.4).
    if len(whole) < 5:
        return whole
    return f"{value:,.0f}".replace(",", "\u2009")


def format_power(power: float) -> str:
    """0.03125 -> '1/32'; powers between whole stops as '1/16 −0.3'."""
    if power >= 1 - 1e-9:
        return "full"
    stops = math.log2(power)
    # The whole stop above, and what it lies below that.
    whole = math.ceil(stops - 1e-6)
    rest = round(stops - whole, 1)
    if whole == 0:
        base = "full"
    else:
        base = f"1/{2**-whole}"
    if rest == 0:
        return base
    return f"{base} {MINUS}{abs(rest):.1f}"


def format_stops(stops: float, signed: bool = True) -> str:
    """-1.34 -> '−1.3'."""
    if signed:
        text = f"{round(stops, 1) + 0.0:+.1f}"
    else:
        text = f"{round(stops, 1) + 0.0:.1f}"
    return text.replace("-", MINUS)


def format_f_number(number: float) -> str:
    """5.6 -> 'f/5.6'."""
    return f"f/{_number(number, 2)}"


def format_length(value_m: float, imperial: bool = False) -> str:
    """2.5 [m] -> '2.5 m', or '8.2 ft' where feet are preferred; small lengths in cm, mm or inches."""
    if imperial:
        if abs(value_m) >= 0.3048:
            return f"{_number(value_m / 0.3048)} ft"
        return f"{_number(value_m / 0.0254)} in"
    if value_m == 0:
        return "0 m"
    for above, factor, unit in (
        (1.0, 1.0, "m"),
        (0.01, 100.0, "cm"),
        (0.001, 1000.0, "mm"),
        (0.0, 1e6, "µm"),
    ):
        if abs(value_m) >= above:
            return f"{_number(value_m * factor)} {unit}"
    raise AssertionError("unreachable: the last row takes every length")


def format_speed(value_m_s: float, imperial: bool = False) -> str:
    """9 [m/s] -> '9 m/s', or '20.1 mph' where miles are preferred."""
    if imperial:
        return f"{_number(value_m_s / 0.44704)} mph"
    return f"{_number(value_m_s)} m/s"


def format_clock(hour: float) -> str:
    """18.5 -> '18:30'; 25.25 is 1:15 of the next day."""
    minutes = round(hour * 60) % (24 * 60)
    return f"{minutes // 60}:{minutes % 60:02d}"


def format_percent(share: float) -> str:
    """0.618 -> '62 %'; what is not quite all or nothing is not said to be: 0.998 -> 'over 99 %'."""
    if 0.995 <= share < 1:
        return "over 99 %"
    if 0 < share < 0.005:
        return "under 1 %"
    return f"{round(share * 100):d} %"


def format_number(value: float, digits: int = 3) -> str:
    """1234.5 -> '1230': a plain figure to three significant digits."""
    if abs(value) < 10_000:
        return _number(value, digits)
    return _grouped(_rounded(value, digits))
