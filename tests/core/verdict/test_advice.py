import itertools
import math
from itertools import pairwise
from types import SimpleNamespace

import pytest

from rapzel.core.advice import _Trial, advise, advise_pairs
from rapzel.core.document.evaluation import STATES
from rapzel.core.document.places import changed
from rapzel.core.document.scene import read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.possible import read_possible_scene
from rapzel.core.verdict.change import Change
from rapzel.core.verdict.freeze_remedies import for_freeze
from tests.plans import INSTANT, MONOBLOC

HOLDS = STATES.index("unsure")
SCENES = {
    "short of light": {"lights[0].power": 1 / 256},
    "too slow": {"exposure.iso": 900, "lights[0].distance_m": 1.2},
    "ghost": {
        "ambient.ev100": 8.0,
        "exposure.shutter_s": 1 / 60,
        "lights[0].power": 1 / 256,
        "exposure.iso": 5000,
    },
    "band": {"exposure.shutter_s": 1 / 400},
    "early": {"moment.at_s": 0.5, "motion.speed_m_s": 3.0},
    "fast burst": {"exposure.frames_per_s": 30.0},
    "too much light": {"exposure.iso": 3200, "motion.speed_m_s": 2.0},
    "slow shutter": {
        "exposure.method": "ambient",
        "ambient.ev100": 15.0,
        "exposure.shutter_s": 1 / 200,
    },
    "nothing opens it": {"trigger.fires": "flash"},
    "nobody opens it so fast": {
        "exposure.method": "open_shutter",
        "trigger.fires": "flash",
    },
    "past the apex": {
        "motion": {"kind": "leap", "rise_m": 0.8, "from_apex_s": 0.3},
        "lights[0].power": 1.0,
    },
}
CLOSED = {"too slow": "light", "slow shutter": "light"}


def proposals(document, values):
    scene = read_possible_scene(changed(document, values))
    now = evaluate(scene)
    return now, advise(scene, now)


@pytest.mark.parametrize("values", SCENES.values(), ids=SCENES)
def test_every_proposal_does_what_it_says_and_leaves_nothing_worse(
    document, values
) -> None:
    now, offers = proposals(document, values)
    assert offers, now.sentence
    for change in offers:
        after = evaluate(changed(changed(document, values), dict(change.values)))
        closes = now.margin(change.margin)
        assert closes.state == "fails" or closes.probably_fails
        assert not after.margin(change.margin).probably_fails
        assert after.margin(change.margin).rank >= HOLDS
        assert all(
            after.margin(margin.name).rank >= margin.rank for margin in now.margins
        )


def test_the_smallest_change_of_iso_is_proposed(document) -> None:
    document["ambient"] = {"ev100": 0.0}  # so dark that it stays black at any ISO
    _, offers = proposals(document, {"lights[0].power": 1 / 256})
    by_iso = next(change for change in offers if change.says.startswith("ISO"))
    less = dict(by_iso.values)["exposure.iso"] * 2 ** (-2 / 3)
    darker = {"lights[0].power": 1 / 256, "exposure.iso": less}
    left = evaluate(changed(document, darker)).margin("light")
    assert left.state == "fails" or left.probably_fails


def test_the_apex_is_proposed_first_for_a_leap(document) -> None:
    _, offers = proposals(document, SCENES["past the apex"])
    assert (
        next(change for change in offers if change.margin == "freeze").says
        == "caught at the apex"
    )


def test_less_power_comes_first_where_the_picture_is_over(document) -> None:
    """It is shorter too, so the spare light is worth something."""
    now, offers = proposals(document, SCENES["too much light"])
    assert now.margin("light").value > 1
    first = next(change for change in offers if change.margin == "light")
    assert first.values[0][0] == "lights[0].power"
    after = evaluate(
        changed(changed(document, SCENES["too much light"]), dict(first.values))
    )
    assert abs(after.margin("light").value) <= 1 / 3
    assert after.lights[0].t01_s < now.lights[0].t01_s


def test_the_one_slow_light_is_lowered_or_swapped(document) -> None:
    """A voltage-controlled light gets no shorter: a quenched one from the same scene takes its place."""
    old = {
        **INSTANT,
        "name": "Old",
        "durations": [{"power": 1.0, "t01_s": 0.004}],
        "min_power": 1 / 32,
    }
    quick = {
        **document["lights"][0],
        "power": 1 / 256,
        "distance_m": 0.9,
        "loss_stops": 0.0,
    }
    slow = {**quick, "name": "Rim", "strobe": old, "power": 1 / 32, "distance_m": 1.6}
    values = {"lights": [quick, slow], "motion.speed_m_s": 8.0, "exposure.iso": 160}
    now, offers = proposals(document, values)
    assert now.margin("freeze").state == "fails"
    swap = next(change for change in offers if change.margin == "freeze")
    assert swap.says.startswith("Monobloc 600 at ")
    assert swap.says.endswith("for Rim")
    assert (
        evaluate(changed(changed(document, values), dict(swap.values)))
        .margin("freeze")
        .rank
        >= HOLDS
    )


def test_a_strobe_that_cannot_be_short_enough_gets_no_false_promise(document) -> None:
    slow = {
        **INSTANT,
        "durations": [{"power": 1.0, "t01_s": 0.004}],
        "min_power": 1 / 32,
    }
    _, offers = proposals(document, {"lights[0].strobe": slow, "lights[0].power": 0.25})
    assert not [change for change in offers if change.margin == "freeze"]


