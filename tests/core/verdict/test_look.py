"""The room as it is wanted: gone, lit at so many stops, or a trail of a length."""

import math
from typing import Any

import pytest

from rapzel.core.advice import advise
from rapzel.core.document.places import changed
from rapzel.core.document.scene import read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.verdict.freeze_remedies import for_freeze
from rapzel.core.verdict.look_remedies import followed_look
from rapzel.core.verdict.remedies import for_room


def lit(document: dict[str, Any], stops: float | None, **values: Any) -> dict[str, Any]:
    return changed(document, {"look": {"room": "lit", "room_stops": stops}, **values})


def at_ev(document: dict[str, Any], offset: float) -> float:
    """The EV at which the room of the scene is exposed at an offset: log2(N²/t · 100/ISO) with the lens's extension."""
    set_to, extension = document["exposure"], 2 * math.log2(1 + 50 / 3950)
    needs = math.log2(
        set_to["f_number"] ** 2 / set_to["shutter_s"] * 100 / set_to["iso"]
    )
    return offset + needs + extension


@pytest.mark.parametrize(
    ("wanted", "off", "state"),
    [
        (-1.5, 0.0, "passes"),
        (-1.5, -0.35, "passes"),
        (-1.5, 0.45, "unsure"),
        (-1.5, -0.55, "unsure"),
        (-1.5, 0.55, "unsure"),
        (-1.5, -0.65, "fails"),
        (-1.5, 0.65, "fails"),
    ],
)
def test_a_lit_room_is_right_within_half_a_stop_on_both_sides(
    document, wanted, off, state
) -> None:
    """A still subject, so that the level alone is judged; metered, so that its doubt is a tenth, either way."""
    scene = lit(document, wanted, **{"motion.speed_m_s": 0.0})
    ev = at_ev(scene, wanted + off)
    scene["ambient"] = {
        "meter": {"f_number": 8.0, "shutter_s": 64 / 2**ev, "iso": 100.0}
    }
    found = evaluate(scene).margin("room")
    assert found.value == pytest.approx(off, abs=1e-9)
    assert found.state == state
    assert found.two_sided


def test_a_room_that_nobody_wished_so_is_not_called_as_wanted(document) -> None:
    found = evaluate(lit(document, None, **{"motion.speed_m_s": 0.0}))
    margin = found.margin("room")
    assert margin.state == "passes"
    assert margin.value is None
    assert margin.says.endswith("as it is")
    assert "as wanted" not in found.sentence


@pytest.mark.parametrize(
    ("level", "state"), [(-5.2, "passes"), (-5.05, "unsure"), (-4.8, "fails")]
)
def test_black_is_five_stops_under(document, level: float, state: str) -> None:
    """Handbook §6; metered, so that the level is known to a tenth."""
    needs = at_ev(document, level)
    meter = {"f_number": 8.0, "shutter_s": 64 / 2**needs, "iso": 100.0}
    found = evaluate(changed(document, {"ambient": {"meter": meter}})).margin("room")
    assert found.value == pytest.approx(-5 - level, abs=1e-6)
    assert found.state == state


def test_noon_by_high_speed_sync_has_no_trail_and_is_not_black(document) -> None:
    noon = {
        "exposure.method": "hss",
        "exposure.shutter_s": 1 / 8000,
        "exposure.f_number": 4.0,
        "exposure.iso": 100.0,
        "ambient.ev100": 16.7,
    }
    found = evaluate(changed(document, noon))
    assert found.margin("ghost").passes
    assert found.margin("room").state == "fails"
    assert "too bright for black" in found.sentence


def test_without_flash_a_picture_that_is_right_is_not_black(document) -> None:
    plain = {"exposure.method": "ambient", "exposure.shutter_s": 1 / 200}
    scene = changed(document, plain)
    scene["ambient"] = {"ev100": at_ev(scene, 0.0)}
    found = evaluate(scene)
    assert abs(found.margin("light").value) < 1e-6
    assert found.margin("room").state == "fails"


def test_the_backdrop_catches_the_lights_spill(document) -> None:
    """Handbook §6: flash + 2 log2(d / (d + b)) + log2(ρ / 0.18) − flags; a white wall close behind is not black."""
    wall = {"behind_m": 1.0, "reflectance": 0.8, "flagged_stops": 0.0}
    dark = {"ambient": {}, "lights[0].power": 0.2, "exposure.iso": 100.0}
    near = evaluate(changed(document, {**dark, "backdrop": wall}))
    by_hand = near.flash_offset_stops + 2 * math.log2(2 / 3) + math.log2(0.8 / 0.18)
    assert near.margin("room").value == pytest.approx(-5 - by_hand, abs=1e-9)
    assert near.margin("room").state == "fails"
    assert "the backdrop is" in near.sentence.lower()
    cloth = {"behind_m": 4.0, "reflectance": 0.03, "flagged_stops": 2.0}
    far = evaluate(changed(document, {**dark, "backdrop": cloth}))
    assert far.margin("room").value == pytest.approx(
        -5 - (near.flash_offset_stops + 2 * math.log2(2 / 6) + math.log2(0.03 / 0.18) - 2)
    )  # fmt: skip
    assert far.margin("room").passes
    walled = read_scene(changed(document, {**dark, "backdrop": wall}))
    offers = list(for_room(walled, near))
    assert all("flags before the backdrop" in one.says for one in offers)
    # A little room light on the wall, which flags leave there: one of the offers is enough all the same.
    dim = changed(document, {**dark, "backdrop": wall, "ambient": {"ev100": 3.0}})
    closing = advise(read_scene(dim), evaluate(dim))
    assert any(one.margin == "room" for one in closing)


