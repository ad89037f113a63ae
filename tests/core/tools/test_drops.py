"""The tool of the drops: what it says when it knows little, how a scene takes it over, and what it refuses."""

import re
from typing import Any

import pytest
from jsonschema import Draft202012Validator

from rapzel.core.document.places import changed
from rapzel.core.drops.liquids import LIQUIDS
from rapzel.core.evaluate import evaluate
from rapzel.core.possible import read_possible_scene
from rapzel.core.shared.errors import DocumentError
from rapzel.core.tools import TOOLS, ask
from tests.plans import LUNGE

TOOL = TOOLS["drops"]
JET: dict[str, Any] = {
    "valve_height_m": 0.3, "liquid": "water", "jet": {"launch_s": 0.31, "speed_m_s": 1.2}, "meet_height_m": 0.05,
    "resolution_s": 0.0001,
}  # fmt: skip
FALL = {
    **LUNGE, "motion": {"kind": "fall", "height_m": 0.25},
    "trigger": {
        "fires": "flash", "latency_s": 0.0001,
        "links": [{"kind": "valve", "id": "valve", "name": "Valve", "lag_s": 0.004, "jitter_s": 0.0005}],
    },
}  # fmt: skip


def _says(document: dict[str, Any]) -> str:
    asked = TOOL.read(document)
    return TOOL.says(asked, TOOL.solve(asked))


def test_the_fall_by_the_handbook() -> None:
    """√(2h/g), handbook §14; drag of a drop of 4 mm makes it a little later."""
    bare, dragged = ask(TOOL, JET), ask(TOOL, {**JET, "diameter_m": 0.004})
    assert bare["impact_s"] == pytest.approx((2 * 0.3 / 9.80665) ** 0.5, rel=1e-6)
    assert 1 < dragged["impact_s"] / bare["impact_s"] < 1.02
    assert ask(TOOL, {**JET, "valve_lag_s": 0.004})["impact_s"] == pytest.approx(
        bare["impact_s"] + 0.004
    )


def test_what_is_not_known_is_said_and_no_share_is_told() -> None:
    found = ask(TOOL, JET)
    assert found["share"] is None
    assert {"how much releases spread", "the drop's size"} <= set(found["unknown"])
    assert found["meet_sd_m"] > 0  # by the steps of the unit alone
    assert "not known" in _says(JET)


def test_without_a_jet_it_asks_for_frames_and_gives_a_beginning_by_eye() -> None:
    asked = {key: value for key, value in JET.items() if key != "jet"}
    found = ask(TOOL, asked)
    assert found["second_release_s"] is None
    assert found["flash_s"] is None
    assert found["coarse_second_s"] > 0
    assert "log two frames" in _says(asked)
    one = {**asked, "observations": [{"flash_delay_s": 0.35, "height_m": 0.03}]}
    assert "one more frame" in _says(one)


@pytest.mark.parametrize(
    ("values", "why"),
    [
        ({"meet_height_m": 0.2}, "the jet rises to 7.34 cm only"),
        ({"second_set_s": 0.9}, "they pass each other"),
        ({"second_valve_height_m": 4.0}, "before the first"),
    ],
)
def test_why_they_do_not_meet(values: dict[str, Any], why: str) -> None:
    assert why in _says({**JET, **values})


def test_the_second_release_as_it_is_set_shows_where_they_really_meet() -> None:
    solved = ask(TOOL, JET)["second_release_s"]
    later = ask(TOOL, {**JET, "second_set_s": solved + 0.005})
    assert later["second_release_s"] == solved
    # a late drop finds the tip higher
    assert later["meet_height_m"] == pytest.approx(0.0522, abs=5e-4)
    assert later["flash_s"] > ask(TOOL, JET)["flash_s"]


def test_other_valves_come_to_their_places_when_the_light_does() -> None:
    others = [
        {"name": "Left", "height_m": 0.3, "wanted_m": 0.1},
        {"name": "High", "height_m": 20.0, "wanted_m": 0.0},
        {"name": "Low", "height_m": 0.05, "wanted_m": 0.2},
    ]
    found = ask(TOOL, {**JET, "others": others})
    left, high, low = found["others"]
    assert left["release_s"] + (2 * 0.2 / 9.80665) ** 0.5 == pytest.approx(
        found["flash_s"], abs=1e-4
    )
    assert high["release_s"] is None  # it would have to go before the first
    assert low["release_s"] is None  # it never is above its valve


def test_a_drops_size_comes_from_its_open_time() -> None:
    weighed = [
        {"open_s": 0.03, "drops": 50, "mass_kg": 0.0006},
        {"open_s": 0.04, "drops": 50, "mass_kg": 0.0016},
    ]
    found = ask(TOOL, {**JET, "weighings": weighed, "open_s": 0.04})
    assert found["diameter_m"] == pytest.approx(0.003941, rel=1e-3)
    asked = TOOL.read({**JET, "weighings": weighed, "diameter_m": 0.003941})
    said = dict(TOOL.lists(asked, TOOL.solve(asked)))["Drops"]
    assert any(
        re.search(r"take (40|39.99\d?|40.00\d) ms open", each) for each in said
    ), said


