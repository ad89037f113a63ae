"""Reading what people write: `1/8000`, `8 ft`, `-3 stops` -> SI.

Every parser takes a text and returns SI; it raises UnitError, which says what would be accepted.
"""

import functools
import math
import re
from typing import Any

import pint

from rapzel.core.shared import numerals
from rapzel.core.shared.errors import UnitError
from rapzel.core.shared.units.writing import MINUS


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
# no expressions: these are not ours to evaluate
_UNIT = re.compile(r"[A-Za-zµ°]{1,16}(\s*/\s*[A-Za-z]{1,16})?")
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
            text,
            "a number that can be read in one way",
            f"{error.thousands} or {error.decimal}",
        ) from None
    if value is None or not below:
        return None
    value /= below
    if not math.isfinite(value):
        return None
    return value, rest.strip()


def _with_unit(
    text: str, bare: str, dimension: str, wanted: str, accepted: str
) -> float:
    """Reads a number with any unit of the dimension, in SI; `bare` is the unit of a number without one."""
    amount = _amount(text)
    # The library would work out `m**9**9`, and a person can type that.
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
    amount = _amount(
        re.sub(r"^\s*iso\s*", "", text, flags=re.IGNORECASE), comma="thousands"
    )
    if amount is None or amount[1] or amount[0] <= 0:
        raise UnitError(text, "an ISO speed", "200, ISO 1600")
    return amount[0]


def parse_share(text: str) -> float:
    """`12 %`, `0.12` -> a share in 0 … 1."""
    amount = _amount(text)
    accepted = "12 %, 0.12"
    if amount is None or amount[1] not in ("", "%"):
        raise UnitError(text, "a share", accepted)
    value = amount[0] / 100 if amount[1] else amount[0]
    if not 0 <= value <= 1:
        raise UnitError(text, "a share from none to all", accepted)
    return value


def parse_power(text: str) -> float:
    """`1/16`, `-4 stops`, `25 %`, `full`, `1/16 −0.3` (a third below) -> share of full power in (0, 1]."""
    between = re.fullmatch(
        r"(full|1\s*/\s*\d+)\s*(-\s*\d*[.,]?\d+)(?:\s*stops?)?",
        _plain(text),
        re.IGNORECASE,
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
        # 2 to the power of a typed number may be larger than any float.
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
    r"(\d+\.?\d*)\s*(?:'|ft|feet|foot)\s*(?:(\d+\.?\d*)\s*(?:\"|in|inch|inches)?)?",
    re.IGNORECASE,
)


def parse_length(text: str, bare: str = "m") -> float:
    """`2.5 m`, `8 ft`, `8ft 6in`, `5' 6"`, `30 cm` -> metres, above or equal 0; `bare`: unit of a bare number."""
    accepted = "2.5 m, 30 cm, 8 ft, 8ft 6in, 5' 6\""
    # Two units in one text, which the library does not read.
    feet = _FEET_AND_INCHES.fullmatch(_plain(text))
    if feet:
        return float(feet[1]) * 0.3048 + float(feet[2] or 0) * 0.0254
    value = _with_unit(
        _plain(text).replace('"', "inch"), bare, "meter", "a length", accepted
    )
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
        _plain(text).replace("°", "deg"),
        "degree",
        "degree",
        "an angle",
        "90, 45°, 1.57 rad",
    )


def parse_temperature(text: str) -> float:
    """`20`, `20 °C`, `68 °F` -> degrees Celsius, above absolute zero."""
    accepted = "20 °C, 68 °F, 293 K"
    # A bare C is the coulomb to the library, and F the farad.
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
