"""Roles and ratios of lights, several alike as one, colours beside each other, and continuous lights."""

import math
from typing import Any

import pytest

from rapzel.core.advice import advise
from rapzel.core.document.places import changed
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.light.tint import tint_at
from rapzel.core.physics import Physics
from rapzel.core.physics.ratios import against_key_stops, equal_powers, with_ratio
from rapzel.core.pulse.setting import Setting
from rapzel.core.shared.errors import DocumentError
from tests.plans import LUNGE

KEY: dict[str, Any] = {**LUNGE["lights"][0], "id": "key", "name": "Key", "role": "key"}


def scene_of(*lights: dict[str, Any], **values: Any) -> Scene:
    return read_scene(changed(LUNGE, {"lights": list(lights), **values}))


def alone(scene: Scene, place: int) -> float:
    """Exposure by one light alone [stops], as the evaluation has it."""
    only = scene.model_copy(update={"lights": (scene.lights[place],)})
    offset = evaluate(only).flash_offset_stops
    assert offset is not None
    return offset


def rim(**values: Any) -> dict[str, Any]:
    return {**KEY, "id": "rim", "name": "Rim", "role": "rim", **values}


@pytest.mark.parametrize("by", ["power", "distance"])
@pytest.mark.parametrize("stops", [-2.0, -1.0, 0.5])
def test_a_ratio_is_set_by_power_or_by_distance(by: Any, stops: float) -> None:
    scene = scene_of({**KEY, "power": 0.25}, rim(power=1 / 8, distance_m=1.5))
    after = read_scene(
        changed(scene.to_document(), dict(with_ratio(scene, 1, stops, by)))
    )
    assert alone(after, 1) - alone(after, 0) == pytest.approx(stops, abs=0.01)
    other = "distance_m" if by == "power" else "power"
    assert getattr(after.lights[1], other) == getattr(scene.lights[1], other)
    assert evaluate(after).lights[1].against_key_stops == pytest.approx(stops, abs=0.01)


def test_a_power_that_does_not_reach_so_far_says_where_the_light_would_have_to_stand() -> (
    None
):
    scene = scene_of(KEY, rim())
    with pytest.raises(DocumentError, match="farther away, at") as refused:
        with_ratio(scene, 1, -30.0, "power")
    assert refused.value.problems[0].path == "lights[1].power"
    with pytest.raises(DocumentError, match="closer, at"):
        with_ratio(scene, 1, 12.0, "power")
    with pytest.raises(DocumentError, match="is the key"):
        with_ratio(scene, 0, 1.0, "power")


def test_the_key_is_the_one_that_is_called_so_else_the_first_on_the_moving_part() -> (
    None
):
    back = rim(role="background", on_moving_part=False)
    assert against_key_stops(scene_of(back, {**KEY, "role": None}))[1] is None
    assert (
        against_key_stops(scene_of({**KEY, "role": "fill"}, rim(role="key")))[1] is None
    )
    assert against_key_stops(scene_of()) == []


def test_equal_powers_keep_the_ratio_by_distance_and_give_equal_durations() -> None:
    scene = scene_of({**KEY, "power": 1 / 64}, rim(power=1 / 8, distance_m=3.0))
    before = against_key_stops(scene)[1]
    after = read_scene(changed(scene.to_document(), dict(equal_powers(scene))))
    assert against_key_stops(after)[1] == pytest.approx(before, abs=0.01)
    first, second = evaluate(after).lights
    assert first.t01_s == second.t01_s
    assert equal_powers(after) == ()


def test_equal_powers_are_proposed_where_one_light_spoils_the_freeze() -> None:
    scene = scene_of(
        {**KEY, "power": 1 / 128, "distance_m": 1.0},
        rim(power=1 / 16, distance_m=3.0),
        **{"exposure.f_number": 5.0},
    )
    now = evaluate(scene)
    assert now.margin("freeze").state == "fails"
    assert "by Rim" in now.sentence
    says = [change.says for change in advise(scene, now) if change.margin == "freeze"]
    assert "equal powers, ratio by distance" in says


