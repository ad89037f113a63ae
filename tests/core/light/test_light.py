import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rapzel.core.document.places import changed
from rapzel.core.document.possible import read_possible_scene
from rapzel.core.document.scene import Light
from rapzel.core.evaluate import evaluate
from rapzel.core.light import amount
from rapzel.core.physics import Physics


def test_guide_number_is_f_number_times_distance() -> None:
    """ISO 1230: GN = N · d at ISO 100 and full power."""
    assert amount.correct_f_number(60, 100, 1, 1, 0) == pytest.approx(60)
    assert amount.correct_f_number(60, 100, 1, 7.5, 0) == pytest.approx(8)


def test_a_stop_is_a_stop_wherever_it_comes_from() -> None:
    reference = amount.correct_f_number(60, 200, 1 / 16, 2, 1)
    for changes in ((60, 400, 1 / 32, 2, 1), (60, 200, 1 / 8, 2, 2), (60, 200, 1 / 16, 2 * math.sqrt(2), 0)):
        assert amount.correct_f_number(*changes) == pytest.approx(reference)


@given(st.floats(0.3, 50), st.floats(-8, 0), st.floats(25, 25600))
def test_doubling_the_distance_costs_two_stops(distance: float, power: float, iso: float) -> None:
    near, far = (amount.correct_f_number(45, iso, 2**power, d, 1.3) for d in (distance, 2 * distance))
    assert 2 * math.log2(near / far) == pytest.approx(2)


def test_luminous_exposure_by_the_standard() -> None:
    """ISO 2720: N² = H · S / C with C = 250 for a flat receptor; 160 lx s at ISO 100 give f/8."""
    assert amount.f_number_from_lux_seconds(160) == pytest.approx(8)
    assert amount.f_number_from_lux_seconds(640) == pytest.approx(16)


def test_offsets_of_the_scene_by_hand(document) -> None:
    """60 · √2 · √(1/16) / 2 · 2^(−1.3/2) = 6.76; against f/8 that is 2 log2(6.76 / 8) = −0.486 stops."""
    assert evaluate(document).flash_offset_stops == pytest.approx(2 * math.log2(6.7591 / 8), abs=1e-3)


def test_two_equal_lights_are_one_stop(document) -> None:
    one = evaluate(document)
    document["lights"].append({**document["lights"][0], "name": "Twin"})
    two = evaluate(document)
    assert two.flash_offset_stops - one.flash_offset_stops == pytest.approx(1)
    assert [lit.share for lit in two.lights] == pytest.approx([0.5, 0.5])


def test_a_light_beside_the_moving_part_counts_for_nothing(document) -> None:
    document["lights"].append({**document["lights"][0], "name": "Background", "on_moving_part": False})
    found = evaluate(document)
    assert [lit.share for lit in found.lights] == [1.0, 0.0]
    assert found.flash_offset_stops == pytest.approx(
        evaluate(changed(document, {"lights": document["lights"][:1]})).flash_offset_stops
    )


def test_nd_takes_from_flash_and_room_alike(document) -> None:
    plain, dark = evaluate(document), evaluate(changed(document, {"exposure.nd_stops": 3}))
    assert plain.flash_offset_stops - dark.flash_offset_stops == pytest.approx(3)
    assert plain.ghost_margin_stops == pytest.approx(dark.ghost_margin_stops)


def test_zoom_heads_are_interpolated_in_log_focal_length(document) -> None:
    strobe = {
        **document["lights"][0]["strobe"],
        "guide_numbers": [{"zoom_mm": 24.0, "guide_number_m": 28.0}, {"zoom_mm": 96.0, "guide_number_m": 56.0}],
    }
    zoomed = Light.model_validate({"power": 1.0, "distance_m": 1.0, "strobe": strobe, "zoom_mm": 48.0})
    assert amount.guide_number_at_zoom(zoomed) == (pytest.approx(42.0), "estimated")  # half way from 24 to 96 in log
    at_mark = zoomed.model_copy(update={"zoom_mm": 24.0})
    assert amount.guide_number_at_zoom(at_mark) == (28.0, "claimed")


def test_a_large_near_source_is_warned_about(document) -> None:
    document["lights"][0]["source_size_m"] = 0.9
    assert "nearer than five times its 0.9 m source" in evaluate(document).warnings[0]
    document["lights"][0]["distance_m"] = 4.6
    assert not evaluate(document).warnings


def test_the_ladder_ends_at_the_light_margin(document) -> None:
    physics = Physics(read_possible_scene(changed(document, {"exposure.nd_stops": 1})))
    rungs = amount.ladder(physics.on_part[0].light, physics.scene, 0.0)
    assert rungs[-1].total_stops == pytest.approx(physics.flash_offset_stops)
    assert sum(rung.stops for rung in rungs) == pytest.approx(rungs[-1].total_stops)
    assert [rung.name for rung in rungs][:3] == ["Full power, bare, 1 m", "Power", "Distance"]
