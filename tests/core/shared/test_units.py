import math
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rapzel.core.shared import units
from rapzel.core.shared.errors import UnitError


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        ("1/8000", 1.25e-4),
        ("125us", 1.25e-4),
        ("125 µs", 1.25e-4),
        ("125 \u03bcs", 1.25e-4),  # the Greek letter, which keyboards give
        ("0.125 ms", 1.25e-4),
        ("1/250 s", 0.004),
        ("2,5 ms", 0.0025),
        ("2 s", 2.0),
        ('2"', 2.0),
        ("0.5", 0.5),
        ("1/29\u2009000 s", 1 / 29000),
    ],
)
def test_durations_as_people_write_them(text: str, seconds: float) -> None:
    assert units.parse_duration(text) == pytest.approx(seconds)


@pytest.mark.parametrize(
    "text", ["", "abc", "1/0", "-3 s", "1/8000 m", "5 parsecs", "1e999", "nan", "inf"]
)
def test_what_is_no_duration_is_refused_with_examples(text: str) -> None:
    with pytest.raises(UnitError, match=r"Accepted: 1/8000, 125 µs, 0\.125 ms, 2 s"):
        units.parse_duration(text)


@pytest.mark.parametrize(
    ("text", "power"),
    [
        ("1/16", 1 / 16),
        ("-4 stops", 1 / 16),
        ("−4", 1 / 16),
        ("25 %", 0.25),
        ("full", 1.0),
        ("1", 1.0),
        ("0.5", 0.5),
    ],
)
def test_powers(text: str, power: float) -> None:
    assert units.parse_power(text) == pytest.approx(power)


@pytest.mark.parametrize(
    "text", ["2", "0", "1/0", "-2000 stops", "150 %", "1/16 Ws", "strong"]
)
def test_powers_outside_of_nothing_to_full(text: str) -> None:
    with pytest.raises(UnitError, match="power"):
        units.parse_power(text)


@pytest.mark.parametrize(
    ("parse", "text", "value"),
    [
        (units.parse_f_number, "f/8", 8),
        (units.parse_f_number, "F5.6", 5.6),
        (units.parse_f_number, "11", 11),
        (units.parse_iso, "ISO 1600", 1600),
        (units.parse_stops, "-3 stops", -3),
        (units.parse_stops, "1/3", 1 / 3),
        (units.parse_length, "2.5 m", 2.5),
        (units.parse_length, "8 ft", 2.4384),  # 1 ft = 0.3048 m, exact since 1959
        (units.parse_length, "5' 6\"", 1.6764),
        (units.parse_length, "30 cm", 0.3),
        (units.parse_speed, "60 km/h", 60 / 3.6),
        (units.parse_speed, "60 kmh", 60 / 3.6),
        (units.parse_speed, "37 mph", 37 * 0.44704),  # 1 mph = 0.44704 m/s, exact
        (units.parse_speed, "14 m/s", 14),
        (units.parse_speed, "9", 9),
        (units.parse_angle, "90", 90),
        (units.parse_angle, "45°", 45),
        (units.parse_temperature, "20", 20),
        (units.parse_temperature, "68 °F", 20),
        (units.parse_temperature, "293.15 K", 20),
        (units.parse_rate, "8 frames/s", 8),
        (units.parse_rate, "8 fps", 8),
        (units.parse_number, "2/3", 2 / 3),
    ],
)
def test_other_quantities(parse, text: str, value: float) -> None:
    assert parse(text) == pytest.approx(value)


@pytest.mark.parametrize(
    ("parse", "text"),
    [
        (units.parse_f_number, "f/-8"),
        (units.parse_f_number, "8 mm"),
        (units.parse_length, "8 kg"),
        (units.parse_length, "-2 m"),
        (units.parse_length, "__import__('os')"),
        (units.parse_speed, "9 m"),
        (units.parse_speed, "fast"),
        (units.parse_temperature, "-300 °C"),
        (units.parse_iso, "0"),
        (units.parse_rate, "-1"),
        (units.parse_angle, "left"),
    ],
)
def test_other_quantities_refuse(parse, text: str) -> None:
    with pytest.raises(UnitError, match="Accepted:"):
        parse(text)


def test_bare_numbers_follow_the_preference() -> None:
    assert units.parse_length("8", bare="ft") == pytest.approx(2.4384)
    assert units.parse_speed("10", bare="mph") == pytest.approx(4.4704)


@pytest.mark.parametrize(
    ("value", "shown"),
    [
        (35e-6, "1/29\u2009000 s"),
        (94.8e-6, "1/11\u2009000 s"),
        (1 / 8000, "1/8000 s"),
        (0.02, "1/50 s"),
        (2.0, "2 s"),
    ],
)
def test_fractions_are_rounded_as_people_do(value: float, shown: str) -> None:
    assert units.format_fraction(value) == shown  # 35 µs as 1/29 000: common practice


@pytest.mark.parametrize(
    ("value", "shown"),
    [
        (94.8e-6, "94.8 µs"),
        (0.0032, "3.2 ms"),
        (1.5, "1.5 s"),
        (0, "0 s"),
        (1e-8, "0.01 µs"),
        (1200, "20 min"),
    ],
)
def test_times(value: float, shown: str) -> None:
    assert units.format_time(value) == shown