@pytest.mark.parametrize("count", [2, 3, 7])
def test_so_many_alike_are_as_so_many_beside_each_other(count: int) -> None:
    """N² adds up (ISO 1230): one row of so many gives what so many rows give, and lasts as long."""
    one = evaluate(scene_of({**KEY, "count": count}))
    many = evaluate(
        scene_of(*({**KEY, "id": f"k{place}", "role": None} for place in range(count)))
    )
    for name in ("flash_offset_stops", "smear_px", "stopping_s", "ghost_margin_stops"):
        assert getattr(one, name) == pytest.approx(getattr(many, name), abs=1e-9), name
    for mine, theirs in zip(one.margins, many.margins, strict=True):
        assert (mine.state, mine.value, mine.doubt) == (
            theirs.state,
            theirs.value,
            theirs.doubt,
        )
    single = evaluate(scene_of(KEY)).flash_offset_stops
    assert one.flash_offset_stops is not None
    assert single is not None
    assert one.flash_offset_stops - single == pytest.approx(math.log2(count), abs=1e-9)


def test_a_colour_is_known_where_it_was_measured_and_nowhere_else() -> None:
    rows = [
        Setting(power=1.0, t01_s=0.003, cct_k=5500, duv=0.0),
        Setting(power=1 / 16, t01_s=0.0002, cct_k=6500, duv=0.004),
        Setting(power=1 / 256, t01_s=0.00003),
    ]
    middle = tint_at(rows, 1 / 4)
    assert middle is not None
    assert 1e6 / middle.cct_k == pytest.approx((1e6 / 5500 + 1e6 / 6500) / 2)
    assert middle.duv == pytest.approx(0.002)
    assert tint_at(rows, 1 / 256) is None
    assert tint_at(rows[2:], 1 / 256) is None


def test_lights_of_two_colours_are_spoken_of() -> None:
    strobe = {
        **KEY["strobe"],
        "durations": [
            {"power": 1.0, "t01_s": 0.002, "cct_k": 5400},
            {"power": 1 / 64, "t01_s": 5e-5, "cct_k": 6400},
        ],
        "modes": [],
    }
    key = {**KEY, "mode": None, "strobe": strobe, "power": 1 / 64}
    found = evaluate(scene_of(key, rim(mode=None, strobe=strobe, power=1.0)))
    warm = 1e6 / 5400 - 1e6 / 6400
    assert found.lights[1].mired_from_key == pytest.approx(warm)
    assert f"Rim is {warm:.0f} mired warmer than the key" in " ".join(found.warnings)
    alike = evaluate(scene_of(key, rim(mode=None, strobe=strobe, power=1 / 64)))
    assert "mired" not in " ".join(alike.warnings)


LAMP = {"id": "l", "name": "Work light", "lux_1m": 1000.0, "distance_m": 2.0}


def test_a_lamp_is_a_part_of_the_room() -> None:
    """1000 lx at 1 m are 250 lx at 2 m, which is EV log2(250 · 100 / 250) = log2 100 (ISO 2720, C = 250)."""
    lit = Physics(scene_of(KEY, lamps=[LAMP], **{"ambient.ev100": None}))
    assert lit.ev100[0] == pytest.approx(math.log2(100))
    twice = Physics(scene_of(KEY, lamps=[LAMP], **{"ambient.ev100": math.log2(100)}))
    assert twice.ev100[0] == pytest.approx(math.log2(200))
    same = evaluate(scene_of(KEY, **{"ambient.ev100": math.log2(100)}))
    assert evaluate(lit.scene).margin("ghost").value == pytest.approx(
        same.margin("ghost").value
    )


def test_light_that_is_painted_counts_for_as_long_as_it_is_on() -> None:
    painted = {**LAMP, "kind": "stick", "lit_s": 0.5}
    values = {
        "exposure.method": "open_shutter",
        "trigger.fires": "flash",
        "ambient.ev100": None,
    }
    offsets = [
        evaluate(
            scene_of(KEY, lamps=[painted], **values, **{"exposure.shutter_s": shutter})
        ).ambient_offset_stops
        for shutter in (2.0, 8.0)
    ]
    assert offsets[0] == pytest.approx(offsets[1])
    whole = evaluate(
        scene_of(KEY, lamps=[LAMP], **values, **{"exposure.shutter_s": 2.0})
    )
    assert whole.ambient_offset_stops is not None
    assert offsets[0] is not None
    assert whole.ambient_offset_stops - offsets[0] == pytest.approx(2.0)
