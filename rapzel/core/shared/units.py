"""Reading what people write and writing what people read. SI inside, `1/8000`, `8 ft` and `-3 stops` outside.

Every parser takes a text and returns SI; it raises UnitError, which says what would be accepted. Every formatter
is for eyes only: sums, exports and tests use the number itself.
"""

import functools
import math
import re
from collections.abc import Callable
from typing import Any

import pint

from rapzel.core.shared import numerals
from rapzel.core.shared.errors import UnitError

MINUS = "\u2212"


@functools.cache
def _registry() -> "pint.UnitRegistry[Any]":
    # It knows kph already, and would say so at each start.
    registry: pint.UnitRegistry[Any] = pint.UnitRegistry(on_redefinition="ignore")
    registry.define("kmh = kilometer / hour = kph")
    return registry


def _plain(text: str) -> str:
    """The text with typographic minus, micro, primes and spaces made plain."""
    table = {
        MINUS: "-",
        "–": "-",
        "\u03bc": "µ",
        "\u2032": "'",
        "\u2033": '"',
        "’": "'",
        "”": '"',
        "\u00a0": " ",
    }
    for fancy, plain in table.items():
        text = text.replace(fancy, plain)
    return re.sub(r"(?<=\d)[\u2009\u202f ](?=\d{3}(\D|$))", "", text.strip())


_WRITTEN = r"[-+]?(?:\d[\d.,]*|[.,]\d+)(?:[eE][-+]?\d+)?"
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_UNIT = re.compile(
    r"[A-Za-zµ°]{1,16}(\s*/\s*[A-Za-z]{1,16})?"
)  # no expressions: these are not ours to evaluate
_AMOUNT = re.compile(rf"^({_WRITTEN})(?:\s*/\s*({_WRITTEN}))?\s*(.*)$")


def _float(written: str, comma: str) -> float | None:
    """The number as written; None for what is none. Raises TwoWays for one that can be read in two ways."""
    number = numerals.plain(written, comma)
    if _NUMBER.fullmatch(number):
        return float(number)
    return None


def _amount(text: str, comma: str = "") -> tuple[float, str] | None:
    """`1/250 s` -> (0.004, 's'); None when the text does not begin with a finite number or fraction.

    comma: what a comma before three digits is, where that is known. Raises UnitError for a number of two meanings.
    """
    found = _AMOUNT.match(_plain(text))
    if not found:
        return None
    top, bottom, rest = found.groups()
    try:
        value = _float(top, comma)
        # Nobody writes a part of a second with three decimals: 1/1,600 has thousands.
        below = 1.0 if bottom is None else _float(bottom, comma or "thousands")
    except numerals.TwoWays as error:
        raise UnitError(
            text, "a number that can be read in one way", f"{error.thousands} or {error.decimal}"
        ) from None
    if value is None or not below:
        return None
    value /= below
    return (value, rest.strip()) if math.isfinite(value) else None


def _with_unit(text: str, bare: str, dimension: str, wanted: str, accepted: str) -> float:
    """Reads a number with any unit of the dimension, in SI; `bare` is the unit of a number without one."""
    amount = _amount(text)
    if amount is None or (amount[1] and not _UNIT.fullmatch(amount[1])):
        raise UnitError(text, wanted, accepted)
    value, unit = amount
    try:
        # The offset of degrees Celsius is why the quantity is built first and converted as a whole.
        quantity = _registry().Quantity(value, unit or bare)
        return float(quantity.to(dimension).magnitude)
    except (pint.errors.PintError, AttributeError, ValueError) as error:
        raise UnitError(text, wanted, accepted) from error


_TIMES = {
    "": 1.0,
    "s": 1.0,
    "sec": 1.0,
    '"': 1.0,
    "ms": 1e-3,
    "µs": 1e-6,
    "us": 1e-6,
    "ns": 1e-9,
    "min": 60.0,
}


def parse_duration(text: str) -> float:
    """`1/8000`, `125 µs`, `0.125 ms`, `2 s` -> seconds, above or equal 0."""
    amount = _amount(text)
    if amount is None or amount[1] not in _TIMES or amount[0] < 0:
        raise UnitError(text, "a duration", "1/8000, 125 µs, 0.125 ms, 2 s")
    return amount[0] * _TIMES[amount[1]]


