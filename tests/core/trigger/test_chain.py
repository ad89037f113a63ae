import math
from typing import Any

import numpy as np
import pytest
from scipy.stats import norm

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.shared import draws
from rapzel.core.trigger import chain
from rapzel.core.trigger.air import speed_of_sound_m_s
from rapzel.core.trigger.links import KINDS, Delay


@pytest.mark.parametrize("celsius", [-20, 0, 10, 20, 35])
def test_speed_of_sound_against_coolprop(coolprop: Any, celsius: float) -> None:
    """Dry air at 101 325 Pa; the ideal-gas form is within 0.1 % of CoolProp's equation of state."""
    published = coolprop.PropsSI("A", "T", celsius + 273.15, "P", 101325, "Air")
    assert speed_of_sound_m_s(celsius) == pytest.approx(published, rel=1e-3)


def test_sound_takes_three_milliseconds_a_metre() -> None:
    # common practice
    assert 1 / speed_of_sound_m_s(20) == pytest.approx(0.0029, abs=5e-5)


@pytest.mark.parametrize("kind", KINDS)
def test_every_link_keeps_the_contract(document, kind: str) -> None:
    """It begins with figures that it takes, says its lag or that it is not known, and comes and goes in a document."""
    made = KINDS[kind].model_validate({"kind": kind, **KINDS[kind].beginning})
    delay = made.delay()
    assert delay.known
    assert delay.name
    assert made.title
    document["trigger"]["links"] = [{"kind": kind, **KINDS[kind].beginning}]
    facts = evaluate(document).timing
    own = next(lag for lag in facts.lags if lag.kind == kind)
    assert own.lag_s == pytest.approx(delay.lag_s)
    assert facts.flash_after_event_s == pytest.approx(delay.lag_s + 0.0554)
    document["trigger"]["links"] = [{"kind": kind}]
    bare = evaluate(document)
    if kind == "finger":  # people are known well enough to begin with
        assert bare.timing.lags[0].lag_s == 0.2
    else:
        assert bare.timing.flash_after_event_s is None
        assert bare.margin("timing").state == "unknown"
        own = next(lag for lag in bare.timing.lags if lag.kind == kind)
        assert f"lag of {own.name}" in bare.margin("timing").says


def test_lags_add_up(document) -> None:
    document["trigger"].update(
        links=[
            {
                "name": "Microphone",
                "kind": "sound",
                "lag_s": 0.0002,
                "jitter_s": 0.0,
                "distance_m": 1.0,
            },
            {"name": "Unit", "kind": "device", "lag_s": 0.001, "jitter_s": 0.0},
        ],
        set_delay_s=0.01,
    )
    found = evaluate(document).timing
    expected = 0.0002 + 1 / speed_of_sound_m_s(20) + 0.001 + 0.055 + 0.0004 + 0.01
    assert found.flash_after_event_s == pytest.approx(expected)
    direct = changed(
        document,
        {
            "trigger.fires": "flash",
            "exposure.method": "open_shutter",
            "exposure.shutter_s": 1.0,
        },
    )
    assert evaluate(direct).timing.flash_after_event_s == pytest.approx(
        expected - 0.055
    )


def test_mirror_and_first_curtain_take_their_share_of_the_lag(document) -> None:
    document["camera"].update(mirror_s=0.03, first_curtain_s=0.01)
    usual = evaluate(document).timing.flash_after_event_s
    quick = evaluate(
        changed(
            document,
            {"camera.mirror_up": True, "camera.electronic_first_curtain": True},
        )
    )
    assert usual - quick.timing.flash_after_event_s == pytest.approx(0.04)
    unknown = evaluate(
        changed(document, {"camera.mirror_up": True, "camera.mirror_s": None})
    )
    assert unknown.timing.flash_after_event_s is None


def test_jitter_is_the_root_of_the_sum_of_squares_and_the_tries_agree() -> None:
    delays = [
        Delay("a", 0.1, 0.003),
        Delay("b", 0.1, 0.004),
        Delay("c", 0.1, 0.012 / math.sqrt(3), uniform=True),
    ]
    by_hand = math.sqrt(0.003**2 + 0.004**2 + 0.012**2 / 3)
    assert chain.total_jitter_s(delays) == pytest.approx(by_hand)
    drawn = chain.errors_s(delays)
    assert np.std(drawn) == pytest.approx(by_hand, rel=0.005)
    assert abs(np.mean(drawn)) < by_hand * 0.005
    assert chain.total_jitter_s([*delays, Delay("d", 0.1, None)]) is None


