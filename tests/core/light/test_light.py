import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rapzel.core.document.gear import Light
from rapzel.core.document.places import changed
from rapzel.core.document.scene import read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.light import guide
from rapzel.core.light.exposure import clipped_share
from rapzel.core.physics import Physics
from rapzel.core.physics.lights import guide_number_of


def test_guide_number_is_f_number_times_distance() -> None:
    """ISO 1230: GN = N · d at ISO 100 and full power."""
    assert guide.correct_f_number(60, 100, 1, 1, 0) == pytest.approx(60)
    assert guide.correct_f_number(60, 100, 1, 7.5, 0) == pytest.approx(8)


def test_a_stop_is_a_stop_wherever_it_comes_from() -> None:
    reference = guide.correct_f_number(60, 200, 1 / 16, 2, 1)
    for changes in (
        (60, 400, 1 / 32, 2, 1),
        (60, 200, 1 / 8, 2, 2),
        (60, 200, 1 / 16, 2 * math.sqrt(2), 0),
    ):
        assert guide.correct_f_number(*changes) == pytest.approx(reference)


@given(st.floats(0.3, 50), st.floats(-8, 0), st.floats(25, 25600))
def test_doubling_the_distance_costs_two_stops(
    distance: float, power: float, iso: float
) -> None:
    near, far = (
        guide.correct_f_number(45, iso, 2**power, d, 1.3)
        for d in (distance, 2 * distance)
    )
    assert 2 * math.log2(near / far) == pytest.approx(2)


def test_offsets_of_the_scene_by_hand(document) -> None:
    """60 · √2 · √(1/16) / 2 · 2^(−1.3/2) = 6.76; against f/8 that is 2 log2(6.76 / 8) = −0.486 stops;
    the lens's extension at m = 0.05 / 3.95 takes 2 log2(1.01266) = 0.036 more."""
    by_hand = 2 * math.log2(6.7591 / 8) - 2 * math.log2(1 + 0.05 / 3.95)
    assert evaluate(document).flash_offset_stops == pytest.approx(by_hand, abs=1e-3)


def test_two_equal_lights_are_one_stop(document) -> None:
    one = evaluate(document)
    document["lights"].append({**document["lights"][0], "name": "Twin"})
    two = evaluate(document)
    assert two.flash_offset_stops - one.flash_offset_stops == pytest.approx(1)
    assert [lit.share for lit in two.lights] == pytest.approx([0.5, 0.5])


def test_a_light_beside_the_moving_part_counts_for_nothing(document) -> None:
    document["lights"].append(
        {**document["lights"][0], "name": "Background", "on_moving_part": False}
    )
    found = evaluate(document)
    assert [lit.share for lit in found.lights] == [1.0, 0.0]
    assert found.flash_offset_stops == pytest.approx(
        evaluate(
            changed(document, {"lights": document["lights"][:1]})
        ).flash_offset_stops
    )


@pytest.mark.parametrize(
    "filters",
    [
        {"exposure.nd_stops": 3},
        {"exposure.polariser_stops": 3},
        {"exposure.nd_stops": 1.5, "exposure.polariser_stops": 1.5},
    ],
)
def test_filters_take_from_flash_and_room_alike(document, filters) -> None:
    plain, dark = evaluate(document), evaluate(changed(document, filters))
    assert plain.flash_offset_stops - dark.flash_offset_stops == pytest.approx(3)
    assert plain.ghost_margin_stops == pytest.approx(dark.ghost_margin_stops)


def test_zoom_heads_are_interpolated_in_log_focal_length(document) -> None:
    strobe = {
        **document["lights"][0]["strobe"],
        "guide_numbers": [
            {"zoom_mm": 24.0, "guide_number_m": 28.0},
            {"zoom_mm": 96.0, "guide_number_m": 56.0},
        ],
    }
    zoomed = Light.model_validate(
        {"power": 1.0, "distance_m": 1.0, "strobe": strobe, "zoom_mm": 48.0}
    )
    # half way from 24 to 96 in log
    assert guide_number_of(zoomed) == (
        pytest.approx(42.0),
        "estimated",
    )
    assert guide_number_of(zoomed.model_copy(update={"zoom_mm": 24.0})) == (
        28.0,
        "claimed",
    )


@pytest.mark.parametrize("sizes", [0.5, 1.0, 2.6, 5.0])
def test_a_large_source_against_an_integration_over_its_face(sizes: float) -> None:
    """Illuminance on the axis of a Lambertian square by summing 400 × 400 patches: cos⁴ / d² each.

    1.3 % at five sizes and 5 % at 2.6 sizes, as the handbook has it from an integration of its own.
    """
    at = (np.arange(400) + 0.5) / 400 - 0.5
    x, y = np.meshgrid(at, at)
    squared = x**2 + y**2 + sizes**2
    exact = float(np.mean((sizes**2 / squared) / squared))
    assert guide.nearness_stops(1.0, sizes) == pytest.approx(
        math.log2(1 / sizes**2 / exact), abs=1e-4
    )
    published = {2.6: 1.05, 5.0: 1.013}
    if sizes in published:
        assert 2 ** guide.nearness_stops(1.0, sizes) == pytest.approx(
            published[sizes], abs=0.002
        )


def test_a_large_near_source_is_warned_about_with_its_error(document) -> None:
    document["lights"][0]["source_size_m"] = 0.9
    # 2.0 m, 2.2 sizes
    near = evaluate(document)
    assert "0.09 stop less than the inverse square says" in near.warnings[0]
    document["lights"][0]["distance_m"] = 2.4
    assert not evaluate(document).warnings