def test_a_scene_without_drops_is_not_answered_with_figures_of_another() -> None:
    with pytest.raises(DocumentError, match="no drops that meet yet"):
        ask(TOOL, LUNGE)


def test_liquids_against_coolprop(coolprop: Any) -> None:
    """Water, and half a mass of glycerol in water as CoolProp's incompressible mixture has it, at 20 °C."""
    assert LIQUIDS["water"].density_kg_m3 == pytest.approx(
        coolprop.PropsSI("D", "T", 293.15, "P", 101325, "Water"), rel=1e-3
    )
    mixture = coolprop.PropsSI("D", "T", 293.15, "P", 101325, "INCOMP::MGL-50%")
    assert LIQUIDS["glycerine"].density_kg_m3 == pytest.approx(mixture, rel=5e-3)


def test_a_scene_takes_the_meeting_over_and_gives_it_back() -> None:
    scene = read_possible_scene(FALL)
    asked = TOOL.read({**JET, "diameter_m": 0.004})
    assert TOOL.to_scene is not None
    after = read_possible_scene(changed(FALL, TOOL.to_scene(scene, asked)))
    facts = evaluate(after).timing
    answer = TOOL.solve(asked)
    assert after.moment.at_s == pytest.approx(answer.flash_s)
    assert facts.flash_after_event_s == pytest.approx(answer.flash_s, abs=1e-4)
    assert after.trigger.set_delay_s == pytest.approx(answer.flash_s - 0.0001, abs=1e-4)
    assert after.trigger.links[0].lag_s == 0.0  # it stands in the drops
    assert TOOL.from_scene(scene, evaluate(scene))["valve_lag_s"] == 0.004
    assert after.motion.height_m == pytest.approx(0.3 - answer.meet_height_m)
    back = TOOL.read(after.to_document())
    assert TOOL.solve(back).second_release_s == pytest.approx(
        answer.second_release_s, abs=1e-4
    )
    assert back.frame_width_m == pytest.approx(evaluate(after).framing.field_width_m)
    assert back.flash_lag_s == 0.0001


def test_a_valves_lag_delays_the_fall_as_well_as_what_counts_after_it() -> None:
    """Without a stated instant the light is wanted a fall after the release, whatever lag the valve has."""
    slow = changed(FALL, {"trigger.links[0].lag_s": 0.02})
    quick, late = evaluate(FALL).timing, evaluate(slow).timing
    assert late.needed_delay_s == pytest.approx(quick.needed_delay_s)
    assert quick.needed_delay_s == pytest.approx((2 * 0.25 / 9.80665) ** 0.5 - 0.0001)


@pytest.mark.parametrize(
    ("values", "path"),
    [
        ({"valve_height_m": -1}, "valve_height_m"),
        ({"meet_height_m": None}, "meet_height_m"),
        ({"liquid": "mercury"}, "liquid"),
        ({"jet": {"launch_s": 0.3}}, "jet.speed_m_s"),
        ({"observations": [{"flash_delay_s": 0.3, "height_m": 0.1}] * 2}, "observations"),
        ({"observations": "frames"}, "observations"),
        ({"weighings": [{"open_s": 0.1, "drops": 0, "mass_kg": 1e-3}]}, "weighings[0].drops"),
        ({"resolution_s": float("nan")}, "resolution_s"),
        ({"colour": "red"}, ""),
    ],
)  # fmt: skip
def test_what_is_refused_is_named(values: dict[str, Any], path: str) -> None:
    with pytest.raises(DocumentError) as refused:
        ask(TOOL, {**JET, **values})
    assert any(problem.path == path for problem in refused.value.problems), (
        refused.value.problems
    )


def test_the_published_schema_takes_what_it_says() -> None:
    schema = TOOL.schema()
    Draft202012Validator.check_schema(schema)
    Draft202012Validator(schema).validate({"in": JET, "out": ask(TOOL, JET)})


@pytest.mark.parametrize("values", [
    {"valve_height_m": 20.0, "jet": {"launch_s": 60.0, "speed_m_s": 30.0}, "meet_height_m": 5.0},
    {"valve_height_m": 0.005, "jet": {"launch_s": 0.0, "speed_m_s": 0.05}, "meet_height_m": 0.001, "diameter_m": 2e-4},
    {"observations": [{"flash_delay_s": 0.3, "height_m": 5.0}, {"flash_delay_s": 0.30001, "height_m": 0.0}]},
    {"observations": [{"flash_delay_s": 0.3, "height_m": 0.0}, {"flash_delay_s": 0.4, "height_m": 0.0}]},
    {"second_set_s": 0.0, "lasts_s": None, "valve_sd_s": 3600.0, "jets_sd_m": 0.5, "aside_sd_m": 0.5},
])  # fmt: skip
def test_extremes_are_answered_or_said(values: dict[str, Any]) -> None:
    asked = TOOL.read({**JET, **values})
    answer = TOOL.solve(asked)
    assert TOOL.says(asked, answer)
    assert TOOL.lists(asked, answer)
    assert TOOL.table(asked)[1]