@pytest.mark.parametrize("source", [0, 3, 12, 25])
def test_draws_are_standard_and_independent(source: int) -> None:
    """Also beyond the points of the sequence, which come again in another order."""
    for made in (draws.normal(source), draws.uniform(source)):
        assert made.size == draws.TRIES
        assert np.mean(made) == pytest.approx(0, abs=0.002)
        assert np.std(made) == pytest.approx(1, abs=0.002)
        for other in (1, 2, 13):
            if other != source:
                by_chance = 4 / math.sqrt(draws.TRIES)
                assert abs(np.mean(made * draws.normal(other))) < by_chance
    assert np.abs(draws.uniform(source)).max() <= math.sqrt(3)


def test_a_uniform_link_gives_its_half_width(document) -> None:
    document["trigger"]["links"] = [
        {
            "kind": "device",
            "name": "Poll",
            "lag_s": 0.0,
            "jitter_s": 0.01,
            "jitter_shape": "uniform",
        }
    ]
    document["camera"]["lag_jitter_s"] = 0
    assert evaluate(document).timing.jitter_s == pytest.approx(0.01 / math.sqrt(3))


def test_places_spread_by_speed_and_by_time(document) -> None:
    """σ_x² = (t_lag σ_v)² + (v σ_t)², in closed form; the tries agree within half a percent."""
    document["motion"]["speed_sd_m_s"] = 0.5
    found = evaluate(document).timing
    assert found.position_sd_m == pytest.approx(
        math.hypot(0.0554 * 0.5, 9 * 0.002), rel=5e-3
    )


def test_share_in_frame_against_the_normal_distribution(document) -> None:
    document["camera"]["lag_jitter_s"] = 0.2
    document["moment"] = {"at_s": 0.0554, "place_m": 100.0}
    found = evaluate(document)
    half, spread = found.framing.field_width_m / 2, 9 * 0.2
    assert found.timing.share_in_frame == pytest.approx(
        norm.cdf(half / spread) - norm.cdf(-half / spread), abs=2e-3
    )


def test_without_a_moment_nothing_is_said_of_landing(document) -> None:
    found = evaluate(document)
    assert found.timing.share is None
    assert not found.timing.judged
    assert found.timing.share_in_frame == 1.0
    margin = found.margin("timing")
    assert (margin.state, margin.figure) == ("unknown", None)
    assert margin.says == "state the moment; 100 % stay in frame, 49.9 cm on"
    assert found.timing.travel_m == pytest.approx(9 * 0.0554)
    assert found.timing.travel_frames == pytest.approx(
        9 * 0.0554 / found.framing.field_width_m
    )


def test_without_a_light_nothing_is_said_of_timing_or_pace(document) -> None:
    found = evaluate(changed(document, {"lights": [], "moment": {"at_s": 0.05}}))
    states = {margin.name: margin.state for margin in found.margins}
    assert states.pop("room") == "passes", "how dark the room is needs no light"
    assert states == dict.fromkeys(
        ("freeze", "light", "ghost", "sync", "timing", "pace"), "unknown"
    )
    assert found.provenance is None


def test_a_lag_of_the_camera_that_is_not_known_is_no_lag_of_zero(document) -> None:
    found = evaluate(changed(document, {"camera.lag_s": None, "moment": {"at_s": 0.0}}))
    assert found.timing.flash_after_event_s is None
    assert (
        found.margin("timing").says
        == "lag of camera not known: measure it on the bench"
    )


def test_a_beam_upstream_tells_the_delay_that_is_needed(document) -> None:
    beam = {
        "name": "Beam",
        "kind": "beam",
        "lag_s": 0.0001,
        "jitter_s": 0.0,
        "distance_m": 0.9,
    }
    document["trigger"].update(fires="flash", links=[beam])
    document["exposure"].update(method="open_shutter", shutter_s=1.0)
    found = evaluate(document).timing
    assert found.needed_delay_s == pytest.approx(0.9 / 9 - 0.0001 - 0.0004)
    on_time = evaluate(
        changed(document, {"trigger.set_delay_s": found.needed_delay_s})
    ).timing
    assert on_time.offset_m == pytest.approx(0, abs=1e-9)


def test_too_late_is_said_with_by_how_much(document) -> None:
    document["moment"] = {"at_s": 0.02, "lasts_s": 0.04}
    document["lights"][0]["power"] = 1 / 256
    found = evaluate(document)
    assert found.timing.needed_delay_s == pytest.approx(0.02 - 0.0554)
    assert found.margin("timing").says == "late by 35.4 ms, 49.9 cm on"
    assert "it seldom lands (late by 35.4 ms" in found.sentence
    assert found.timing.offset_m == pytest.approx(9 * 0.0354)


