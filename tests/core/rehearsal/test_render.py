"""The rehearsal against a plain per-pixel loop, and against what evaluate says of the same scene."""

import numpy as np
import pytest

from rapzel.core.document.places import changed
from rapzel.core.physics import Physics
from rapzel.core.possible import read_possible_scene
from rapzel.core.rehearsal.laid_out import laid_out
from rapzel.core.rehearsal.render import render
from rapzel.core.shutter import curve
from rapzel.core.subjects.drawn import SUBJECTS, View, drawn_height_m, layers_of
from tests.core.rehearsal.plain_render import plain_moved
from tests.plans import INSTANT

SMALL = (240, 160)


def setup(document, **values) -> Physics:
    return Physics(
        read_possible_scene(
            changed(
                document,
                {key.replace("__", "."): value for key, value in values.items()},
            )
        )
    )


def picture(made: Physics, size=SMALL) -> np.ndarray:
    """Mean of the channels as linear light, so that exposures can be compared."""
    shown = render(made, size, (30, 20)).frame.mean(axis=2) / 255
    # IEC 61966-2-1, undone
    return np.where(shown <= 0.04045, shown / 12.92, ((shown + 0.055) / 1.055) ** 2.4)


@pytest.mark.parametrize("axis", [0, 1])
@pytest.mark.parametrize("px_per_s", [-7.3, 0.4, 3.0, 11.0])
def test_moving_layers_against_a_plain_loop(axis: int, px_per_s: float) -> None:
    y, x = np.mgrid[0:18, 0:24]
    # smooth, so that both ways may agree
    layer = np.exp(-((x - 11) ** 2 + (y - 9) ** 2) / 14).astype(np.float32)
    rows = np.arange(18)
    # a slit that takes more than half of the time
    opens, closes = (
        rows / 18 * 0.6,
        rows / 18 * 0.6 + 0.7,
    )
    edges = np.linspace(0, 1.3, 40)
    clipped = np.clip(edges[None], opens[:, None], closes[:, None])
    weights = np.diff(clipped, axis=1).astype(np.float32)
    found = laid_out(layer, weights, edges * px_per_s, axis)
    times = [(k + 0.5) * 1.3 / 390 for k in range(390)]
    slow = plain_moved(
        layer,
        lambda y, t: 1.3 / 390 if opens[y] <= t < closes[y] else 0.0,
        times,
        px_per_s,
        axis,
    )
    assert np.abs(found - slow).max() < 0.004  # the loop takes 390 instants
    assert found.sum() == pytest.approx(slow.sum(), rel=0.01)


def test_light_is_neither_made_nor_lost_by_moving() -> None:
    layer = np.zeros((6, 60), dtype=np.float32)
    layer[:, 20:30] = 0.7
    weights = np.full((6, 5), 0.2, dtype=np.float32)
    assert laid_out(
        layer, weights, np.linspace(-4.3, 9.1, 6), 1
    ).sum() == pytest.approx(layer.sum(), rel=1e-4)


def test_no_travel_leaves_the_layer_alone_and_half_a_pixel_is_half_a_pixel() -> None:
    layer = np.zeros((2, 8), dtype=np.float32)
    layer[:, 3] = 1
    one = np.ones((2, 1), dtype=np.float32)
    assert laid_out(layer, one, np.array([0.0, 0.0]), 1) == pytest.approx(layer)
    assert laid_out(layer, one, np.array([0.5, 0.5]), 1)[0].tolist() == pytest.approx(
        [0, 0, 0, 0.5, 0.5, 0, 0, 0]
    )
    assert laid_out(layer, one, np.array([0.0, 1.0]), 1)[0].tolist() == pytest.approx(
        [0, 0, 0, 0.5, 0.5, 0, 0, 0]
    )


def test_what_leaves_the_frame_is_gone() -> None:
    layer = np.ones((2, 10), dtype=np.float32)
    assert (
        laid_out(
            layer, np.ones((2, 1), dtype=np.float32), np.array([50.0, 60.0]), 1
        ).max()
        == 0
    )


@pytest.fixture
def still_target(document):
    """A white board, lit by an instant: what remains to be seen is the shutter alone."""
    document["lights"][0].update(
        strobe=INSTANT, power=1.0, loss_stops=0.0, distance_m=10.0
    )
    document["rehearsal"] = {"subject": "wheel", "background": "white"}
    document["ambient"] = {}
    document["motion"]["speed_m_s"] = 0.0
    return document


def test_the_dark_band_has_the_size_that_evaluate_gives(still_target) -> None:
    made = setup(still_target, exposure__shutter_s=0.002)
    dark = picture(made)[:, 5] < picture(made).max() / 2
    assert np.mean(dark) == pytest.approx(made.curves.dark_share, abs=1.5 / SMALL[1])
    assert dark[-1], "the lower edge of the picture is uncovered first"
    assert not dark[0]


def test_the_gradient_is_the_row_models(document) -> None:
    values = {
        "lights[0].strobe.durations": [{"power": 1.0, "t01_s": 0.0045}],
        "lights[0].power": 1.0,
    }
    still = {
        "motion.speed_m_s": 0.0,
        "ambient": {},
        "rehearsal": {"subject": "wheel", "background": "grey"},
    }
    weak = {"lights[0].distance_m": 20.0, "exposure.iso": 100}
    made = Physics(read_possible_scene(changed(document, {**values, **still, **weak})))
    column = picture(made)[:, 3:8].mean(axis=1)
    rows = 1 - (np.arange(SMALL[1]) + 0.5) / SMALL[1]
    shares = curve.row_shares(made.curves.opening, made.flashes, rows)[0]
    assert shares.min() < 0.8, "this shutter clips the tail"
    assert column / column.max() == pytest.approx(shares / shares.max(), abs=0.03)