def test_moving_parts_that_the_room_lights_must_be_stopped_too(document) -> None:
    scene = lit(document, -1.5)
    scene["ambient"] = {"ev100": at_ev(scene, -1.5)}
    found = evaluate(scene)
    assert found.margin("ghost").state == "fails"
    assert (
        "only high-speed sync, a leaf or global shutter or a fast shutter alone can"
        in (found.sentence)
    )
    assert evaluate(changed(scene, {"motion.speed_m_s": 0.0})).margin("ghost").passes


def test_by_high_speed_sync_the_shutter_stops_both(document) -> None:
    scene = lit(
        document, -1.0, **{"exposure.method": "hss", "exposure.shutter_s": 1 / 8000}
    )
    scene["ambient"] = {"lux": 2.5 * 2 ** at_ev(scene, -1.0)}
    found = evaluate(scene)
    assert found.margin("ghost").passes
    assert found.margin("room").passes
    assert "the room as wanted" in found.sentence.lower()


def test_a_dark_room_cannot_be_lit(document) -> None:
    scene = lit(document, -1.0)
    scene["ambient"] = {}
    assert evaluate(scene).margin("room").state == "fails"


def test_a_room_far_under_the_flash_is_seen_by_nobody_however_long(document) -> None:
    flash = evaluate(document).flash_offset_stops
    scene = lit(document, None)
    scene["ambient"] = {"ev100": at_ev(scene, flash - 6.5)}
    assert evaluate(scene).margin("ghost").state == "passes"
    assert evaluate(scene).margin("room").passes, "as it is, whatever that is"
    scene["ambient"] = {"ev100": at_ev(scene, flash - 4.0)}
    assert evaluate(scene).margin("ghost").says.startswith("faint")


def test_closing_changes_never_darken_a_room_that_is_wanted(document) -> None:
    scene = lit(document, -1.5, **{"motion.speed_m_s": 0.0})
    scene["ambient"] = {"ev100": at_ev(scene, -3.5)}
    now = evaluate(scene)
    offers = [one for one in advise(read_scene(scene), now) if one.margin == "room"]
    assert offers
    for offer in offers:
        after = evaluate(changed(scene, dict(offer.values)))
        assert after.ambient_offset_stops > now.ambient_offset_stops
        assert abs(after.ambient_offset_stops + 1.5) <= 1 / 3 + 1e-9


def test_what_is_said_of_the_room_is_followed_by_iso_against_power(document) -> None:
    scene = lit(document, -2.0)
    scene["ambient"] = {"ev100": at_ev(scene, -3.0)}
    values = dict(followed_look(read_scene(scene)))
    after, now = evaluate(changed(scene, values)), evaluate(scene)
    assert values["exposure.iso"] == 400
    assert after.ambient_offset_stops == pytest.approx(-2.0, abs=1e-6)
    assert after.flash_offset_stops == pytest.approx(now.flash_offset_stops, abs=1e-6)


def test_a_trail_takes_the_shutter_that_draws_it(document) -> None:
    """9 m/s over 1/50 s is 18 cm: within a third of a stop of a hand, 19 cm."""
    scene = changed(
        document, {"look": {"room": "trail", "trail_m": 0.19}, "ambient.ev100": 6.0}
    )
    assert evaluate(scene).margin("ghost").state == "fails", "1/200 s draws 4.5 cm"
    values = dict(followed_look(read_scene(scene)))
    assert values["exposure.shutter_s"] == pytest.approx(1 / 50)
    after = evaluate(changed(scene, values))
    assert after.margin("ghost").value == pytest.approx(
        math.log2(9 / 50 / 0.19), abs=1e-6
    )
    assert after.margin("ghost").state in ("passes", "unsure")
    assert -3 <= -after.ghost_margin_stops <= 0, "and it is seen"


def test_a_trail_that_nobody_sees_is_not_the_one_that_is_wanted(document) -> None:
    scene = changed(
        document, {"look": {"room": "trail", "trail_m": 0.045}, "ambient.ev100": 1.0}
    )
    found = evaluate(scene).margin("ghost")
    assert found.state == "fails"
    assert "under the flash" in found.says
    # Its level is told apart from its length.
    asked = changed(scene, {"look.room_stops": -1.0})
    assert evaluate(asked).margin("room").state == "fails"


def test_by_high_speed_sync_a_trail_can_only_be_had_with_a_pulse(document) -> None:
    scene = changed(
        document,
        {
            "look": {"room": "trail", "trail_m": 0.1},
            "ambient.ev100": 6.0,
            "exposure.method": "hss",
            "exposure.shutter_s": 1 / 60,
        },
    )
    now = evaluate(scene)
    assert now.margin("freeze").state == "fails"
    offers = list(for_freeze(read_scene(scene), now))
    assert [dict(offer.values)["exposure.method"] for offer in offers] == ["pulse"]
    after = evaluate(changed(scene, dict(offers[0].values)))
    assert after.margin("freeze").value > now.margin("freeze").value + 3
