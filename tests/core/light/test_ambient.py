import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.light import room
from tests.plans import LUNGE


def test_exposure_value_by_its_definition() -> None:
    """EV = log2(N²/t): f/1 for a second is EV 0 at ISO 100."""
    assert room.ev100_from_reading(1, 1, 100) == 0
    # sunny 16, common practice
    assert room.ev100_from_reading(16, 1 / 125, 100) == pytest.approx(14.97, abs=0.01)
    assert room.ev100_from_reading(8, 1 / 60, 400) == pytest.approx(
        math.log2(64 * 60) - 2
    )


@pytest.mark.parametrize(("ev", "lux"), [(0, 2.5), (5, 80), (10, 2560), (15, 81920)])
def test_illuminance_of_an_exposure_value(ev: float, lux: float) -> None:
    """ISO 2720 with C = 250: E = 2.5 · 2^EV lx at ISO 100."""
    assert room.ev100_from_lux(lux) == pytest.approx(ev)


def test_the_room_at_its_own_exposure_is_correct() -> None:
    ev100 = room.ev100_from_reading(16, 1 / 125, 100)
    assert room.room_offset_stops(
        ev100, 100.0, 16.0, 1 / 125, 0.0, 0.0
    ) == pytest.approx(0)


def test_offset_of_the_scene_by_hand(document) -> None:
    """EV 3 at f/8, 1/200, ISO 200: 3 + 1 − log2(64 · 200) = −9.64, less 0.036 for the lens's extension."""
    extension = 2 * math.log2(1 + 0.05 / 3.95)
    assert evaluate(document).ambient_offset_stops == pytest.approx(
        4 - math.log2(12800) - extension
    )


@given(st.floats(-3, 3))
def test_iso_and_aperture_do_not_move_the_ghost(stops: float) -> None:
    base = evaluate(LUNGE)
    iso = evaluate(changed(LUNGE, {"exposure.iso": 200 * 2**stops}))
    aperture = evaluate(changed(LUNGE, {"exposure.f_number": 8 * 2 ** (stops / 2)}))
    for moved in (iso, aperture):
        assert moved.ghost_margin_stops == pytest.approx(base.ghost_margin_stops)
        assert abs(moved.flash_offset_stops - base.flash_offset_stops) == pytest.approx(
            abs(stops), abs=1e-9
        )


def test_shutter_distance_and_power_do_move_it(document) -> None:
    ghost = evaluate(document).ghost_margin_stops
    assert evaluate(
        changed(document, {"exposure.shutter_s": 0.01})
    ).ghost_margin_stops == pytest.approx(ghost - 1)
    assert evaluate(
        changed(document, {"lights[0].distance_m": 1.0})
    ).ghost_margin_stops == pytest.approx(ghost + 2)
    assert evaluate(
        changed(document, {"lights[0].power": 0.125})
    ).ghost_margin_stops == pytest.approx(ghost + 1)


def test_a_dark_room_has_no_ghost_and_the_shutter_does_not_matter(document) -> None:
    """1/200 and 1/6 s give the same picture in a dark room: common practice."""
    document["ambient"] = {}
    short, long = (
        evaluate(document),
        evaluate(changed(document, {"exposure.shutter_s": 1 / 6})),
    )
    assert short.ambient_offset_stops is None
    assert short.margin("ghost").passes
    assert short.flash_offset_stops == pytest.approx(long.flash_offset_stops)
    assert short.smear_px == pytest.approx(long.smear_px)


@pytest.mark.parametrize(
    ("ev", "state", "words"),
    [
        (3.0, "passes", "no ghost"),
        (7.0, "unsure", "probably no ghost"),
        (7.8, "unsure", "a faint trail of"),
        (11.0, "fails", "a visible ghost"),
    ],
)
def test_thresholds_of_the_ghost(document, ev: float, state: str, words: str) -> None:
    document["ambient"]["ev100"] = ev
    found = evaluate(document)
    assert found.margin("ghost").state == state
    assert words in found.sentence.lower()
    assert found.margin("ghost").value == pytest.approx(found.ghost_margin_stops - 5)


def test_a_trail_shorter_than_the_criterion_is_no_ghost_however_bright(
    document,
) -> None:
    bright = {
        "ambient.ev100": 15.0,
        "camera.shutter": "global",
        "camera.fastest_shutter_s": 1e-5,
    }
    short = evaluate(changed(document, {**bright, "exposure.shutter_s": 1 / 16000}))
    assert (
        short.ambient_smear_px
        < 2
        < evaluate(changed(document, bright)).ambient_smear_px
    )
    assert short.margin("ghost").passes
    assert not any(
        trail.visible or trail.faint for trail in short.trails if trail.of == "room"
    )
    assert (
        evaluate(changed(document, {**bright, "motion.speed_m_s": 0.0}))
        .margin("ghost")
        .passes
    )


def test_a_room_that_is_wanted_is_judged_by_what_is_wanted(document) -> None:
    """Lit at −2 stops: moving parts lit by it must be stopped too, which 1/200 s does not do at 9 m/s."""
    document.update(look={"room": "lit", "room_stops": -2.0})
    document["ambient"] = {"lux": 2.5 * 2 ** (12.64 - 2.0 - 2.0 + 2.04)}
    found = evaluate(document)
    assert found.margin("ghost").state == "fails"
    assert "stops it" in found.margin("ghost").says


def test_presets_are_in_order_of_brightness() -> None:
    assert list(room.PRESETS.values()) == sorted(room.PRESETS.values())
