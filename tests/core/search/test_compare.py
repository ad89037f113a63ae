"""The methods side by side: each column passes what it claims, turning points are confirmed by the search."""

import math
import random
from collections.abc import Iterator
from typing import Any

import pytest

from rapzel.core.document.gear import Light
from rapzel.core.document.places import changed
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.methods import METHODS
from rapzel.core.physics import Physics
from rapzel.core.search.cheap import cheap_answers
from rapzel.core.search.compare import Comparison, compare
from rapzel.core.search.find import Search
from rapzel.core.search.limits import read_limits
from rapzel.core.verdict.ambient import room
from rapzel.core.verdict.exposed import light
from rapzel.core.verdict.freeze import freeze
from rapzel.core.verdict.ghost import ghost
from tests.core.search.test_find import OLD, SMALL, kit, scene_of
from tests.plans import LUNGE, MONOBLOC

HALL: dict[str, Any] = {"ambient.ev100": 7.0, "camera.fastest_shutter_s": 1 / 8000}
LEAF: dict[str, Any] = {
    **HALL,
    "camera.shutter": "leaf",
    "camera.fastest_shutter_s": 1 / 2000,
}
GLOBAL: dict[str, Any] = {
    **HALL,
    "camera.shutter": "global",
    "camera.fastest_shutter_s": 1 / 80000,
}
LIMITS = {"iso": [100, 3200], "f_number": [2, 11], "lights": 2}


def compared(values: dict[str, Any], **limits: Any) -> Comparison:
    return compare(
        scene_of(**values), kit(SMALL, OLD, MONOBLOC), read_limits({**LIMITS, **limits})
    )


@pytest.mark.parametrize(
    "values", [HALL, LEAF, GLOBAL], ids=["curtains", "leaf", "global"]
)
def test_each_column_passes_what_it_claims(values: dict[str, Any]) -> None:
    comparison = compared(values)
    assert {one.method.key for one in comparison.columns} == set(METHODS)
    working = [one for one in comparison.columns if one.works]
    assert working
    for column in working:
        assert column.hit is not None
        after = evaluate(column.hit.document)
        assert Physics(column.hit.scene).method.key == column.method.key
        for margin in after.margins:
            if margin.name != "timing":
                assert margin.state in ("passes", "unsure"), (column.method.key, margin)
        for name in ("freeze", "light"):
            claimed = column.hit.claimed[name]
            assert claimed is None or after.margin(name).value == pytest.approx(
                claimed, abs=1e-6
            )


def test_the_recommended_has_the_most_light_left_and_stands_first() -> None:
    comparison = compared(HALL)
    first, *others = comparison.columns
    assert first.method.key == comparison.recommended
    assert first.reserve_stops is not None
    for one in others:
        assert (
            one.reserve_stops is None
            or one.reserve_stops <= first.reserve_stops + 1 / 3
        )
    assert comparison.because.lower().startswith(first.method.title.lower())


def test_what_cannot_be_stands_last_with_its_reason() -> None:
    *_, last = compared(HALL).columns
    assert not last.possible
    assert "shutter" in last.reason
    assert last.to_document()["needs"] is None
    assert last.to_document()["scene"] is None


def test_a_method_that_fails_shows_the_nearest_set_up_and_by_how_much_it_fails() -> (
    None
):
    """Outdoors at noon, f/11 at most, nothing outshines the sun by the shutter of the curtains."""
    comparison = compared({**HALL, "ambient.ev100": 15.0})
    pulse = comparison.column("pulse")
    assert not pulse.works
    assert pulse.miss is not None
    margin = evaluate(pulse.miss.hit.document).margin(pulse.binding or "")
    assert margin.state == "fails"
    assert margin.value is not None
    # By day a picture by curtains is too bright and trails at once: each is told with what it lacks.
    assert {"room", "ghost"} <= set(pulse.miss.parts)
    for name, by in pulse.miss.parts.items():
        assert f"{by:.1f}" in pulse.binds
        value = evaluate(pulse.miss.hit.document).margin(name).value
        assert abs(value) == pytest.approx(by, abs=0.35), name


