import pytest

from rapzel.core.document.places import changed
from rapzel.core.document.possible import read_possible_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.verdict.advice import advise
from tests.plans import INSTANT

SCENES = {
    "short of light": {"lights[0].power": 1 / 256},
    "too slow": {"exposure.iso": 6400},
    "ghost": {"ambient.ev100": 8.0, "exposure.shutter_s": 1 / 60, "lights[0].power": 1 / 256, "exposure.iso": 5000},
    "band": {"exposure.shutter_s": 1 / 400},
    "early": {"trigger.wanted_delay_s": 0.5, "motion.speed_m_s": 6.0, "exposure.iso": 400},
    "fast burst": {"exposure.frames_per_s": 30.0},
    "too much light": {"exposure.iso": 3200, "motion.speed_m_s": 2.0},
    "slow shutter": {"exposure.method": "ambient", "ambient.ev100": 15.0, "exposure.shutter_s": 1 / 200},
}


def proposals(document, values):
    scene = read_possible_scene(changed(document, values))
    now = evaluate(scene)
    return now, advise(scene, now)


@pytest.mark.parametrize("values", SCENES.values(), ids=SCENES)
def test_every_proposal_does_what_it_says_and_breaks_nothing(document, values) -> None:
    now, found = proposals(document, values)
    assert found, now.sentence
    for change in found:
        after = evaluate(changed(changed(document, values), dict(change.values)))
        assert after.margin(change.margin).passes
        assert all(after.margin(m.name).passes for m in now.margins if m.passes)


def test_the_smallest_change_of_iso_is_proposed(document) -> None:
    _, found = proposals(document, {"lights[0].power": 1 / 256})
    by_iso = next(change for change in found if change.says.startswith("ISO"))
    one_less = changed(
        document, {"lights[0].power": 1 / 256, "exposure.iso": dict(by_iso.values)["exposure.iso"] * 2 ** (-1 / 3)}
    )
    assert not evaluate(one_less).margin("light").passes


def test_the_highest_power_that_freezes_is_proposed(document) -> None:
    _, found = proposals(document, {"exposure.iso": 6400})
    change = next(change for change in found if change.margin == "freeze")
    ((path, power),) = change.values
    more = changed(document, {"exposure.iso": 6400, path: power * 2 ** (1 / 3)})
    assert not evaluate(more).margin("freeze").passes


def test_light_to_spare_is_used_up_without_going_short(document) -> None:
    now, found = proposals(document, SCENES["too much light"])
    assert now.margin("light").value > 1
    for change in (c for c in found if c.margin == "light"):
        after = evaluate(changed(changed(document, SCENES["too much light"]), dict(change.values)))
        assert 0 <= after.margin("light").value < 0.6


def test_a_strobe_that_cannot_be_short_enough_gets_no_false_promise(document) -> None:
    slow = {**INSTANT, "durations": [{"power": 1.0, "t01_s": 0.004}], "min_power": 1 / 32}
    _, found = proposals(document, {"lights[0].strobe": slow, "lights[0].power": 0.25})
    assert not [change for change in found if change.margin == "freeze"]


def test_nothing_is_proposed_where_nothing_is_open(document) -> None:
    now, found = proposals(document, {"lights[0].power": 1 / 256, "exposure.iso": 5000})
    assert now.works
    assert found == []