@pytest.mark.parametrize("stops", [-2, -1, 0, 1])
def test_a_grey_background_is_exposed_as_evaluate_says(
    still_target, stops: int
) -> None:
    still_target["rehearsal"]["background"] = "grey"
    base = setup(still_target).flash_offset_stops
    made = setup(still_target, exposure__iso=200 * 2 ** (stops - base))
    assert made.flash_offset_stops == pytest.approx(stops)
    # warm light: mean 0.955
    assert np.median(picture(made)[:, 3:8]) == pytest.approx(
        0.18 * 0.955 * 2**stops, rel=0.05
    )


def test_a_ghost_appears_with_the_room_and_trails_as_far_as_evaluate_says(
    document,
) -> None:
    document["rehearsal"] = {"subject": "wheel", "background": "black"}
    dark = setup(document, exposure__shutter_s=0.1, ambient={})
    lit = setup(document, exposure__shutter_s=0.1, ambient={"ev100": 5.0})
    assert lit.ghost_margin_stops < 3
    rows = slice(int(SMALL[1] * 0.48), int(SMALL[1] * 0.52))
    more = picture(lit)[rows] - picture(dark)[rows]
    trailing = np.flatnonzero(more.mean(axis=0) > 0.004)
    sharp = np.flatnonzero(picture(dark)[rows].mean(axis=0) > 0.02)
    scale = SMALL[0] / document["camera"]["pixels_wide"]
    expected = lit.frame.smear_px(0.1) * scale
    assert trailing.max() - sharp.max() == pytest.approx(expected, abs=8), (
        "the last pixels get only the rim"
    )


def test_hss_leans_the_subject(document) -> None:
    """A moving upright is displaced between its upper and lower rows by v · m · T_c, as the skew in evaluate."""
    document["rehearsal"] = {"subject": "wheel", "background": "black", "size_m": 1.6}
    document["motion"]["speed_m_s"] = 300.0
    document["ambient"] = {}
    document["lights"][0]["distance_m"] = 0.4
    hss = {
        "exposure__method": "hss",
        "exposure__shutter_s": 1 / 8000,
        "exposure__iso": 1600,
    }
    made, still = setup(document, **hss), setup(document, **hss, motion__speed_m_s=0.0)
    upper, lower = 130, 190  # inside the wheel, on both sides of its middle

    def lean_of(shown: np.ndarray) -> float:
        middles = [
            (shown[row] * np.arange(480)).sum() / shown[row].sum()
            for row in (upper, lower)
        ]
        return float(middles[0] - middles[1])

    lean = lean_of(picture(made, (480, 320))) - lean_of(picture(still, (480, 320)))
    expected = 300 * 0.0032 * (lower - upper) / 320 * 480 / made.frame.field_width_m
    assert lean == pytest.approx(expected, rel=0.15), (
        "upper rows are read later, so the subject is further on"
    )


def test_more_iso_is_noisier(document) -> None:
    quiet = setup(document, ambient={}, lights=[])
    ground = {
        "rehearsal": {"subject": "wheel", "background": "grey", "size_m": 0.01},
        "exposure.method": "ambient",
        "motion.speed_m_s": 0.0,
    }

    def scatter(iso: float, ev: float) -> float:
        made = Physics(
            read_possible_scene(
                changed(
                    document, {**ground, "exposure.iso": iso, "ambient": {"ev100": ev}}
                )
            )
        )
        return float(render(made, SMALL, (60, 40)).crop[:6, :, 1].astype(float).std())

    assert quiet.flash_offset_stops is None
    # the same exposure of the same grey
    assert scatter(12800, 6.0) > 2 * scatter(200, 12.0)


def test_same_scene_same_picture(document) -> None:
    first, second = (render(setup(document), SMALL) for _ in range(2))
    assert np.array_equal(first.frame, second.frame)
    assert np.array_equal(first.crop, second.crop)


@pytest.mark.parametrize("kind", SUBJECTS)
def test_subjects_have_fine_detail_on_the_part_that_moves(kind: str) -> None:
    layers = layers_of(SUBJECTS[kind], 1.0, View(400, 600, 400))
    fastest = max(layers, key=lambda layer: layer.speed)
    assert fastest.speed == 1.0
    inside = fastest.cover > 0.99
    contrast = np.abs(np.diff(fastest.lit, axis=1))[inside[:, 1:] & inside[:, :-1]]
    assert (contrast > 0.1).sum() > 50
    assert np.all(fastest.lit <= fastest.cover + 1e-6)


def test_a_subject_that_would_not_fit_is_drawn_to_fit() -> None:
    assert drawn_height_m(SUBJECTS["figure"], None, 1.9) == 1.75
    assert drawn_height_m(SUBJECTS["figure"], None, 0.1) == pytest.approx(0.06)
    assert drawn_height_m(SUBJECTS["drop"], 0.2, 3.0) == 0.2
