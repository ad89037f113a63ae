"""Levels and edges of the picture against integrations of their own: light counted instant by instant, row by row."""

import math

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.physics import Physics
from rapzel.core.possible import read_possible_scene
from rapzel.core.rehearsal.exposures import flash_light, room_light, taken_s
from rapzel.core.rehearsal.render import linear_picture
from tests.plans import INSTANT, MONOBLOC

INSTANTS = 400_000


def made(document, **values) -> Physics:
    paths = {key.replace("__", "."): value for key, value in values.items()}
    return Physics(read_possible_scene(changed(document, paths)))


def voltage(t01_s: float, **more):
    return {
        **INSTANT,
        "durations": [{"power": 1.0, "t01_s": t01_s, "provenance": "measured"}],
        "hss": True,
        **more,
    }


# --- levels ---------------------------------------------------------------------------------------------------------

LEVELS = {
    **{
        f"hss 1/{mark}": {"exposure.method": "hss", "exposure.shutter_s": 1 / mark}
        for mark in (250, 500, 1000, 4000, 8000)
    },
    "pulse": {},
    "pulse with room": {"ambient.ev100": 12.0},
    "shutter alone": {
        "exposure.method": "ambient",
        "ambient.ev100": 13.0,
        "exposure.shutter_s": 1 / 1000,
    },
    "hss with room": {
        "exposure.method": "hss",
        "exposure.shutter_s": 1 / 2000,
        "ambient.ev100": 14.0,
    },
    "open": {
        "exposure.method": "open_shutter",
        "exposure.shutter_s": 1.0,
        "trigger.fires": "flash",
    },
    "leaf, cut": {
        "camera.shutter": "leaf",
        "exposure.shutter_s": 1 / 2000,
        "lights[0].power": 1.0,
    },
    "global, cut": {
        "camera.shutter": "global",
        "camera.fastest_shutter_s": 1e-5,
        "exposure.shutter_s": 1 / 16000,
    },
    "close": {"lens.subject_distance_m": 0.2},
}


@pytest.mark.parametrize("values", LEVELS.values(), ids=LEVELS)
def test_the_level_of_the_picture_is_the_exposure_of_the_evaluation(
    document, values
) -> None:
    """The median of an evenly lit grey card is 0.18 · 2^offset, whatever the shutter: within 0.02 stop."""
    still = {
        "motion.speed_m_s": 0.0,
        "rehearsal": {"subject": "wheel", "background": "grey", "size_m": 0.001},
    }
    physics = made(changed(document, still), **values)
    offset = evaluate(physics.scene).exposure_offset_stops
    level = float(np.median(linear_picture(physics, (120, 80))[:40]))
    assert math.log2(level / 0.18) == pytest.approx(offset, abs=0.02)


def test_the_picture_is_linear_light_of_three_like_channels(document) -> None:
    shown = linear_picture(made(document), (90, 60))
    assert shown.shape == (60, 90, 3)
    assert np.array_equal(shown[..., 0], shown[..., 2])


# --- edges ----------------------------------------------------------------------------------------------------------


def counted_edge(
    physics: Physics, row: float, px_per_s: float, at_px: np.ndarray
) -> np.ndarray:
    """The profile of an edge that moves over one row, relative to all light of that row, instant by instant."""
    opening = physics.curves.opening
    begin = row * opening.travel_s + opening.offset_s
    times = begin + (np.arange(INSTANTS) + 0.5) / INSTANTS * opening.shutter_s
    light = np.zeros(INSTANTS)
    for flash in physics.flashes:
        light += (
            flash.weight
            * flash.pulse.intensity(times - flash.start_s)
            / area(flash.pulse)
        )
    gone = (times - taken_s(physics)) * px_per_s
    order = np.argsort(gone)
    come = np.concatenate([[0.0], np.cumsum(light[order])]) / light.sum()
    # Bright is what has passed: a point at x is lit while the edge is beyond it.
    return 1 - np.interp(at_px, gone[order], come[1:], left=0.0, right=1.0)


def area(pulse) -> float:
    """∫ I dt of a pulse by a plain sum, fine where it rises and long enough for its tail."""
    end = pulse.width_s(0.1) * 12
    times = np.concatenate(
        [np.linspace(0, end / 500, 100_001), np.linspace(end / 500, end, 400_001)[1:]]
    )
    return float(np.trapezoid(pulse.intensity(times), times))