def test_where_one_change_cannot_do_it_the_two_that_can_are_named(document) -> None:
    """Shorter means weaker: less power alone leaves the picture dark, less power with a higher ISO does it."""
    values = {"lights[0].power": 1 / 16, "exposure.iso": 285, "moment.at_s": 0.0554}
    scene = read_possible_scene(changed(document, values))
    now = evaluate(scene)
    singles = advise(scene, now)
    assert not [change for change in singles if change.margin == "freeze"]
    pairs = advise_pairs(scene, now, singles, within_s=math.inf)
    assert pairs
    for pair in pairs:
        assert " with " in pair.says
        after = evaluate(changed(changed(document, values), dict(pair.values)))
        assert after.margin("freeze").rank >= HOLDS
        assert all(
            after.margin(margin.name).rank >= margin.rank for margin in now.margins
        )


def test_the_search_for_two_changes_ends_with_what_it_has_found(
    document, monkeypatch
) -> None:
    """On a clock of the test's own, which moves on by a second at each look."""
    values = {"lights[0].power": 1 / 16, "exposure.iso": 285, "moment.at_s": 0.0554}
    scene = read_possible_scene(changed(document, values))
    now = evaluate(scene)
    looks = itertools.count()
    clock = SimpleNamespace(monotonic=lambda: float(next(looks)))
    monkeypatch.setattr("rapzel.core.advice.time", clock)
    every = advise_pairs(scene, now, [], within_s=math.inf)
    whole = next(looks)
    found = [advise_pairs(scene, now, [], within_s=end + 0.5) for end in range(whole)]
    counts = [len(pairs) for pairs in found]
    assert all(pairs == every[: len(pairs)] for pairs in found)
    assert counts == sorted(counts)
    assert counts[0] == 0
    assert counts[-1] == len(every) > 0


def test_nothing_is_proposed_where_nothing_is_open(document) -> None:
    metered = {**MONOBLOC, "guide_provenance": "measured"}
    values = {
        "lights[0].power": 1 / 256,
        "exposure.iso": 1900,
        "lights[0].loss_stops": 0.0,  # bare: what a modifier takes is known the worse the more it takes
        "motion.speed_m_s": 8.0,
        "ambient.ev100": 1.0,
        "moment.at_s": 0.0554,
        "lights[0].strobe": metered,
    }
    now, offers = proposals(document, values)
    assert now.works
    assert offers == []


def test_more_light_never_darkens_and_relaxing_never_removes(document) -> None:
    """Each dial turned towards light raises the exposure; a looser criterion never turns a pass into a failure."""
    base = evaluate(document)
    for values in (
        {"exposure.iso": 400},
        {"exposure.f_number": 5.6},
        {"lights[0].power": 1 / 8},
        {"lights[0].distance_m": 1.5},
        {"lights[0].loss_stops": 0.0},
        {"ambient.ev100": 9.0},
        {"lights": [*document["lights"], {**document["lights"][0], "name": "More"}]},
    ):
        assert (
            evaluate(changed(document, values)).exposure_offset_stops
            > base.exposure_offset_stops
        )
    ranks = []
    for pixels in (1.0, 2.0, 4.0, 8.0, 30.0):
        looser = evaluate(
            changed(document, {"criterion.pixels": pixels, "moment.at_s": 0.0554})
        )
        ranks.append(
            [looser.margin(name).rank for name in ("freeze", "ghost", "timing")]
        )
    for before, after in pairwise(ranks):
        assert all(now >= then for then, now in zip(before, after, strict=True))


def test_a_mode_is_a_knob_too(document) -> None:
    """A constant-colour mode that is too slow: its speed mode at the same power freezes, and is offered."""
    slow = [{"power": 1.0, "t01_s": 0.004}, {"power": 1 / 256, "t01_s": 0.0003}]
    quick = [{"power": 1.0, "t01_s": 0.004}, {"power": 1 / 256, "t01_s": 0.00005}]
    two = {
        **MONOBLOC,
        "durations": [],
        "modes": [
            {"name": "constant colour", "durations": slow},
            {"name": "speed", "durations": quick},
        ],
    }
    document["lights"][0].update(strobe=two, mode="constant colour", power=1 / 256)
    scene = read_scene(document)
    now = evaluate(scene)
    assert now.margin("freeze").state == "fails"
    first = next(iter(for_freeze(scene, now)))
    assert first.says == "Key in speed mode at 1/256"
    after = evaluate(changed(document, dict(first.values)))
    assert after.margin("freeze").state == "passes"


def test_a_change_that_loses_tries_is_not_offered(document) -> None:
    """A later light closes nothing if it lets fewer tries land, although enough of them still do."""
    plan = {
        "moment": {"at_s": 0.0554, "lasts_s": 0.01},
        "lights[0].power": 1 / 256,
        "camera.lag_jitter_s": 0.002,
        "criterion.pixels": 20.0,
    }
    now = evaluate(changed(document, plan))
    assert now.margin("timing").passes
    scene = read_scene(changed(document, plan))
    later = Change("light", "later", (("trigger.set_delay_s", 0.003),))
    assert _Trial(scene, later).margin("timing").passes
    assert "timing" in _Trial(scene, later).worse(now)
