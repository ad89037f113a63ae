"""Curtain travel and latency from test frames, against frames that the row model draws."""

import math
from typing import Any

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.document.scene import read_scene
from rapzel.core.evaluate import evaluate_physics
from rapzel.core.physics import Physics
from rapzel.core.rehearsal.render import linear_picture
from rapzel.core.shutter.calibrate import Band, CalibrationError, Edge, calibrated
from tests.plans import LUNGE

TRAVEL, LATENCY = 0.0032, 0.0004


def scene_at(shutter_s: float, **values: Any) -> Physics:
    """A short pulse at a shutter beyond sync."""
    own = {
        "exposure.shutter_s": shutter_s,
        "camera.curtain_travel_s": TRAVEL,
        "trigger.latency_s": LATENCY,
        "camera.fastest_shutter_s": 1 / 8000,
        "lights[0].power": 1 / 256,
        "ambient.ev100": None,
    }
    return Physics(read_scene(changed(LUNGE, {**own, **values})))


def frame(shutter_s: float, edge: Edge = "lower") -> Band:
    """The test frame as it comes out: the share of its rows with less than half of the light."""
    by_row = scene_at(shutter_s).curves.by_row
    rows = np.linspace(0, 1, 4001)
    light = np.interp(rows, np.linspace(0, 1, len(by_row)), by_row)
    return Band(shutter_s, float(np.mean(light < light.max() / 2)), edge)


@pytest.mark.parametrize("shutters", [(1 / 400, 1 / 800), (1 / 320, 1 / 500, 1 / 1000)])
def test_travel_and_latency_are_found_from_frames_at_several_shutters(
    shutters: tuple[float, ...],
) -> None:
    found = calibrated([frame(shutter) for shutter in shutters])
    assert found.travel_s == pytest.approx(TRAVEL, abs=3 * found.travel_sd_s)
    assert found.travel_s == pytest.approx(TRAVEL, rel=0.03)
    assert found.latency_s == pytest.approx(LATENCY, abs=3 * found.latency_sd_s + 2e-5)
    assert found.first_edge == "lower"
    assert not found.latency_given


def test_one_frame_gives_the_travel_where_the_latency_is_known() -> None:
    found = calibrated([frame(1 / 640)], latency_s=LATENCY)
    assert found.travel_s == pytest.approx(TRAVEL, rel=0.03)
    assert found.latency_given
    assert "as given" in found.says


def test_more_frames_tell_it_better_and_frames_that_disagree_worse() -> None:
    two = calibrated([frame(1 / 400), frame(1 / 800)])
    four = calibrated(
        [frame(shutter) for shutter in (1 / 320, 1 / 400, 1 / 640, 1 / 1000)]
    )
    assert four.travel_sd_s < two.travel_sd_s
    bands = [frame(1 / 320), frame(1 / 500), frame(1 / 1000)]
    wrong = [bands[0], Band(1 / 500, bands[1].dark_share + 0.08, "lower"), bands[2]]
    assert calibrated(wrong).travel_sd_s > 2 * calibrated(bands).travel_sd_s


def test_the_doubt_is_what_repeated_readings_scatter() -> None:
    draw = np.random.default_rng(3)
    true = [frame(1 / 400), frame(1 / 800)]
    found = []
    for _ in range(400):
        read = [
            Band(b.shutter_s, b.dark_share + draw.normal(0, 0.005), b.edge)
            for b in true
        ]
        found.append(calibrated(read).travel_s)
    assert float(np.std(found)) == pytest.approx(calibrated(true).travel_sd_s, rel=0.25)


@pytest.mark.parametrize(
    ("bands", "latency", "said"),
    [
        ([], None, "at least one frame"),
        ([Band(1 / 500, 0.5, "lower")], None, "cannot tell travel from latency"),
        ([Band(1 / 500, 0.0, "lower")], LATENCY, "no edge to read"),
        (
            [Band(1 / 500, 0.5, "lower"), Band(1 / 800, 0.6, "upper")],
            None,
            "both edges",
        ),
        (
            [Band(1 / 500, 0.6, "lower"), Band(1 / 800, 0.4, "lower")],
            None,
            "must darken more",
        ),
        (
            [Band(1 / 400, 0.55, "lower"), Band(1 / 800, 0.734, "lower")],
            None,
            "before the contact",
        ),
        ([Band(1 / 5000, 0.6, "lower")], 0.001, "shorter than the latency"),
    ],
)
def test_frames_that_say_nothing_are_refused_in_words(
    bands: list[Band], latency: float | None, said: str
) -> None:
    with pytest.raises(CalibrationError, match=said):
        calibrated(bands, latency)


def test_a_body_whose_curtains_run_the_other_way_is_dark_at_the_other_edge() -> None:
    pictures = {
        edge: linear_picture(
            scene_at(
                1 / 500, **{"camera.first_edge": edge, "rehearsal.background": "white"}
            ),
            (96, 64),
        )[..., 0].mean(axis=1)
        for edge in ("lower", "upper")
    }
    assert pictures["lower"][:8].mean() > 5 * pictures["lower"][-8:].mean()
    assert pictures["upper"][-8:].mean() > 5 * pictures["upper"][:8].mean()


def test_the_doubt_of_the_travel_is_in_the_sync_margin() -> None:
    known = evaluate_physics(scene_at(1 / 200)).margin("sync")
    vague = evaluate_physics(
        scene_at(1 / 200, **{"camera.curtain_travel_sd_s": 0.001})
    ).margin("sync")
    assert known.doubt is not None
    assert vague.doubt == pytest.approx(math.hypot(known.doubt, 1.0))
