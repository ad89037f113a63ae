"""What is offered for a room that is wanted: each change is made, and the scene evaluated anew."""

import math
from typing import Any

import pytest

from rapzel.core.document.places import changed
from rapzel.core.document.scene import read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.verdict.look_remedies import followed_look, for_level, for_trail


def offers_of(scene: dict[str, Any]) -> dict[str, dict[str, Any]]:
    """Each proposal by its words, as the values that it sets."""
    asked = read_scene(scene)
    found = [*for_trail(asked), *for_level(asked)]
    return {offer.says: dict(offer.values) for offer in found}


def room_of(scene: dict[str, Any]) -> float:
    offset = evaluate(scene).ambient_offset_stops
    assert offset is not None
    return offset


@pytest.fixture
def gym(document) -> dict[str, Any]:
    """A slow turn of 1 m/s in a lit hall that shall be seen, 1.5 stops under: what moves trails in its light."""
    return changed(
        document,
        {
            "look": {"room": "lit", "room_stops": -1.5},
            "ambient": {"ev100": 10.0},
            "motion.speed_m_s": 1.0,
        },
    )


def test_moving_parts_in_a_lit_room_are_stopped_by_a_shutter(gym) -> None:
    """A curtain needs the pulse train for it; a leaf or global shutter stops them with a single pulse."""
    assert evaluate(gym).margin("ghost").state == "fails"
    by_train = offers_of(gym)
    [(says, values)] = [
        each for each in by_train.items() if "high-speed sync" in each[0]
    ]
    assert values["exposure.method"] == "hss"
    smear_px = evaluate(changed(gym, values)).smear_px
    assert smear_px is not None
    assert smear_px <= 2.0, says

    # The same exposure with a shutter of rows that open at once.
    for kind in ("leaf", "global"):
        other = changed(gym, {"camera.shutter": kind})
        plain = [
            values
            for values in offers_of(other).values()
            if set(values) == {"exposure.shutter_s"}
            and values["exposure.shutter_s"] < gym["exposure"]["shutter_s"]
        ]
        assert plain, kind
        after = evaluate(changed(other, plain[0]))
        assert after.margin("ghost").passes, "the room trails no more"


def test_no_shutter_is_offered_that_the_body_or_the_light_does_not_have(gym) -> None:
    plain_light = changed(gym, {"lights[0].strobe.hss": False})
    slow_body = changed(gym, {"camera.fastest_shutter_s": 1 / 1000})
    for scene in (plain_light, slow_body):
        assert not [says for says in offers_of(scene) if "high-speed" in says]


@pytest.mark.parametrize("room", [-4.0, -2.5, -0.5])
def test_the_level_of_a_room_is_brought_where_it_is_wanted(document, room) -> None:
    """By ISO against power, which leaves the flash, or by the shutter, which leaves it too while all rows see it."""
    scene = changed(
        document,
        {
            "look": {"room": "lit", "room_stops": -1.5},
            "motion.speed_m_s": 0.0,
            "ambient": {"ev100": 8.0},
        },
    )
    scene["ambient"] = {"ev100": 8.0 + room - room_of(scene)}
    assert room_of(scene) == pytest.approx(room)
    found = offers_of(scene)
    assert found
    for says, values in found.items():
        after = evaluate(changed(scene, values))
        nearer = abs(room_of(changed(scene, values)) + 1.5)
        assert nearer < abs(room + 1.5), says
        if "exposure.iso" in values:
            assert after.flash_offset_stops == pytest.approx(
                evaluate(scene).flash_offset_stops, abs=1e-6
            )


def test_a_trail_is_offered_with_and_without_its_brightness(document) -> None:
    """9 m/s draw 19 cm in about 1/50 s; by hand: 0.19 / 9 = 1/47 s."""
    scene = changed(
        document,
        {"look": {"room": "trail", "trail_m": 0.19}, "ambient": {"ev100": 3.0}},
    )
    found = offers_of(scene)
    assert len(found) == 2
    for values in found.values():
        assert values["exposure.shutter_s"] == pytest.approx(1 / 50)
    assert abs(math.log2(0.19 / 9 * 50)) < 1 / 6, "the mark nearest to it"
    [brighter] = [values for values in found.values() if "exposure.iso" in values]
    after, now = evaluate(changed(scene, brighter)), evaluate(scene)
    assert after.flash_offset_stops == pytest.approx(now.flash_offset_stops, abs=1e-6)
    assert room_of(changed(scene, brighter)) > room_of(scene)


@pytest.mark.parametrize(
    "look",
    [{"room": "lit", "room_stops": -1.0}, {"room": "trail", "trail_m": 0.1}],
)
def test_a_dark_room_is_offered_nothing_for_it(document, look) -> None:
    scene = changed(document, {"look": look, "ambient": {}})
    assert not offers_of(scene)


def test_a_trail_of_what_stands_still_cannot_be_had(document) -> None:
    scene = changed(
        document,
        {
            "look": {"room": "trail", "trail_m": 0.1},
            "motion.speed_m_s": 0.0,
            "ambient": {"ev100": 6.0},
        },
    )
    assert not offers_of(scene)
    assert followed_look(read_scene(scene)) == ()
