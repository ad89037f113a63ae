"""Several lights in one frame: how long all of them light it, which part each has, and a second image."""

import math

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from tests.plans import INSTANT

# --- several lights under one opening --------------------------------------------------------------------------------


def several_lights(*lights) -> list[dict]:
    """Lights of (t.1, light in stops against the first), all of one shape."""
    made = []
    for place, (t01_s, stops) in enumerate(lights):
        strobe = {
            **INSTANT,
            "durations": [{"power": 1.0, "t01_s": t01_s, "provenance": "measured"}],
        }
        made.append(
            {
                "name": f"L{place}",
                "power": 1.0,
                "distance_m": 4.0 * 2 ** (-stops / 2),
                "strobe": strobe,
            }
        )
    return made


def several(document, *lights, **values):
    """The scene with such lights in a dark room, evaluated."""
    document.update(lights=several_lights(*lights), ambient={})
    return evaluate(
        changed(
            document, {key.replace("__", "."): value for key, value in values.items()}
        )
    )


def test_eleven_equal_lights_freeze_as_one_does(document) -> None:
    one = several(document, (5e-5, 0.0))
    eleven = several(
        document, *[(5e-5 * (1 + place * 1e-4), 0.0) for place in range(11)]
    )
    assert eleven.smear_px == pytest.approx(one.smear_px, rel=2e-3)
    assert eleven.margin("freeze").value == pytest.approx(
        one.margin("freeze").value, abs=0.01
    )


@pytest.mark.parametrize(
    ("share", "state"), [(0.2, "fails"), (0.09, "unsure"), (0.02, "passes")]
)
def test_a_slow_light_by_its_cumulative_share(
    document, share: float, state: str
) -> None:
    """Seen from 2^−3 of the exposure on, faint down to 2^−5, nothing below."""
    stops = math.log2(share / (1 - share))
    # nothing is clipped
    found = several(document, (3e-5, 0.0), (2e-3, stops), exposure__shutter_s=0.05)
    assert found.lights[1].share == pytest.approx(share)
    assert found.margin("freeze").state == state
    trail = next(trail for trail in found.trails if trail.of == "L1")
    assert trail.px == pytest.approx(9 * 0.05 / 3.95 * 2e-3 / 6e-6, rel=1e-3)
    assert trail.stops == pytest.approx(math.log2(share))
    assert (trail.visible, trail.faint) == (state == "fails", state == "unsure")
    assert ("faint" in found.margin("freeze").says) is (state == "unsure")


def test_shares_are_what_is_left_after_clipping(document) -> None:
    """Of a long tail a leaf shutter at 1/2000 s keeps a part, of a spark all: photons counted in the opening."""
    found = several(
        document,
        (5e-5, 0.0),
        (4e-3, 0.0),
        camera__shutter="leaf",
        exposure__shutter_s=1 / 2000,
        trigger__latency_s=0.0,
    )
    times = (np.arange(400_000) + 0.5) / 400_000 * 0.02
    kept = []
    for t01_s in (5e-5, 4e-3):
        tau = t01_s / math.log(10)  # nearly: the rise is a hundredth of the decay
        light = np.exp(-times / tau) - np.exp(-times / (tau / 100))
        kept.append(light[times < 1 / 2000].sum() / light.sum())
    assert found.lights[0].share == pytest.approx(kept[0] / sum(kept), abs=0.01)
    assert found.lights[1].stopping_s <= 1 / 2000


def test_adding_an_equal_light_changes_no_width(document) -> None:
    lights = [(4e-5, 0.0), (1e-3, -2.0)]
    alone, doubled = several(document, *lights), several(document, *lights, *lights)
    assert doubled.smear_px == pytest.approx(alone.smear_px)
    assert doubled.flash_offset_stops == pytest.approx(alone.flash_offset_stops + 1)


def test_scaling_all_times_scales_the_answer(document) -> None:
    """Everything twice as long at half the speed is the same picture."""
    lights = [(4e-5, 0.0), (1e-3, -2.0)]
    times = {
        "camera__curtain_travel_s": 0.0064,
        "camera__sync_speed_s": 0.008,
        "exposure__shutter_s": 0.01,
        "trigger__latency_s": 0.0008,
        "motion__speed_m_s": 4.5,
    }
    quick = several(document, *lights)
    slow = several(document, *[(2 * t01_s, stops) for t01_s, stops in lights], **times)
    assert slow.smear_px == pytest.approx(quick.smear_px, rel=1e-6)
    assert slow.shutter.worst_row_loss_stops == pytest.approx(
        quick.shutter.worst_row_loss_stops, abs=1e-6
    )
    assert slow.shutter.fastest_safe_shutter_s == pytest.approx(
        2 * quick.shutter.fastest_safe_shutter_s
    )


@pytest.mark.parametrize(("delay_s", "stops", "state"), [
    (0.0, 0.0, "passes"), (5e-5, 0.0, "passes"), (0.001, 0.0, "fails"), (0.001, -4.0, "unsure"),
    (0.001, -7.0, "passes"),
])  # fmt: skip
def test_a_light_that_fires_later_draws_a_second_image(
    document, delay_s: float, stops: float, state: str
) -> None:
    """9 m/s · m · 1 ms / 6 µm = 19 px: two images, however short both lights are."""
    lights = several_lights((3e-5, 0.0), (3e-5, stops))
    lights[1]["delay_s"] = delay_s
    document.update(lights=lights, ambient={})
    document["exposure"]["shutter_s"] = 0.05
    margin = evaluate(document).margin("freeze")
    assert margin.state == state
    assert ("second image 19 px away" in margin.says) is (state != "passes")
