import math

import numpy as np
import pytest
from CoolProp.CoolProp import PropsSI
from scipy.stats import norm

from rapzel.core.document.places import changed
from rapzel.core.evaluate import evaluate
from rapzel.core.trigger import chain


@pytest.mark.parametrize("celsius", [-20, 0, 10, 20, 35])
def test_speed_of_sound_against_coolprop(celsius: float) -> None:
    """Dry air at 101 325 Pa; the ideal-gas form is within 0.1 % of CoolProp's equation of state."""
    published = PropsSI("A", "T", celsius + 273.15, "P", 101325, "Air")
    assert chain.speed_of_sound_m_s(celsius) == pytest.approx(published, rel=1e-3)


def test_sound_takes_three_milliseconds_a_metre() -> None:
    assert 1 / chain.speed_of_sound_m_s(20) == pytest.approx(0.0029, abs=5e-5)  # common practice


def test_lags_add_up(document) -> None:
    document["trigger"].update(
        links=[
            {"name": "Microphone", "kind": "sound", "lag_s": 0.0002, "distance_m": 1.0, "temperature_c": 20.0},
            {"name": "Unit", "lag_s": 0.001},
        ],
        set_delay_s=0.01,
    )
    found = evaluate(document).timing
    expected = 0.0002 + 1 / chain.speed_of_sound_m_s(20) + 0.001 + 0.055 + 0.0004 + 0.01
    assert found.flash_after_event_s == pytest.approx(expected)
    assert evaluate(changed(document, {"trigger.fires": "flash"})).timing.flash_after_event_s == pytest.approx(
        expected - 0.055
    )


def test_jitter_is_the_root_of_the_sum_of_squares_and_a_simulation_agrees() -> None:
    lags = [
        chain.Lag("a", 0.1, 0.003),
        chain.Lag("b", 0.1, 0.004),
        chain.Lag("c", 0.1, 0.012 / math.sqrt(3), uniform=True),
    ]
    by_hand = math.sqrt(0.003**2 + 0.004**2 + 0.012**2 / 3)
    assert chain.total_jitter_s(lags) == pytest.approx(by_hand)
    drawn = chain.simulated_errors_s(lags)
    assert np.std(drawn) == pytest.approx(by_hand, rel=0.03)  # 8192 draws: 0.8 % standard error, thrice over
    assert abs(np.mean(drawn)) < by_hand * 0.04


def test_a_uniform_link_gives_its_half_width(document) -> None:
    document["trigger"]["links"] = [{"name": "Poll", "jitter_s": 0.01, "jitter_shape": "uniform"}]
    document["camera"]["lag_jitter_s"] = 0
    assert evaluate(document).timing.jitter_s == pytest.approx(0.01 / math.sqrt(3))


def test_places_spread_by_speed_and_by_time(document) -> None:
    """σ_x² = (t_lag σ_v)² + (v σ_t)²."""
    document["motion"]["speed_sd_m_s"] = 0.5
    found = evaluate(document).timing
    assert found.position_sd_m == pytest.approx(math.hypot(0.0554 * 0.5, 9 * 0.002))


def test_share_in_frame_against_the_normal_distribution(document) -> None:
    document["camera"]["lag_jitter_s"] = 0.2
    found = evaluate(document)
    half, spread = found.framing.field_width_m / 2, 9 * 0.2
    assert found.timing.share_in_frame == pytest.approx(norm.cdf(half / spread) - norm.cdf(-half / spread))
    assert not evaluate(changed(document, {"motion.speed_m_s": 40.0})).margin("timing").passes


def test_a_beam_upstream_tells_the_delay_that_is_needed(document) -> None:
    document["trigger"].update(
        fires="flash", links=[{"name": "Beam", "kind": "beam", "lag_s": 0.0001, "distance_m": 0.9}]
    )
    found = evaluate(document).timing
    assert found.needed_delay_s == pytest.approx(0.9 / 9 - 0.0001 - 0.0004)
    on_time = evaluate(changed(document, {"trigger.set_delay_s": found.needed_delay_s})).timing
    assert on_time.offset_m == pytest.approx(0, abs=1e-9)


def test_too_late_is_said_with_by_how_much(document) -> None:
    document["trigger"]["wanted_delay_s"] = 0.02
    found = evaluate(document)
    assert found.timing.needed_delay_s == pytest.approx(0.02 - 0.0554)
    assert found.margin("timing").says == "late by 35.4 ms"
    assert found.timing.offset_m == pytest.approx(9 * 0.0354)


def test_movement_at_the_camera_leaves_the_focus_and_not_the_frame(document) -> None:
    document["motion"]["angle_deg"] = 0
    document["camera"]["lag_jitter_s"] = 0.2
    found = evaluate(document).timing
    assert found.share_in_frame == 1.0
    assert found.share_in_focus < 0.95


def test_falls_are_measured_against_the_height_of_the_frame(document) -> None:
    document["motion"] = {"kind": "fall", "height_m": 4.13}  # 9 m/s
    document["camera"]["lag_jitter_s"] = 0.2
    found = evaluate(document)
    half, spread = found.framing.field_height_m / 2, found.speed_m_s * 0.2
    assert found.timing.share_in_frame == pytest.approx(2 * norm.cdf(half / spread) - 1)


def test_the_apex_of_a_leap_is_missed_more_often_with_more_jitter(document) -> None:
    document["motion"] = {"kind": "leap", "rise_m": 0.6, "from_apex_s": 0.0}
    document["lights"][0]["power"] = 1.0
    document["trigger"]["links"] = [{"name": "Finger", "lag_s": 0.2, "jitter_s": 0.02}]
    steady = evaluate(document).timing
    window = 2 * (12e-6 / (0.05 / 3.95) / evaluate(document).stopping_s) / 9.80665
    sigma = math.hypot(0.02, 0.002)
    assert steady.share_in_window == pytest.approx(2 * norm.cdf(window / 2 / sigma) - 1, abs=0.02)
    document["trigger"]["links"][0]["jitter_s"] = 0.06
    assert evaluate(document).timing.share_in_window < steady.share_in_window