@pytest.mark.parametrize(
    ("value", "unit", "shown"),
    [(2.02, "V", "2.02 V"), (0.0195, "V", "19.5 mV"), (-0.00586, "V", "−5.86 mV"), (4.79e-6, "V s", "4.79 µV s"),
     (4e-8, "V", "0.04 µV"), (0.0, "V", "0 V"), (0.0195, "", "0.0195")],
)  # fmt: skip
def test_prefixes_suit_the_size_and_need_a_unit(
    value: float, unit: str, shown: str
) -> None:
    # prefixes: SI brochure, 9th ed., table 7
    assert units.format_prefixed(value, unit) == shown


def test_other_formats() -> None:
    assert units.format_shutter(0.005) == "1/200"
    assert units.format_shutter(0.4) == "0.4 s"
    assert units.format_power(1 / 32) == "1/32"
    assert units.format_power(1 / 32 * 2 ** (-1 / 3)) == "1/32 −0.3"
    assert units.format_power(1.0) == "full"
    assert units.format_stops(-1.34) == "−1.3"
    assert units.format_stops(-0.01) == "+0.0"
    assert units.format_length(6e-6) == "6 µm"
    assert units.format_length(2.4384, imperial=True) == "8 ft"
    assert units.format_speed(4.4704, imperial=True) == "10 mph"
    assert units.format_percent(0.618) == "62 %"


@pytest.mark.parametrize(
    ("value", "doubt", "shown"),
    [
        (0.2653, 0.0301, "265 ± 30 ms"),
        (0.2653, 0.000123, "265.3 ± 0.12 ms"),
        (0.0, 0.04, "0 ± 40 ms"),
        (0.00004, 0.04, "0 ± 40 ms"),
        (1.2, 0.0304, "1.2 ± 0.03 s"),
        (-0.0123, 0.0045, "−12.3 ± 4.5 ms"),
        (0.0004, 0.0, "400 µs"),
        (0.0004, None, "400 µs ± not known"),
    ],
)
def test_a_time_has_no_more_digits_than_its_doubt(value, doubt, shown) -> None:
    assert units.format_time_within(value, doubt) == shown


@given(st.floats(1e-6, 1000))
def test_a_time_shown_and_read_again_is_the_same_to_three_digits(
    seconds: float,
) -> None:
    assert units.parse_duration(units.format_time(seconds)) == pytest.approx(
        seconds, rel=6e-3
    )


@given(st.floats(-9, 0))
def test_a_power_shown_and_read_again_is_within_a_twentieth_of_a_stop(
    stops: float,
) -> None:
    assert (
        abs(math.log2(units.parse_power(units.format_power(2.0**stops))) - stops)
        <= 0.0501
    )


@given(st.text(max_size=30))
def test_no_text_gets_past_a_parser_as_anything_but_a_finite_number(text: str) -> None:
    for parse in (
        units.parse_duration,
        units.parse_power,
        units.parse_length,
        units.parse_speed,
        units.parse_stops,
    ):
        try:
            value = parse(text)
        except UnitError:
            continue
        assert math.isfinite(value)


def test_dials_step_by_thirds() -> None:
    assert units.next_mark(8, 1, units.F_NUMBERS) == 9
    assert units.next_mark(8, -1, units.F_NUMBERS) == 7.1
    assert units.next_mark(400, 1, units.ISO_SPEEDS) == 500
    assert units.next_mark(1 / 200, 1, units.SHUTTERS_S) == 1 / 160
    assert units.next_mark(1 / 60, -1, units.SHUTTERS_S) == 1 / 80
    assert units.next_mark(32, 1, units.F_NUMBERS) == 32  # the end of the dial
    assert units.next_mark(45, 1, units.F_NUMBERS) == 45  # beyond the dial it stays


def test_every_dial_steps_by_about_a_third_of_a_stop() -> None:
    for marks, stops_of_a_doubling in (
        (units.ISO_SPEEDS, 1),
        (units.SHUTTERS_S, 1),
        (units.F_NUMBERS, 2),
    ):
        ordered = sorted(set(marks))
        steps = [stops_of_a_doubling * math.log2(b / a) for a, b in pairwise(ordered)]
        assert max(steps) < 0.52, "markings are rounded, 0.3 s to 1/4 most of all"
        assert sum(steps) / len(steps) == pytest.approx(1 / 3, abs=0.03)


@pytest.mark.parametrize(
    ("text", "share"), [("12 %", 0.12), ("0.12", 0.12), ("0,5", 0.5), ("100%", 1.0), ("0", 0.0)]
)  # fmt: skip
def test_a_share_is_read_in_percent_or_as_a_part(text: str, share: float) -> None:
    assert units.parse_share(text) == pytest.approx(share)


@pytest.mark.parametrize("text", ["half", "12", "120 %", "-5 %", "5 m"])
def test_what_is_no_share_is_refused_with_what_would_be(text: str) -> None:
    with pytest.raises(UnitError, match=r"12 %, 0\.12"):
        units.parse_share(text)