CORE_AND_FILL = [
    {"name": "Core", "power": 1.0, "distance_m": 4.0, "strobe": voltage(4e-5)},
    {"name": "Fill", "power": 1.0, "distance_m": 5.0, "strobe": voltage(2.5e-3)},
]
EDGES = {
    "one pulse": {"lights[0].power": 0.25},
    "untruncated tail": {"lights[0].power": 1.0},
    "a fast core beside a slow fill": {
        "lights": CORE_AND_FILL,
        "exposure.shutter_s": 0.03,
    },
    "a tail cut by the curtain": {
        "lights[0].strobe": voltage(5e-3),
        "lights[0].power": 1.0,
        "exposure.shutter_s": 0.0042,
    },
    "late by a slow radio": {
        "lights[0].strobe": voltage(2e-3),
        "lights[0].power": 1.0,
        "trigger.latency_s": 0.0015,
    },
    "cut by a leaf": {
        "camera.shutter": "leaf",
        "exposure.shutter_s": 1 / 2000,
        "lights": CORE_AND_FILL,
    },
    "high-speed sync": {"exposure.method": "hss", "exposure.shutter_s": 1 / 2000},
    "two lights, one fired later": {
        "lights": [
            CORE_AND_FILL[0],
            {**CORE_AND_FILL[0], "name": "Later", "delay_s": 0.001, "power": 1.0},
        ],
    },
}


@pytest.mark.parametrize("row", [0.02, 0.5, 0.98])
@pytest.mark.parametrize("values", EDGES.values(), ids=EDGES)
def test_an_edge_is_the_running_integral_of_its_rows_light(
    document, values, row: float
) -> None:
    """Within 5 % everywhere, at two hundred pixels for all of the light's way."""
    physics = made(
        changed(document, {"ambient": {}}),
        **{key.replace(".", "__"): value for key, value in values.items()},
    )
    opening = physics.curves.opening
    longest = opening.travel_s + opening.shutter_s
    lit = min(
        longest, max(flash.pulse.time_at_s(0.98) for flash in physics.flashes) + 0.0015
    )
    px_per_s = 200 / lit
    width = 8000  # so wide that no end of the edge comes into what is compared
    middle = width // 2
    edge = np.zeros((1, width), dtype=np.float32)
    edge[:, :middle] = 1.0
    rows = np.array([row])
    light = flash_light(
        physics, rows, lambda times: (times - taken_s(physics)) * px_per_s
    )
    found = light.laid(
        edge, slice(0, 1), lambda times: (times - taken_s(physics)) * px_per_s, 1.0, 1
    )[0]
    total = float(light.by_row[0, 0])
    places = np.arange(width) - (middle - 0.5)
    expected = counted_edge(physics, row, px_per_s, places)
    assert total > 0.02, "this row sees light"
    assert np.abs(found / total - expected)[middle - 500 : middle + 500].max() < 0.05


def test_the_trail_of_the_room_is_as_long_as_the_row_is_open(document) -> None:
    physics = made(document, ambient__ev100=8.0, exposure__shutter_s=0.02)
    rows = np.array([0.0, 0.5, 1.0])
    edge = np.zeros((3, 2000), dtype=np.float32)
    edge[:, :1000] = 1.0
    px_per_s = 5000.0
    light = room_light(physics, rows)
    found = light.laid(
        edge, slice(0, 3), lambda times: (times - taken_s(physics)) * px_per_s, 1.0, 1
    )
    for place, row in enumerate(rows):
        begin = (row * 0.0032 - taken_s(physics)) * px_per_s + 999.5
        ramp = np.clip(1 - (np.arange(2000) - begin) / (0.02 * px_per_s), 0, 1)
        assert np.abs(found[place] - ramp)[500:1500].max() < 0.02


def test_a_picture_counts_photons_as_rows_do(document) -> None:
    """Photons drawn at random in time and row: the share that meets an open row, for a pulse above sync."""
    strobe = {
        **MONOBLOC,
        "durations": [{"power": 1.0, "t01_s": 0.004, "provenance": "measured"}],
    }
    physics = made(
        document,
        exposure__shutter_s=0.0022,
        lights=[{**document["lights"][0], "strobe": strobe, "power": 1.0}],
    )
    rng = np.random.default_rng(3)
    tau = 0.004 / math.log(10)
    # The pulse e^(−t/τ) − e^(−t/τ_r) is the sum of two waiting times: one of the decay, one of the rise.
    shape = physics.lights[0].known.shape
    assert shape.decay_s == pytest.approx(tau, rel=0.05)
    photons = (
        0.0036
        + rng.exponential(shape.decay_s, 2_000_000)
        + rng.exponential(shape.rise_s, 2_000_000)
    )
    row = rng.uniform(0, 1, photons.size)
    seen = (photons >= row * 0.0032) & (photons <= row * 0.0032 + 0.0022)
    by_row = np.histogram(row[seen], bins=8, range=(0, 1))[0] / (photons.size / 8)
    rows = physics.curves.by_row[1:-1]
    model = np.array([part.mean() for part in np.array_split(rows, 8)])
    assert by_row == pytest.approx(model, abs=0.01)
