"""What brings the light to its instant: each fix against the sum of lags by hand, and the two schools."""

import pytest

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.physics import Physics
from rapzel.core.possible import read_possible_scene
from rapzel.core.verdict.on_the_set import batteries, dry_run, expected, positions
from rapzel.core.verdict.timing_fixes import fixes, schools, settable_s, with_delay

SOUND_M_S = 331.3 * (1 + 20 / 273.15) ** 0.5


@pytest.fixture
def glass(document) -> dict:
    """A microphone half a metre off, a unit in steps of a tenth of a millisecond, a radio; wanted 30 ms after."""
    return changed(
        document,
        {
            "trigger.links": [
                {
                    "kind": "sound",
                    "name": "Microphone",
                    "lag_s": 0.0002,
                    "jitter_s": 0.0001,
                    "distance_m": 0.5,
                },
                {
                    "kind": "device",
                    "name": "Unit",
                    "lag_s": 0.0003,
                    "jitter_s": 0.0,
                    "resolution_s": 0.0001,
                },
                {"kind": "radio", "name": "Radio", "lag_s": 0.0006, "jitter_s": 0.0001},
            ],
            "camera.mirror_s": 0.03,
            "camera.first_curtain_s": 0.01,
            "moment": {"at_s": 0.05, "lasts_s": 0.01},
            "lights[0].power": 1 / 256,
            "criterion.pixels": 60.0,
        },
    )


def by_words(document: dict) -> dict:
    return {
        fix.change.says: fix for fix in fixes(Physics(read_possible_scene(document)))
    }


AIR = 0.5 / SOUND_M_S
REST = 0.0002 + 0.0003 + 0.0006 + 0.0004  # sensor, unit, radio, latency


def test_the_sum_by_hand(glass) -> None:
    facts = evaluate(glass).timing
    assert facts.flash_after_event_s == pytest.approx(AIR + REST + 0.055)
    assert facts.too_late_s == pytest.approx(AIR + REST + 0.055 - 0.05)
    kinds = [lag.kind for lag in facts.lags]
    assert kinds == ["sound", "device", "camera", "radio", "latency"], (
        "radios after the camera"
    )


def test_each_fix_leaves_its_delay_in_steps_of_the_unit(glass) -> None:
    found = by_words(glass)
    mirror = dict(found["mirror up"].change.values)
    assert mirror["camera.mirror_up"] is True
    assert mirror["trigger.set_delay_s"] == pytest.approx(
        round((0.05 - AIR - REST - 0.025) / 1e-4) * 1e-4
    )
    assert found["mirror up"].better
    assert found["mirror up"].outcome.timing.too_late_s == 0
    curtain = dict(found["electronic first curtain"].change.values)
    assert curtain["trigger.set_delay_s"] == pytest.approx(
        round((0.05 - AIR - REST - 0.045) / 1e-4) * 1e-4
    )
    direct = found["open shutter, trigger fires the flash"].outcome.timing
    assert direct.flash_after_event_s == pytest.approx(0.05, abs=5e-5)
    nearer = dict(found["microphone 45 cm closer"].change.values)
    assert nearer["trigger.links[0].distance_m"] == 0.05, (
        "as near as it goes, since no distance is enough"
    )


def test_the_microphone_as_a_delay_line(glass) -> None:
    """Fired directly some 7 ms are left; the air makes the same of another two and a half metres."""
    quick = changed(
        glass,
        {
            "trigger.fires": "flash",
            "exposure.method": "open_shutter",
            "exposure.shutter_s": 1.0,
            "moment": {"at_s": 0.01, "lasts_s": 0.01},
        },
    )
    away = round((0.01 - REST) * SOUND_M_S, 2)
    fix = by_words(quick)[f"microphone at {away:.3g} m, no delay"]
    assert fix.outcome.timing.flash_after_event_s == pytest.approx(
        0.01, abs=0.005 / SOUND_M_S
    )


def test_a_beam_goes_upstream_by_what_the_light_is_late(document) -> None:
    beam = {
        "kind": "beam",
        "name": "Beam",
        "lag_s": 0.001,
        "jitter_s": 0.0005,
        "distance_m": 0.3,
    }
    scene = changed(
        document,
        {
            "trigger.links": [beam],
            "motion.speed_sd_m_s": 0.9,
            "moment": {"place_m": 0.1},
            "lights[0].power": 1 / 256,
            "criterion.pixels": 60.0,
        },
    )
    late = 0.001 + 0.0554 - 0.3 / 9
    found = by_words(scene)
    fix = found[f"beam {round(late * 9 * 100 + 0.5)} cm further upstream"]
    assert fix.outcome.timing.too_late_s == 0
    assert fix.outcome.timing.offset_m == pytest.approx(0, abs=1e-4)
    assert any(says.startswith("a second beam") for says in found)