def test_a_large_near_source_gives_less_and_the_value_says_so(document) -> None:
    """1.5 m at 0.8 m, 0.53 sizes: 1.1 stops less (handbook §5), against a source of a hundred small ones."""
    near = changed(document, {"lights[0].distance_m": 0.8, "lights[0].source_size_m": 0.0})  # fmt: skip
    large = changed(near, {"lights[0].source_size_m": 1.5})
    lost = evaluate(near).flash_offset_stops - evaluate(large).flash_offset_stops
    assert lost == pytest.approx(1.1, abs=0.05)
    places = (np.arange(400) + 0.5) / 400 * 1.5 - 0.75
    x, y = np.meshgrid(places, places)
    # Each small part: cosine where it leaves and where it falls, over the square of its way.
    falls = 0.8**2 / (x**2 + y**2 + 0.8**2) ** 2
    assert lost == pytest.approx(-math.log2(falls.mean() * 0.8**2), abs=0.01)
    # What its modifier takes is known the worse the more it takes, and of no stated size worse still.
    doubts = [
        evaluate(changed(near, values)).lights[0].light_doubt_stops
        for values in (
            {"lights[0].loss_stops": 0.0},
            {"lights[0].source_size_m": 1.5},
            {"lights[0].loss_stops": 3.0, "lights[0].source_size_m": 1.5},
            {},
        )
    ]
    assert doubts[0] < doubts[1] < doubts[2]
    assert doubts[3] > doubts[1]


def test_the_extension_of_the_lens_takes_from_flash_and_room_alike(document) -> None:
    """2 log2(1 + m): 2 stops at life size, which a body that shows the effective f-number has counted already."""
    near = {"lens.focal_length_mm": 100.0, "lens.subject_distance_m": 0.2}
    plain, close = (
        evaluate(changed(document, {"lens.focal_length_mm": 1.0})),
        evaluate(changed(document, near)),
    )
    assert close.magnification == pytest.approx(1)
    for name in ("flash_offset_stops", "ambient_offset_stops"):
        assert getattr(plain, name) - getattr(close, name) == pytest.approx(2, abs=1e-3)
    shown = evaluate(changed(document, {**near, "camera.effective_f_number": True}))
    assert shown.flash_offset_stops - close.flash_offset_stops == pytest.approx(2)
    # f/8 as shown is f/4 of the lens
    assert shown.diffraction_px == pytest.approx(close.diffraction_px / 2)


@pytest.mark.parametrize(
    ("stops", "state"),
    [
        (-0.5, "fails"),
        (-0.4, "unsure"),
        (-0.3, "unsure"),
        (0.0, "passes"),
        (0.3, "unsure"),
        (0.4, "unsure"),
        (0.5, "fails"),
    ],
)
def test_light_is_two_sided_with_doubt_at_both_edges(
    document, stops: float, state: str
) -> None:
    """Right within a third of a stop; a metered guide number at full power leaves a tenth of doubt."""
    metered = {**document["lights"][0]["strobe"], "guide_provenance": "measured"}
    full = changed(
        document,
        {
            "lights[0].strobe": metered,
            "lights[0].power": 1.0,
            "lights[0].loss_stops": 0.0,
            # long enough that nothing of the pulse is cut off
            "exposure.shutter_s": 1 / 30,
            "ambient": {},
        },
    )
    base = evaluate(full).exposure_offset_stops
    margin = evaluate(
        changed(full, {"exposure.iso": 200 * 2 ** (stops - base)})
    ).margin("light")
    assert margin.value == pytest.approx(stops, abs=1e-9)
    assert (margin.state, margin.passes) == (state, state == "passes")
    assert margin.doubt == pytest.approx(0.1)


def test_flash_and_room_expose_together(document) -> None:
    bright = evaluate(changed(document, {"ambient.ev100": 12.0}))
    by_hand = math.log2(2**bright.flash_offset_stops + 2**bright.ambient_offset_stops)
    assert bright.exposure_offset_stops == pytest.approx(by_hand)
    assert bright.margin("light").value == pytest.approx(by_hand)


def test_a_share_of_the_subject_clips_from_white_down() -> None:
    """A white surface clips at correct exposure, a grey card 2.47 stops above it."""
    surfaces = np.array([0.1, 0.18, 0.5, 1.0])
    assert clipped_share(surfaces, -0.01) == 0
    assert clipped_share(surfaces, 0.0) == 0.25
    assert clipped_share(surfaces, 1.0) == 0.5
    assert clipped_share(surfaces, 2.48) == 0.75


def test_a_pulse_that_the_shutter_cuts_is_doubtful_by_how_long_it_is(document) -> None:
    """A leaf shutter that leaves half of a long pulse: by plain sums of a pulse as told, and of one that is longer."""
    values = {
        "camera.shutter": "leaf",
        "camera.curtain_travel_s": None,
        "lights[0].power": 1.0,
        "exposure.shutter_s": 1 / 500,
        "ambient": {},
    }
    physics = Physics(read_scene(changed(document, values)))
    (lit,) = physics.on_part
    times = (np.arange(400_000) + 0.5) * 1e-7

    def kept_stops(longer: float) -> float:
        light = lit.known.shape.intensity(times / longer)
        inside = times + physics.flashes[0].start_s <= 1 / 500
        return float(np.log2(light[inside].sum() / light.sum()))

    lost = kept_stops(1.0) - kept_stops(2**lit.known.doubt_stops)
    assert lost > 0.15
    assert physics.clipped_doubt_stops == pytest.approx(lost, abs=0.01)
    assert physics.flash_doubt_stops == pytest.approx(
        math.hypot(lit.light_doubt_stops, lost), abs=0.01
    )
