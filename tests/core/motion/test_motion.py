import math

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from rapzel.core.document import scene
from rapzel.core.motion import presets, speeds
from rapzel.core.shared.errors import OutOfRange


def test_free_fall_by_hand() -> None:
    assert speeds.fall_speed_m_s(1.0) == pytest.approx(math.sqrt(2 * 9.80665))  # 4.43 m/s after a metre
    assert speeds.fall_speed_m_s(4.0) == pytest.approx(2 * speeds.fall_speed_m_s(1.0))  # scaling
    assert speeds.fall_speed_m_s(0) == 0
    with pytest.raises(OutOfRange, match="height_m is -1, but must be 0 or more"):
        speeds.fall_speed_m_s(-1)


@pytest.mark.parametrize(("height_m", "terminal_m_s"), [(0.5, 9.0), (5.0, 9.0), (40.0, 9.0), (2.0, 50.0)])
def test_fall_with_drag_against_the_equation_of_motion(height_m: float, terminal_m_s: float) -> None:
    """scipy.integrate solves dv/dt = g − g (v / v_t)² until the height is fallen."""
    g = 9.80665

    def fallen(_t: float, state: np.ndarray) -> list[float]:
        return [state[1], g - g * (state[1] / terminal_m_s) ** 2]

    class AtHeight:
        terminal = True

        def __call__(self, _t: float, state: np.ndarray) -> float:
            return float(state[0] - height_m)

    solved = solve_ivp(fallen, (0, 60), [0, 0], events=AtHeight(), rtol=1e-9, atol=1e-10)
    assert speeds.fall_speed_m_s(height_m, terminal_m_s) == pytest.approx(solved.y_events[0][0][1], rel=1e-6)


def test_drag_vanishes_for_a_very_high_terminal_speed() -> None:
    assert speeds.fall_speed_m_s(1.0, 1e4) == pytest.approx(speeds.fall_speed_m_s(1.0), rel=1e-6)


def test_pendulum_at_a_right_angle_falls_its_length() -> None:
    assert speeds.pendulum_speed_m_s(2.0, 90) == pytest.approx(speeds.fall_speed_m_s(2.0))
    assert speeds.pendulum_speed_m_s(2.0, 180) == pytest.approx(speeds.fall_speed_m_s(4.0))


def test_apex_window_is_the_time_between_both_speeds() -> None:
    assert speeds.apex_window_s(0.980665) == pytest.approx(0.2)
    assert speeds.time_in_the_air_s(0.5) == pytest.approx(0.3193, abs=1e-4)  # √(2 · 0.5 / 9.80665)


@pytest.mark.parametrize(
    ("described", "speed"),
    [
        (scene.Steady(speed_m_s=9.0), 9.0),
        (scene.Fall(height_m=1.0), 4.4287),
        (scene.Leap(rise_m=0.5, from_apex_s=0.1), 0.980665),
        (scene.Rotation(radius_m=0.5, rpm=60.0), math.pi),  # once around 2π · 0.5 m in a second
        (scene.Swing(length_m=2.0, angle_from_rest_deg=90.0), 6.2631),
        (scene.Measured(distance_m=0.2, interval_s=0.02), 10.0),
        (scene.Measured(speed_m_s=12.0), 12.0),
    ],
    ids=lambda value: getattr(value, "kind", ""),
)
def test_every_kind_of_motion(described, speed: float) -> None:
    found, step = speeds.speed_of(described)
    assert found == pytest.approx(speed, rel=1e-4)
    assert (step.symbol, step.value, step.unit) == ("v", found, "m/s")


def test_every_kind_in_the_document_has_a_speed() -> None:
    kinds = {
        part.model_fields["kind"].default
        for part in (scene.Steady, scene.Fall, scene.Leap, scene.Rotation, scene.Swing, scene.Measured)
    }
    assert kinds == set(speeds.SPEEDS)


def test_usual_speeds_have_a_range_a_source_and_an_order() -> None:
    assert len({each.name for each in presets.USUAL_SPEEDS}) == len(presets.USUAL_SPEEDS) > 10
    for each in presets.USUAL_SPEEDS:
        assert each.source in each.says
        assert f"{each.high_m_s:g} m/s" in each.says
    with pytest.raises(OutOfRange, match="usual_m_s is 9, but must be between 1 and 5"):
        presets.UsualSpeed("Snail", 1, 9, 5)
