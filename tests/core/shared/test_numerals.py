"""Decimal points and commas, thousands, and numbers that can be read in two ways."""

import pytest

from rapzel.core.shared import units
from rapzel.core.shared.errors import UnitError
from rapzel.core.shared.numerals import TwoWays, plain


@pytest.mark.parametrize(
    ("written", "expected"),
    [
        ("1,5", "1.5"), ("0,125", "0.125"), ("12.8", "12.8"), ("1,234,567", "1234567"), ("1,234.5", "1234.5"),
        ("1.234,5", "1234.5"), ("1.234.567", "1234567"), ("12 800", "12800"),
        ("12\u202f800", "12800"), ("soon", "soon"),
    ],
)  # fmt: skip
def test_what_can_be_read_in_one_way(written: str, expected: str) -> None:
    assert plain(written) == expected


def test_what_can_be_read_in_two_ways_is_asked_about() -> None:
    with pytest.raises(TwoWays, match=r"“12,800” may be 12800 or 12\.800"):
        plain("12,800")
    assert plain("12,800", "thousands") == "12800"
    assert plain("12,800", "decimal") == "12.800"


@pytest.mark.parametrize(
    ("parse", "text", "value"),
    [
        (units.parse_iso, "12,800", 12_800), (units.parse_iso, "ISO 1,600", 1600),
        (units.parse_duration, "1/1,600", 1 / 1600), (units.parse_duration, "1/12,800", 1 / 12_800),
        (units.parse_length, "8ft 6in", 2.5908), (units.parse_length, "8 ft 6", 2.5908),
        (units.parse_length, "1,5 m", 1.5),
        (units.parse_power, "1/16-0.3", 2**-4.3), (units.parse_power, "1/16 −0,3", 2**-4.3),
        (units.parse_stops, "EV 12", 12),
    ],
)  # fmt: skip
def test_what_people_write_is_read(parse, text: str, value: float) -> None:
    assert parse(text) == pytest.approx(value)


@pytest.mark.parametrize(
    "parse",
    [units.parse_length, units.parse_speed, units.parse_duration, units.parse_number],
)
def test_no_figure_is_a_thousand_times_off_in_silence(parse) -> None:
    with pytest.raises(UnitError, match=r"Accepted: 12800 or 12\.800"):
        parse("12,800")
