"""What a chain means on the set: its knobs against the light itself, its warnings and places against sums by hand."""

from typing import Any

import pytest

from rapzel.core.document.places import changed, get
from rapzel.core.evaluate import evaluate
from rapzel.core.physics import Physics
from rapzel.core.possible import read_possible_scene
from rapzel.core.verdict.knobs import knobs_of
from rapzel.core.verdict.on_the_set import dry_run, positions
from rapzel.core.verdict.sensing import about_sensors

# dry air at 20 °C, from 331.3 m/s at 0 °C (handbook §11)
SOUND_M_S = 331.3 * (1 + 20 / 273.15) ** 0.5
SOUND = {
    "kind": "sound",
    "id": "ear",
    "name": "Microphone",
    "lag_s": 0.0002,
    "jitter_s": 0.0001,
    "distance_m": 1.0,
}
BEAM = {
    "kind": "beam",
    "id": "gate",
    "name": "Gate",
    "lag_s": 0.0001,
    "jitter_s": 0.0001,
    "distance_m": 0.4,
}
FINGER = {
    "kind": "finger",
    "id": "thumb",
    "name": "Thumb",
    "lag_s": 0.0,
    "jitter_s": 0.02,
    "way": "anticipates",
    "lead_s": 0.1,
}
UNIT = {"kind": "device", "id": "box", "name": "Unit", "lag_s": 0.0, "jitter_s": 0.0}


def chained(document: dict[str, Any], *links: dict[str, Any], **more: Any) -> Physics:
    own = {"trigger.links": list(links), "moment": {"at_s": 0.4 / 9}, **more}
    return Physics(read_possible_scene(changed(document, own)))


def said_of(document: dict[str, Any], *links: dict[str, Any], **more: Any) -> str:
    return " ".join(about_sensors(chained(document, *links, **more)))


def late_s(document: dict[str, Any]) -> float:
    """How late the light comes for its instant, or the subject's place for its light."""
    timing = evaluate(document).timing
    assert timing.flash_after_event_s is not None
    assert timing.wanted_s is not None
    return timing.flash_after_event_s - timing.wanted_s


@pytest.mark.parametrize("link", [SOUND, BEAM, FINGER], ids=lambda link: link["kind"])
def test_a_knob_moves_the_light_as_it_says(document, link) -> None:
    """By turning it a little in the document, and looking when the light comes."""
    # What a beam senses happens upstream: its instant is when the subject is in the place.
    moment = {"place_m": 0.05} if link is BEAM else {"at_s": 0.08}
    scene = changed(document, {"trigger.links": [link], "moment": moment})
    found = knobs_of(Physics(read_possible_scene(scene)))
    assert [each.name.split(",")[0] for each in found] == ["Flash delay", link["name"]]
    for each in found:
        turned = 0.01 if each.quantity == "length" else 0.001
        after = changed(scene, {each.path: get(scene, each.path) + turned})
        moved = late_s(after) - late_s(scene)
        assert moved == pytest.approx(each.knob.s_per_unit * turned, rel=1e-6)


def test_a_beam_that_nothing_crosses_is_no_knob(document) -> None:
    still = chained(document, BEAM, **{"motion.speed_m_s": 0.0})
    assert [each.name for each in knobs_of(still)] == ["Flash delay"]


@pytest.mark.parametrize(
    ("neighbour_m", "louder_db", "says"),
    [
        # Twice as far is 6.02 dB quieter (inverse distance law); half a dB less is too near.
        (2.0, 0.5, "only 5.5 dB under"),
        (1.0, 0.0, "as loud as"),
        (2.0, 0.0, ""),
        (8.0, 6.0, ""),
    ],
)
def test_a_neighbour_that_is_nearly_as_loud_is_warned_of(
    document, neighbour_m, louder_db, says
) -> None:
    loud = {**SOUND, "neighbour_m": neighbour_m, "neighbour_db": louder_db}
    said = said_of(document, loud)
    if says:
        assert says in said
    else:
        assert "loud" not in said


