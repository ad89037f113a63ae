"""What the bench says of its numbers: units, pictures with the same facts in a table, and the queue's caretaker."""

import json
from xml.etree import ElementTree

import pytest

from rapzel.bench.drawings import draw_colours, draw_histogram, draw_trace
from rapzel.bench.models import ColourRun
from rapzel.bench.templatetags.bench_words import codes, marks, percent1
from rapzel.bench.words import figure_rows
from rapzel.core.trace.measuring.doubts import RULES
from rapzel.core.trace.measuring.lags import LagResult
from tests.apps.rows import colour_row, measured, trace_row

SVG = "{http://www.w3.org/2000/svg}"


def test_every_figure_has_its_unit_and_every_mistake_its_heading() -> None:
    rows = {row["label"]: row for row in figure_rows(measured()[1])}
    assert rows["t.5"]["value"].endswith("µs")
    assert rows["t.5"]["fraction"].startswith("1/")
    assert rows["t.1"]["doubt"].startswith("± ")
    assert rows["Light"]["value"].endswith(" µV s")
    assert rows["Light"]["doubt"].endswith("V s")
    assert rows["Peak"]["value"].endswith(" V")
    assert rows["t.5"]["sd"].endswith(("µs", "ns"))
    assert not any("detector" in label for label in rows), (
        "told only where the detector was slow"
    )
    assert codes(list(RULES)).count(",") == len(RULES) - 1
    assert not any(code in codes([code]) for code in RULES), "a code is no heading"
    assert percent1(0.0123) == "1.2 %"


def test_light_and_levels_read_well_with_a_unit_and_without() -> None:
    volts = {
        **measured()[1],
        "light_integral": 0.00341,
        "u_light_integral": 4.79e-6,
        "unit": "V",
    }
    rows = {row["label"]: row for row in figure_rows(volts)}
    assert (rows["Light"]["value"], rows["Light"]["doubt"]) == (
        "3.41 mV s",
        "± 4.79 µV s",
    )
    rows = {
        row["label"]: row
        for row in figure_rows({**volts, "light_integral": 2.5e-5, "unit": ""})
    }
    assert rows["Light"]["value"] == "25 µs of the file's unit", (
        "a table without units need not be volts"
    )
    assert rows["Peak"]["value"].endswith(" of the file's unit")
    assert not any(
        "e−" in row["value"] + row["doubt"] + row["sd"] for row in rows.values()
    ), "no exponents"


def test_a_slow_detectors_figures_are_told_apart() -> None:
    result = {
        **measured()[1],
        "warnings": [{"code": "slow_detector", "says": "…"}],
        "corrected_t05_s": 1e-4,
    }
    assert {row["label"] for row in figure_rows(result)} >= {
        "t.5, detector's lag out",
        "t.1, detector's lag out",
    }


def test_what_cannot_be_read_says_so() -> None:
    rows = {
        row["label"]: row["value"]
        for row in figure_rows({**measured()[1], "t01_s": None})
    }
    assert rows["t.1"] == "not to be read"


def test_marks_are_on_the_recordings_clock() -> None:
    result = measured()[1]
    found = json.loads(marks(result))
    begin, pop = result["segments"][0][0], result["pops"][0]
    assert begin < 0, "the recording begins before its trigger"
    assert found["first05"] == pytest.approx(begin + pop["first05_s"])
    assert found["last05"] - found["first05"] == pytest.approx(pop["t05_s"], rel=0.05)
    assert (
        json.loads(marks({**result, "pops": [{**pop, "last01_s": None}]}))["last01"]
        is None
    )


def test_the_figure_shows_brackets_where_the_light_crosses(owner) -> None:
    trace = trace_row(owner)
    drawing = draw_trace(trace)
    texts = [
        each.text
        for each in ElementTree.fromstring(drawing.svg.markup()).iter(f"{SVG}text")
    ]
    assert any(text.startswith("t.5 ") for text in texts)
    assert any(text.startswith("t.1 ") for text in texts)
    assert drawing.rows[0][0] == "t.5"
    trace.result["pops"][0] |= {
        "first01_s": None,
        "last01_s": None,
        "t01_s": None,
        "t05_s": None,
        "first05_s": None,
    }
    bare = ElementTree.fromstring(draw_trace(trace).svg.markup())
    assert not [each for each in bare.iter(f"{SVG}text") if each.text.startswith("t.")]


def test_a_histogram_counts_every_lag_in_picture_and_table() -> None:
    lags = tuple(4e-4 + n * 1e-6 for n in range(20))
    found = LagResult(lags, 4.095e-4, 6e-6, lags[0], lags[-1], 3e-6, 0, ())
    drawing = draw_histogram(found)
    assert sum(int(row[2]) for row in drawing.rows) == 20
    bars = list(ElementTree.fromstring(drawing.svg.markup()).iter(f"{SVG}rect"))
    assert len(bars) == len(drawing.rows)
    one = draw_histogram(LagResult((4e-4,), 4e-4, None, 4e-4, 4e-4, 1e-6, 0, ()))
    assert [row[2] for row in one.rows] == ["1"], "a single lag has a picture as well"


def test_pops_beyond_the_tolerance_are_marked_by_word_not_by_colour_alone(
    owner,
) -> None:
    run: ColourRun = colour_row(owner)
    drawing = draw_colours(run)
    texts = [
        each.text
        for each in ElementTree.fromstring(drawing.svg.markup()).iter(f"{SVG}text")
    ]
    assert texts.count("beyond") == 1
    assert {"0.4", "3.0"} <= set(texts), "each bar carries its ΔE00"
    heights = [
        float(each.get("y", "0"))
        for each in ElementTree.fromstring(drawing.svg.markup()).iter(f"{SVG}text")
    ]
    assert min(heights) > 12, "nothing is cut off at the upper edge"
    assert [row[-1] for row in drawing.rows] == ["", "beyond"]
    assert "1 of 2 pops lie beyond" in drawing.summary