def test_a_sleeping_body_and_a_finder_with_a_lag(document) -> None:
    finger = {
        "kind": "finger",
        "name": "Finger",
        "lag_s": 0.2,
        "jitter_s": 0.03,
        "look_s": 0.04,
    }
    asleep = {
        "trigger.links": [finger],
        "camera.asleep": True,
        "moment": {"at_s": 0.3, "lasts_s": 0.1},
    }
    scene = changed(document, asleep)
    unknown = evaluate(scene)
    assert unknown.margin("timing").state == "unknown", (
        "how long waking takes is not known, and not zero"
    )
    awake = changed(scene, {"camera.wake_s": 0.25})
    assert evaluate(awake).timing.flash_after_event_s == pytest.approx(
        0.2 + 0.04 + 0.055 + 0.25 + 0.0004
    )
    assert "asleep" in " ".join(evaluate(awake).warnings)
    found = by_words(awake)
    assert found["body kept awake"].outcome.timing.flash_after_event_s == pytest.approx(
        0.3, abs=1e-6
    )
    assert (
        dict(found["look past the finder"].change.values)["trigger.links[0].look_s"]
        == 0.0
    )


def test_a_slow_radio_needs_a_slower_shutter(document) -> None:
    """It delays the light after the contact, so the fastest safe shutter grows by its lag."""
    plain = evaluate(document).shutter.fastest_safe_shutter_s
    radio = {"kind": "radio", "lag_s": 0.0008, "jitter_s": 0.0}
    slow = evaluate(
        changed(document, {"trigger.links": [radio]})
    ).shutter.fastest_safe_shutter_s
    assert slow - plain == pytest.approx(0.0008)
    unknown = evaluate(changed(document, {"trigger.links": [{"kind": "radio"}]}))
    assert unknown.margin("sync").state == "unknown"


def test_a_radio_that_jumps_about_wants_a_slower_shutter(document) -> None:
    """The slack to the safe shutter is a fraction of a millisecond, and nineteen frames in twenty need it."""
    steady = {"kind": "radio", "lag_s": 0.0002, "jitter_s": 0.0}
    safe = evaluate(
        changed(document, {"trigger.links": [steady]})
    ).shutter.fastest_safe_shutter_s
    document["exposure"]["shutter_s"] = safe + 0.0009
    sure = evaluate(changed(document, {"trigger.links": [steady]})).margin("sync")
    wild = evaluate(
        changed(document, {"trigger.links": [{**steady, "jitter_s": 0.002}]})
    ).margin("sync")
    assert (sure.state, wild.state) == ("passes", "fails")
    # 95 % of a normal law are earlier than 1.645 standard deviations.
    assert wild.value < sure.value - 1.645 * 2 + 2


def test_both_schools_each_with_the_delay_that_it_leaves(glass) -> None:
    found = schools(Physics(read_possible_scene(glass)))
    assert found["camera"].timing.too_late_s > 0
    assert found["flash"].timing.flash_after_event_s == pytest.approx(0.05, abs=5e-5)
    assert found["flash"].timing.needed_delay_s == pytest.approx(0.05 - AIR - REST)


@pytest.mark.parametrize(("wanted", "step", "expected_s"), [
    (0.01234, 0.001, 0.012), (0.01234, 0.0, 0.01234), (-0.01, 0.001, 0.0), (0.0004, 0.001, 0.0),
])  # fmt: skip
def test_delays_that_can_be_set(wanted: float, step: float, expected_s: float) -> None:
    assert settable_s(wanted, step) == pytest.approx(expected_s, abs=1e-9)


def test_an_impossible_change_is_no_fix(glass) -> None:
    assert with_delay(read_possible_scene(glass), {"exposure.shutter_s": -1.0}) is None


def test_on_the_set(glass) -> None:
    plan = {"keepers_wanted": 2, "uses_up": "one glass"}
    scene = changed(
        glass,
        {
            "moment": {"at_s": 0.058, "lasts_s": 0.02},
            "plan": plan,
            "lights[0].strobe.battery_pops": 300.0,
        },
    )
    physics = Physics(read_possible_scene(scene))
    assert ("Microphone", "50 cm from where the sound is made") in positions(physics)
    assert any("clap" in step for step in dry_run(physics.scene))
    found = expected(physics)
    assert found is not None
    assert found.half <= found.most
    assert found.says.endswith(f"bring {found.most} times one glass.")
    # at 1/256 a charge gives 300 · 256 pops
    assert batteries(physics.scene, 76_800 * 2) == [("Key", "153600 pops, 2 charges")]
    assert batteries(read_possible_scene(glass), 3) == [
        ("Key", "pops of a charge not known")
    ]
    assert (
        expected(Physics(read_possible_scene(changed(glass, {"moment": {}})))) is None
    )