def test_an_echo_counts_until_the_unit_is_deaf_for_longer(document) -> None:
    """There and back over 2 m: 4 m by the speed of sound, 11.7 ms."""
    walled, comes_s = {**SOUND, "wall_m": 2.0}, 4.0 / SOUND_M_S
    assert comes_s == pytest.approx(0.01166, abs=1e-5)
    assert "lock-out is not known" in said_of(document, walled)
    quick = said_of(document, walled, {**UNIT, "lockout_s": comes_s * 0.9})
    assert "11.7 ms" in quick
    assert "twice" in quick
    assert "echo" not in said_of(document, walled, {**UNIT, "lockout_s": comes_s * 1.1})


@pytest.mark.parametrize(
    ("of_the_beam", "of_the_scene", "says"),
    [
        ({"variety": "reflective"}, {}, "needs its set range"),
        ({"variety": "heat"}, {}, "How wide the heat sensor's zone is is not known"),
        ({"lies": "across", "length_m": 1.0}, {}, "never crosses it: turn it"),
        ({"variety": "heat", "zone_m": 0.3}, {}, ""),
        ({"length_m": 5.0}, {}, ""),
        (
            {"second_m": 0.2},
            {"motion": {"kind": "fall", "height_m": 0.8}},
            "they cannot, so the second one is left out",
        ),
    ],
)
def test_what_a_beam_leaves_open_is_said(
    document, of_the_beam, of_the_scene, says
) -> None:
    said = said_of(document, {**BEAM, **of_the_beam}, **of_the_scene)
    if says:
        assert says in said
    else:
        assert not said


def test_a_body_that_sleeps_answers_later_by_as_much_as_is_known(document) -> None:
    asleep = {"camera.asleep": True, "trigger.fires": "camera"}
    assert "by an unknown time" in said_of(document, UNIT, **asleep)
    assert "by 400 ms" in said_of(document, UNIT, **asleep, **{"camera.wake_s": 0.4})
    fired_alone = {**asleep, "trigger.fires": "flash"}
    assert "asleep" not in said_of(document, UNIT, **fired_alone)


def test_places_on_the_set(document) -> None:
    """Each thing once, with what is known of it; what is not known is left out and not made up."""
    gate = {**BEAM, "lies": "up", "length_m": 1.2, "second_m": 0.2}
    found = dict(positions(chained(document, gate, {**BEAM, "id": "b", "name": ""})))
    assert found["Camera"] == "4 m from the focus point"
    assert found["Gate"] == "cut 40 cm before the focus point, upright, 1.2 m long"
    assert found["Second beam"] == "20 cm before the first"
    assert found["Beam"] == "cut 40 cm before the focus point"
    in_feet = dict(positions(chained(document, gate), imperial=True))
    assert in_feet["Camera"] == "13.1 ft from the focus point"


def test_valves_on_the_set(document) -> None:
    drops = {
        "valve_height_m": 0.3,
        "meet_height_m": 0.05,
        "second_valve_height_m": 0.35,
        "second_set_s": 0.1366,
        "others": [{"name": "Left valve", "height_m": 0.4, "wanted_m": 0.1}],
    }
    found = dict(positions(chained(document, UNIT, drops=drops)))
    assert found["Drop valve"] == "30 cm above the liquid"
    assert found["Second valve"] == "35 cm above the liquid"
    assert found["Left valve"] == "40 cm above the liquid"
    assert found["Second drop"] == "let go 136.6 ms after the first"


def test_a_dry_run_follows_the_chain(document) -> None:
    """In its order, and with the longest of its deaf times."""
    valve = {"kind": "valve", "id": "v", "name": "Valve", "lag_s": 0.004}
    deaf = [
        {**UNIT, "lockout_s": 0.2},
        {**UNIT, "id": "other", "lockout_s": 1.5},
    ]
    steps = dry_run(chained(document, BEAM, valve, FINGER, *deaf).scene)
    firsts = [step.split(":")[0].split(",")[0] for step in steps[:3]]
    assert firsts == [
        "Stick test",
        "One drop alone",
        "Three dry presses on a slow action",
    ]
    assert steps[-1].startswith("Deaf for 1.5 s")