def parse_f_number(text: str) -> float:
    """`f/8`, `8`, `F 5.6` -> f-number, above 0."""
    amount = _amount(re.sub(r"^\s*[fF]\s*/?\s*", "", text))
    if amount is None or amount[1] or amount[0] <= 0:
        raise UnitError(text, "an f-number", "f/8, 5.6")
    return amount[0]


def parse_iso(text: str) -> float:
    """`ISO 200`, `200` -> ISO speed, above 0."""
    # No speed has three decimals: ISO 12,800 has thousands.
    amount = _amount(re.sub(r"^\s*iso\s*", "", text, flags=re.IGNORECASE), comma="thousands")
    if amount is None or amount[1] or amount[0] <= 0:
        raise UnitError(text, "an ISO speed", "200, ISO 1600")
    return amount[0]


def parse_power(text: str) -> float:
    """`1/16`, `-4 stops`, `25 %`, `full`, `1/16 −0.3` (a third below) -> share of full power in (0, 1]."""
    between = re.fullmatch(
        r"(full|1\s*/\s*\d+)\s*(-\s*\d*[.,]?\d+)(?:\s*stops?)?", _plain(text), re.IGNORECASE
    )
    if between:
        return parse_power(between[1]) * math.exp2(
            float(between[2].replace(" ", "").replace(",", "."))
        )
    if _plain(text).lower() == "full":
        return 1.0
    amount = _amount(text)
    accepted = "1/16, -4 stops, 25 %, full"
    if amount is None:
        raise UnitError(text, "a power", accepted)
    value, unit = amount
    if unit in ("stop", "stops") or (not unit and value < 0):
        if abs(value) < 100:
            value = 2.0**value
        else:
            value = 0.0
    elif unit == "%":
        value /= 100
    elif unit:
        raise UnitError(text, "a power", accepted)
    if not 0 < value <= 1:
        raise UnitError(text, "a power between nothing and full", accepted)
    return value


def parse_stops(text: str) -> float:
    """`1.3`, `-3 stops`, `1/3`, `EV 12` -> stops."""
    amount = _amount(re.sub(r"^\s*EV\s*", "", text, flags=re.IGNORECASE))
    if amount is None or amount[1] not in ("", "stop", "stops", "EV"):
        raise UnitError(text, "a number of stops", "1.3, -3 stops, 1/3")
    return amount[0]


_FEET_AND_INCHES = re.compile(
    r"(\d+\.?\d*)\s*(?:'|ft|feet|foot)\s*(?:(\d+\.?\d*)\s*(?:\"|in|inch|inches)?)?", re.IGNORECASE
)


def parse_length(text: str, bare: str = "m") -> float:
    """`2.5 m`, `8 ft`, `8ft 6in`, `5' 6"`, `30 cm` -> metres, above or equal 0; `bare`: unit of a bare number."""
    accepted = "2.5 m, 30 cm, 8 ft, 8ft 6in, 5' 6\""
    feet = _FEET_AND_INCHES.fullmatch(_plain(text))
    if feet:
        return float(feet[1]) * 0.3048 + float(feet[2] or 0) * 0.0254
    value = _with_unit(_plain(text).replace('"', "inch"), bare, "meter", "a length", accepted)
    if value < 0:
        raise UnitError(text, "a length", accepted)
    return value


def parse_speed(text: str, bare: str = "m/s") -> float:
    """`14 m/s`, `60 km/h`, `37 mph` -> metres per second, above or equal 0."""
    accepted = "14 m/s, 60 km/h, 37 mph, 46 ft/s"
    value = _with_unit(text, bare, "meter / second", "a speed", accepted)
    if value < 0:
        raise UnitError(text, "a speed", accepted)
    return value


def parse_angle(text: str) -> float:
    """`90`, `90°`, `1.57 rad` -> degrees."""
    return _with_unit(
        _plain(text).replace("°", "deg"), "degree", "degree", "an angle", "90, 45°, 1.57 rad"
    )


def parse_temperature(text: str) -> float:
    """`20`, `20 °C`, `68 °F` -> degrees Celsius, above absolute zero."""
    accepted = "20 °C, 68 °F, 293 K"
    plain = re.sub(r"°?\s*([CF])$", r"deg\1", _plain(text))
    value = _with_unit(plain, "degC", "degC", "a temperature", accepted)
    if value <= -273.15:
        raise UnitError(text, "a temperature above absolute zero", accepted)
    return value