def test_where_several_things_fail_nothing_within_the_limits_is_nearer() -> None:
    """In sunlight an open shutter fails in all; each part is what the scene's evaluation says, and none is nearer."""
    sun = {**HALL, "ambient.ev100": 14.0}
    column = compared(sun).column("open_shutter")
    assert column.miss is not None
    now = evaluate(column.miss.hit.document)
    assert len(column.miss.parts) > 1
    for name, by in column.miss.parts.items():
        value = now.margin(name).value
        assert value is not None
        wrong = abs(value) - 1 / 3 if name == "light" else -value
        # the nearest marking of a dial
        assert by == pytest.approx(wrong, abs=1 / 3 + 0.01), name
    limits = read_limits({**LIMITS, "methods": ["open_shutter"]})
    search = Search(scene_of(**sun), kit(SMALL, OLD, MONOBLOC), limits)
    assert all(_wrong(scene) >= column.miss.by_stops - 1e-6 for scene in _some(search))


def _some(search: Search) -> Iterator[Scene]:
    """Scenes of one kind of light anywhere within the limits."""
    draw = random.Random(7)
    (way,) = search.ways
    for _ in range(120):
        strobe = draw.choice(search.kit.strobes)
        light = Light(
            power=max(2 ** -(draw.randint(0, 18) / 3), 0.25),
            strobe=strobe,
            distance_m=draw.choice([1.0, 2.0, 4.0]),
        )
        dials = {
            "iso": draw.choice([100.0, 800.0, 3200.0]),
            "f_number": draw.choice([2.0, 5.6, 11.0]),
            "shutter_s": draw.choice(way.shutters),
        }
        exposure = way.base.exposure.model_copy(update=dials)
        lights = (light,) * draw.randint(1, 2)
        yield way.base.model_copy(update={"exposure": exposure, "lights": lights})


def _wrong(scene: Scene) -> float:
    """Stops by which freeze, light and room are wrong together, as the margins say it."""
    physics = Physics(scene)
    frozen, lit = freeze(physics).value, light(physics).value
    around, trail = room(physics).value, ghost(physics).value
    assert frozen is not None
    assert lit is not None
    assert around is not None
    wrong = max(-frozen, 0.0) + max(abs(lit) - 0.34, 0.0) + max(-around, 0.0)
    return wrong + max(-(trail or 0.0), 0.0)


def test_nothing_works_is_said_with_what_is_nearest() -> None:
    comparison = compared({**HALL, "ambient.ev100": 15.0}, lights=1, distance_m=[4, 4])
    assert comparison.recommended is None
    assert comparison.because.startswith(
        "Nothing works within these limits. Nearest is "
    )


def test_the_turning_points_are_confirmed_on_both_sides_by_the_search() -> None:
    comparison = compared(HALL)
    rooms = [one for one in comparison.crossings if one.axis == "room" and one.above]
    assert rooms
    for one in rooms:
        before = compared({**HALL, "ambient.ev100": one.at - 0.05})
        after = compared({**HALL, "ambient.ev100": one.at + 0.05})
        assert before.recommended == comparison.recommended
        assert after.recommended == one.winner
    assert f"above about EV {rooms[0].at:.2g}" in " ".join(comparison.turning())


@pytest.mark.parametrize("lights", [1, 2])
def test_the_reach_by_number_of_lights_is_confirmed_by_the_search(lights: int) -> None:
    comparison = compared(HALL)
    key = comparison.recommended
    reach = dict(comparison.by_lights)[lights]

    def works(distance_m: float) -> bool:
        place = [distance_m, distance_m]
        limits = read_limits(
            {**LIMITS, "lights": lights, "distance_m": place, "methods": [key]}
        )
        placed = scene_of(**HALL, **{"lights[0].distance_m": distance_m})
        return Search(placed, kit(SMALL, OLD, MONOBLOC), limits).any_hit()

    assert works(reach / 1.02)
    assert not works(reach * 1.02)


def test_more_lights_reach_farther_by_the_root_of_their_number() -> None:
    """Inverse square (ISO 1230): two equal lights do at √2 of the distance what one does, where light binds."""
    reaches = dict(compared({**HALL, "ambient.ev100": None}, iso=[100, 100]).by_lights)
    assert reaches[2] / reaches[1] == pytest.approx(math.sqrt(2), rel=0.02)


def test_a_dark_room_has_the_light_from_which_on_another_method_wins() -> None:
    """From dark rooms upwards the first turning point is the one that a search of each room finds."""
    dark = compared({**HALL, "ambient.ev100": None})
    turns = [one for one in dark.crossings if one.axis == "room"]
    assert [one.above for one in turns] == [True]
    turn = turns[0]
    assert (
        compared({**HALL, "ambient.ev100": turn.at - 0.1}).recommended
        == dark.recommended
    )
    assert compared({**HALL, "ambient.ev100": turn.at + 0.1}).recommended == turn.winner


