"""The plot layer: where lines and names of axes stand."""

import pytest

from rapzel.core.shared import units
from rapzel.ui.drawing import Svg
from rapzel.ui.plot import (
    Box,
    Plot,
    anchor_within,
    decades,
    guide_number_of_stops,
    or_zero,
    power_of_stops,
    whole_stops_down,
)

BOX = Box(left=50.0, right=250.0, top=20.0, bottom=120.0)


@pytest.fixture
def plot() -> Plot:
    return Plot(Svg(300, 150, "A plot"), BOX, BOX.linear_x(0, 10), BOX.linear_y(0, 1))


def shapes(plot: Plot) -> list[tuple[str, dict[str, str], str]]:
    return [(tag, attributes, text) for tag, _, attributes, text in plot.svg.parts]


def test_scales_go_from_edge_to_edge() -> None:
    assert [BOX.linear_x(2, 4)(value) for value in (2, 3, 4)] == [50.0, 150.0, 250.0]
    assert [BOX.linear_y(2, 4)(value) for value in (2, 3, 4)] == [120.0, 70.0, 20.0], (
        "y grows down"
    )
    assert BOX.log_x(1, 100)(10) == pytest.approx(150.0)
    assert BOX.log_y(1, 100)(10) == pytest.approx(70.0)


def test_a_level_is_a_line_across_with_its_name_at_the_left(plot: Plot) -> None:
    plot.levels([0.5], units.format_percent)
    (line, at, _), (_, name, text) = shapes(plot)
    assert line == "line"
    assert (at["x1"], at["y1"], at["x2"], at["y2"]) == ("50", "70", "250", "70")
    assert (name["x"], name["y"], name["text-anchor"], text) == (
        "42",
        "74",
        "end",
        "50 %",
    )


def test_a_column_is_a_line_upwards_with_its_name_below(plot: Plot) -> None:
    plot.columns([5], or_zero(units.format_time))
    (_, at, _), (_, name, text) = shapes(plot)
    assert (at["x1"], at["y1"], at["x2"], at["y2"]) == ("150", "20", "150", "120")
    assert (name["x"], name["y"], name["text-anchor"], text) == (
        "150",
        "138",
        "middle",
        "5 s",
    )


def test_a_column_may_be_named_above_where_lanes_follow_below(plot: Plot) -> None:
    plot.column_above(0.0, "event", "start")
    (_, at, _), (_, name, text) = shapes(plot)
    assert (at["x1"], at["y1"], at["y2"]) == ("50", "20", "120")
    assert (name["x"], name["y"], name["text-anchor"], text) == (
        "50",
        "14",
        "start",
        "event",
    )


def test_time_may_run_downwards() -> None:
    assert [BOX.downwards(0, 2)(value) for value in (0, 1, 2)] == [20.0, 70.0, 120.0]


@pytest.mark.parametrize(
    ("at", "anchor"), [(50, "start"), (90, "start"), (91, "middle"), (340, "end")]
)
def test_a_word_near_an_edge_is_written_away_from_it(at, anchor) -> None:
    assert anchor_within(at, 90, 340) == anchor


def test_names_of_ticks() -> None:
    assert or_zero(units.format_time)(0) == "0"
    assert list(decades(1e-5, 1e-2)) == pytest.approx([1e-5, 1e-4, 1e-3, 1e-2])
    assert list(whole_stops_down(1 / 8)) == [0, -1, -2, -3]
    assert [power_of_stops(stop) for stop in (0, -3)] == ["full", "1/8"]
    assert guide_number_of_stops(10) == "GN 32"