def test_what_comes_late_at_the_camera_is_nearer_than_the_focus(document) -> None:
    """Approaching: near limit; going away: far limit. The right sign, by the normal distribution."""
    document["camera"]["lag_jitter_s"] = 0.02
    document["lights"][0]["power"] = 1 / 256
    for angle in (0, 180):
        motion = {
            "kind": "steady",
            "speed_m_s": 9.0,
            "speed_sd_m_s": 0.0,
            "angle_deg": angle,
            "off_axis_mm": 0.0,
        }
        late = changed(document, {"motion": motion, "moment": {"at_s": 0.0}})
        found = evaluate(late)
        near, far = found.framing.depth_near_m, found.framing.depth_far_m
        room = (4 - near) if angle == 0 else (far - 4)
        by_hand = norm.cdf((room / 9 - 0.0554) / 0.02) - norm.cdf(
            (-(far - near - room) / 9 - 0.0554) / 0.02
        )
        assert found.timing.share_in_focus == pytest.approx(by_hand, abs=2e-3)
        assert found.timing.share_in_frame == 1.0


def test_falls_are_measured_against_the_height_of_the_frame_and_begin_at_rest(
    document,
) -> None:
    document["motion"] = {"kind": "fall", "height_m": 0.3, "speed_sd_m_s": 0.0}
    document["trigger"] = {
        "fires": "flash",
        "latency_s": 0.0001,
        "set_delay_s": 0.24727,
        "links": [{"kind": "valve", "lag_s": 0.0, "jitter_s": 0.05}],
    }
    document["exposure"].update(method="open_shutter", shutter_s=1.0)
    found = evaluate(document)
    assert found.timing.wanted_s == pytest.approx(math.sqrt(0.6 / 9.80665))
    tries = 0.24737 + 0.05 * np.random.default_rng(5).standard_normal(400_000)
    away = 9.80665 / 2 * np.maximum(tries, 0) ** 2 - 0.3
    assert found.timing.share_in_frame == pytest.approx(
        np.mean(np.abs(away) <= found.framing.field_height_m / 2), abs=4e-3
    )
    assert found.timing.position_sd_m == pytest.approx(np.std(away), rel=0.01)


def test_the_apex_of_a_leap_is_missed_with_jitter_and_with_being_late(document) -> None:
    """Slow enough while g |Δt + t/2| m t ≤ c, by the normal distribution."""
    document["motion"] = {"kind": "leap", "rise_m": 0.6, "from_apex_s": 0.0}
    document["lights"][0]["power"] = 1.0
    document["trigger"]["links"] = [
        {
            "kind": "finger",
            "name": "Finger",
            "way": "anticipates",
            "lag_s": -0.0554,
            "jitter_s": 0.02,
            "lag_provenance": "measured",
            "lags_s": [-0.0554, -0.0554],
        }
    ]
    document["moment"] = {"at_s": 0.0}
    timely = evaluate(document)
    fastest = 12e-6 / (0.05 / 3.95) / timely.stopping_s
    window, middle = fastest / 9.80665, timely.stopping_s / 2
    sigma = math.hypot(0.02, 0.002)
    by_hand = norm.cdf((window - middle) / sigma) - norm.cdf((-window - middle) / sigma)
    assert timely.timing.share_slow_enough == pytest.approx(by_hand, abs=2e-3)
    late = evaluate(
        changed(
            document, {"trigger.links[0].way": "reacts", "trigger.links[0].lag_s": 0.2}
        )
    )
    assert late.timing.share_slow_enough < 0.01, (
        "a leap that is caught a quarter of a second late has lost its apex"
    )


def test_the_whole_extent_must_be_in_the_frame(document) -> None:
    document["moment"] = {"at_s": 0.0554}
    width = evaluate(document).framing.field_width_m
    for extent, share in ((width * 0.99, 0.556), (width * 1.01, 0.0), (0.0, 1.0)):
        found = evaluate(changed(document, {"subject.extent_m": extent})).timing
        slack = max(width - extent, 0) / 2 / (9 * 0.002)
        assert found.share_in_frame == pytest.approx(
            2 * norm.cdf(slack) - 1 if extent < width else 0.0, abs=2e-3
        )
        assert found.share_in_frame == pytest.approx(share, abs=0.02)
