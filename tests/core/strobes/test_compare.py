"""Strobes against each other, by hand and by the definition of the front."""

import math

import pytest

from rapzel.core.document.gear import Strobe
from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.light.guide import relative_light_stops
from rapzel.core.possible import read_possible_scene
from rapzel.core.pulse.setting import Setting
from rapzel.core.shared.errors import OutOfRange
from rapzel.core.strobes import compare


def strobe(
    name: str = "A",
    guide: float = 60.0,
    fast: float = 1e-4,
    price: float | None = None,
    **more,
) -> Strobe:
    rows = [
        {"power": 1.0, "t01_s": 4.5e-3, "provenance": "measured"},
        {"power": 1 / 16, "t01_s": 20 * fast / 7, "provenance": "measured"},
        {"power": 1 / 256, "t01_s": fast, "provenance": "measured"},
    ]
    return Strobe.model_validate(
        {
            "name": name,
            "circuit": "quenched",
            "guide_number_m": guide,
            "durations": rows,
            "full_recycle_s": 0.9,
            "price": price,
            **more,
        }
    )


def source(*args, **kwargs) -> compare.Source:
    return compare.sources_of(strobe(*args, **kwargs))[0]


def test_light_by_hand() -> None:
    point = compare.point_at(source(recycle_floor_s=0.0), 1 / 16)
    assert compare.point_at(source(), 1 / 16).recycle_s is None, "no floor timed"
    assert point.guide_number_m == pytest.approx(15.0)  # 60 · √(1/16)
    assert point.light_stops == pytest.approx(2 * math.log2(15))
    assert point.frames_per_s == pytest.approx(16 / 0.9)
    assert point.t01_s == pytest.approx(20e-4 / 7)


@pytest.mark.parametrize(("per_stop", "count"), [(1, 9), (3, 25), (10, 81)])
def test_settings_in_stops_thirds_and_tenths(per_stop: int, count: int) -> None:
    points = compare.settings_of(source(), per_stop)
    assert len(points) == count
    assert points[-1].power == pytest.approx(1 / 256)
    with pytest.raises(OutOfRange, match="per_stop is 2, but must be 1, 3 or 10"):
        compare.settings_of(source(), 2)


def test_no_point_of_the_front_is_beaten_and_every_other_is() -> None:
    points = [
        p
        for one in (source("A"), source("B", 40, 5e-5), source("C", 90, 3e-4))
        for p in compare.settings_of(one)
    ]
    kept = compare.front(points)

    def beats(a: compare.Point, b: compare.Point) -> bool:
        better = a.t01_s < b.t01_s or a.light_stops > b.light_stops
        return a.t01_s <= b.t01_s and a.light_stops >= b.light_stops and better

    for point in points:
        assert (point in kept) == (not any(beats(other, point) for other in points))
    assert [p.t01_s for p in kept] == sorted(p.t01_s for p in kept)


def test_what_do_i_get_at_a_sixth_of_a_millisecond() -> None:
    best = compare.at_duration(source(), 1 / 6000)
    assert best is not None
    assert best.t01_s <= 1 / 6000
    a_tenth_more = compare.point_at(best.source, best.power * 2**0.1)
    assert a_tenth_more.t01_s > 1 / 6000
    assert compare.at_duration(source(), 1e-5) is None


def test_offers_count_lights_and_price() -> None:
    strong, weak = source("Strong", 80, price=1000.0), source("Weak", 40, price=300.0)
    never = source("Slow", 80, 1e-3)
    rows = compare.offers([weak, never, strong], 1 / 5000)
    assert [row.source.strobe.name for row in rows] == ["Strong", "Weak", "Slow"]
    # half the guide number is two stops
    assert rows[1].behind_stops == pytest.approx(2.0)
    assert rows[1].lights_needed == 4
    assert rows[1].price_per_light == pytest.approx(1200.0)
    assert rows[0].price_per_light == pytest.approx(1000.0)
    assert rows[2].point is None


def test_t05_and_t01_may_rank_otherwise() -> None:
    tail = Strobe.model_validate(
        {
            "name": "Tail",
            "circuit": "voltage",
            "guide_number_m": 50.0,
            "durations": [{"power": 1.0, "t05_s": 5e-4, "t01_s": 1.7e-3}],
            "min_power": 1 / 4,
        }
    )
    cut = Strobe.model_validate(
        {
            "name": "Cut",
            "circuit": "quenched",
            "guide_number_m": 50.0,
            "min_power": 0.9,
            "durations": [{"power": 1.0, "t05_s": 8e-4, "t01_s": 1.0e-3}],
        }
    )
    by_t05, by_t01 = compare.rankings(
        [compare.sources_of(each)[0] for each in (tail, cut)]
    )
    assert [each.strobe.name for each in by_t05] == ["Tail", "Cut"]
    assert [each.strobe.name for each in by_t01] == ["Cut", "Tail"]


def test_equal_light_and_equal_duration() -> None:
    one, other = source("A", 60), source("B", 30)
    found = compare.with_equal_light(compare.point_at(one, 1 / 16), other)
    assert found is not None
    # half the guide number wants four times the power
    assert found.power == pytest.approx(1 / 4)
    assert compare.with_equal_light(compare.point_at(one, 1.0), other) is None
    left, right = compare.matched(one, other, 1 / 4000)
    assert left is not None
    assert right is not None
    assert left.power == right.power


def test_measured_light_replaces_the_dials_promise(document) -> None:
    table = (
        Setting(power=1.0, t01_s=1e-3, light_stops=0.0),
        Setting(power=1 / 16, t01_s=1e-4, light_stops=-4.4),  # the dial says −4
    )
    assert relative_light_stops(table, 1 / 16) == pytest.approx(-4.4)
    assert relative_light_stops(table, 1 / 4) == pytest.approx(-2.2)
    assert relative_light_stops(table[:0], 1 / 4) == pytest.approx(-2.0)
    plain = read_possible_scene(document)
    rows = document["lights"][0]["strobe"]["durations"]
    rows[0]["light_stops"], rows[1]["light_stops"] = 0.0, -8.5
    weaker = read_possible_scene(changed(document, {"lights[0].power": 1 / 256}))
    same = read_possible_scene(
        changed(plain.to_document(), {"lights[0].power": 1 / 256})
    )
    lost = evaluate(same).flash_offset_stops - evaluate(weaker).flash_offset_stops
    assert lost == pytest.approx(0.5)
