"""What the plot of a trace is given: few points, no spike lost, the measured channel first, levels with a unit."""

import numpy as np
import pytest
from django.urls import reverse

from rapzel.bench import waveform
from rapzel.bench.models import Trace
from rapzel.demo.bench import record


@pytest.fixture
def trace(kit) -> Trace:
    made = record(kit, "Monobloc 600 quenched", 1 / 16, 2, "none")
    made.refresh_from_db()
    return made


@pytest.fixture
def url(trace: Trace) -> str:
    return reverse("bench:data", args=[trace.pk])


def test_a_spike_is_never_lost() -> None:
    values = np.zeros(300_000, dtype=np.float32)
    values[123_457] = 9.0
    at, level = waveform.decimated(values)
    assert len(at) <= waveform.POINTS + 2
    assert level.max() == 9.0
    assert at[int(level.argmax())] == 123_457


def test_the_page_gets_few_points_of_the_stretch_it_asks_for(visitor, url) -> None:
    assert len(visitor.get(url).content) < 200_000
    part = visitor.get(url, {"from": "0", "to": "0.0001", "segment": "1"}).json()
    assert part["curves"][0]["t"][-1] <= 0.00011
    assert part["unit"] == "V"


def test_the_measured_channel_comes_first_wherever_it_stands_in_the_file(
    visitor, trace, url
) -> None:
    light, trigger = trace.result["channels"]
    assert [curve["name"] for curve in visitor.get(url).json()["curves"]] == [
        light,
        trigger,
    ]
    trace.result["channel_number"] = 1
    trace.save()
    assert [curve["name"] for curve in visitor.get(url).json()["curves"]] == [
        trigger,
        light,
    ]


def test_pops_over_each_other_are_aligned_where_the_light_rises_through_half(
    visitor, kit, trace, url
) -> None:
    other = record(kit, "Monobloc 600 quenched", 1 / 64, 1, "none")
    found = visitor.get(url, {"over": other.pk}).json()
    assert found["unit"] == "%"
    assert [each["name"] for each in found["aligned"]] == [trace.name, other.name]
    for each in found["aligned"]:
        assert np.interp(0.0, each["t"], each["v"]) == pytest.approx(50, abs=5)