def test_progress_is_told_and_may_stop_it() -> None:
    told: list[float] = []

    def stop(share: float) -> None:
        told.append(share)
        if share > 0.2:
            raise InterruptedError

    with pytest.raises(InterruptedError):
        compare(scene_of(**HALL), kit(SMALL), read_limits(LIMITS), stop)
    assert told == sorted(told)
    assert told[-1] < 0.5


def test_cheap_answers_do_what_they_say() -> None:
    leap = {
        "motion": {
            "kind": "leap",
            "rise_m": 0.5,
            "from_apex_s": 0.1,
            "horizontal_m_s": 1.0,
        },
        "lights[0].loss_stops": 1.5,
        "ambient.ev100": 9.0,
    }
    scene = read_scene(changed(LUNGE, leap))
    answers = cheap_answers(scene)
    says = {one.says: one for one in answers}
    assert {"catch the apex", "bare reflectors", "flag the room by 2 stops"} <= set(
        says
    )
    now = evaluate(scene)
    for one in answers:
        after = evaluate(changed(scene.to_document(), dict(one.values)))
        old, new = now.margin(one.margin).value, after.margin(one.margin).value
        assert old is not None
        assert new is not None
        assert new - old == pytest.approx(one.effect_stops, abs=1e-9)
    assert says["bare reflectors"].effect_stops == pytest.approx(1.5, abs=0.2)
    assert says["flag the room by 2 stops"].effect_stops == pytest.approx(2.0, abs=0.01)
    speeds = math.hypot(1.0, 9.80665 * 0.1)  # at 0.1 s from the apex, and 1 m/s at it
    assert says["catch the apex"].effect_stops == pytest.approx(
        math.log2(speeds), abs=0.25
    )


def test_one_more_light_is_a_light_of_its_own() -> None:
    scene = scene_of()
    answer = next(
        one for one in cheap_answers(scene) if one.says.startswith("one more light")
    )
    lights = dict(answer.values)["lights"]
    assert len(lights) == len(scene.lights) + 1
    assert len({one["id"] for one in lights}) == len(lights)


def test_what_is_left_is_said_as_it_is_and_without_a_plus() -> None:
    told = set()
    for faster in (1.0, 4.0, 9.0):
        for column in compared({**HALL, "motion.speed_m_s": faster}).columns:
            if not column.works or column.binding not in (
                "light",
                "freeze",
                "room",
                "ghost",
            ):
                continue
            left = column.reserve_stops
            if column.binding != "light":
                left = evaluate(column.hit.document).margin(column.binding).value
            assert f"{left:.1f} stops" in column.binds.replace("−", "-")
            assert "+" not in column.binds
            told.add(column.binding)
    assert "freeze" in told


@pytest.mark.parametrize("first", ["constant colour", "speed"])
def test_methods_take_the_mode_of_a_strobe_that_is_short_enough(first: str) -> None:
    """Whichever mode its table names first, and although the scene's own light stands in the slow one."""
    slow = [{"power": 1.0, "t01_s": 0.004}, {"power": 1 / 256, "t01_s": 0.002}]
    quick = [{"power": 1.0, "t01_s": 0.004}, {"power": 1 / 256, "t01_s": 0.00005}]
    modes = [
        {"name": "constant colour", "durations": slow},
        {"name": "speed", "durations": quick},
    ]
    modes.sort(key=lambda mode: mode["name"] != first)
    two = {**MONOBLOC, "durations": [], "modes": modes, "hss": False}
    scene = scene_of(
        **HALL,
        **{
            "motion.speed_m_s": 8.0,
            "lights[0].strobe": two,
            "lights[0].mode": "constant colour",
        },
    )
    assert evaluate(scene).margin("freeze").state == "fails"
    comparison = compare(scene, kit(two), read_limits(LIMITS))
    pulse = next(one for one in comparison.columns if one.method.key == "pulse")
    assert pulse.works
    assert pulse.hit is not None
    assert [light.mode for light in pulse.hit.scene.lights] == ["speed"]
    assert evaluate(pulse.hit.document).margin("freeze").passes