def parse_number(text: str) -> float:
    """`600`, `1.5`, `2/3` -> a plain number, with no unit."""
    amount = _amount(text)
    if amount is None or amount[1]:
        raise UnitError(text, "a plain number", "600, 1.5")
    return amount[0]


def parse_rate(text: str) -> float:
    """`8`, `8 frames/s`, `8/s` -> per second, above or equal 0."""
    amount = _amount(re.sub(r"\s*(?:fps|(?:frames?)?\s*/\s*s)\s*$", "", _plain(text)))
    if amount is None or amount[1] or amount[0] < 0:
        raise UnitError(text, "a frame rate", "8, 8 frames/s")
    return amount[0]


# --- writing ------------------------------------------------------------------------------------------------------


_PREFIXES = ((1.0, ""), (1e-3, "m"), (1e-6, "µ"))


def _rounded(value: float, digits: int = 2) -> float:
    if value == 0 or not math.isfinite(value):
        return value
    return round(value, digits - 1 - math.floor(math.log10(abs(value))))


@functools.lru_cache(maxsize=8192)  # a page writes a hundred figures, mostly those that it had
def _number(value: float, digits: int = 3) -> str:
    """Up to `digits` significant figures without a trailing zero or an exponent."""
    rounded = _rounded(value, digits) + 0.0  # no minus before nothing
    return f"{rounded:.10f}".rstrip("0").rstrip(".").replace("-", MINUS)


def format_time(value_s: float, digits: int = 3) -> str:
    """0.0000948 -> '94.8 µs': a length of time in the unit that suits it."""
    if value_s == 0:
        return "0 s"
    for below, factor, unit in ((1e-3, 1e6, "µs"), (1.0, 1e3, "ms")):
        if abs(value_s) < below:
            return f"{_number(value_s * factor, digits)} {unit}"
    if abs(value_s) < 600:
        return f"{_number(value_s, digits)} s"
    return f"{_number(value_s / 60, digits)} min"


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
        (each for each in _PREFIXES if abs(value) >= each[0]), _PREFIXES[-1 if value else 0]
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
    return f"1/{_number(parts, 2)}"


def _grouped(value: float) -> str:
    whole = f"{value:.0f}"
    if len(whole) < 5:
        return whole
    return f"{value:,.0f}".replace(",", "\u2009")


def format_power(power: float) -> str:
    """0.03125 -> '1/32'; powers between whole stops as '1/16 −0.3'."""
    if power >= 1 - 1e-9:
        return "full"
    stops = math.log2(power)
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
    """2.5 -> '2.5 m', or '8.2 ft' where feet are preferred; small lengths in cm, mm or inches."""
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
    """9 -> '9 m/s', or '20.1 mph' where miles are preferred."""
    if imperial:
        return f"{_number(value_m_s / 0.44704)} mph"
    return f"{_number(value_m_s)} m/s"


def parse_clock(text: str) -> float:
    """`18:30`, `18.5`, `6:05` -> hours of the day, 0 to 24."""
    match = re.fullmatch(r"\s*(\d{1,2}):([0-5]\d)\s*", text)
    if match is None:
        amount = _amount(text)
    else:
        amount = None
    if match:
        hour = int(match[1]) + int(match[2]) / 60
    elif amount:
        hour = amount[0]
    else:
        hour = math.nan
    if not 0 <= hour <= 24 or (amount is not None and amount[1]):
        raise UnitError(text, "a time of the day", "18:30")
    return hour


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


# --- stepping -----------------------------------------------------------------------------------------------------

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
        for parts in (80000, 64000, 50000, 40000, 32000, 25000, 20000, 16000, 12500, 10000)
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
    ordered = sorted(set(marks))
    close = 1.02  # markings are rounded by up to 2 %: 1/60 is meant as 1/64
    if direction > 0:
        return next((mark for mark in ordered if mark > value * close), max(ordered[-1], value))
    return next(
        (mark for mark in reversed(ordered) if mark < value / close), min(ordered[0], value)
    )


def third_of_a_stop(factor: float = 2.0) -> Callable[[float, int], float]:
    """A stepper that multiplies by a third root of `factor`: 2 for light, √2 for distance."""
    return lambda value, direction: float(value * factor ** (direction / 3))
