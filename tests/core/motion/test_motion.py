import math

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from rapzel.core.motion import (
    KINDS,
    Fall,
    Leap,
    Measured,
    Rotation,
    Steady,
    Swing,
    Trajectory,
    kinematics,
    presets,
)
from rapzel.core.motion.trajectory import path_length, time_for
from rapzel.core.shared.errors import OutOfRange

G = 9.80665


def test_free_fall_by_hand() -> None:
    # 4.43 m/s after a metre
    assert kinematics.fall_speed_m_s(1.0) == pytest.approx(math.sqrt(2 * G))
    # scaling
    assert kinematics.fall_speed_m_s(4.0) == pytest.approx(
        2 * kinematics.fall_speed_m_s(1.0)
    )
    assert kinematics.fall_speed_m_s(0) == 0
    # √(2 · 0.3 / 9.80665)
    assert kinematics.fall_time_s(0.3) == pytest.approx(0.2473, abs=1e-4)
    with pytest.raises(OutOfRange, match="height_m is -1, but must be 0 or more"):
        kinematics.fall_speed_m_s(-1)


@pytest.mark.parametrize(
    ("height_m", "terminal_m_s"), [(0.5, 9.0), (5.0, 9.0), (40.0, 9.0), (2.0, 50.0)]
)
def test_fall_with_drag_against_the_equation_of_motion(
    height_m: float, terminal_m_s: float
) -> None:
    """scipy.integrate solves dv/dt = g − g (v / v_t)² until the height is fallen."""

    def fallen(_t: float, state: np.ndarray) -> list[float]:
        return [state[1], G - G * (state[1] / terminal_m_s) ** 2]

    class AtHeight:
        terminal = True

        def __call__(self, _t: float, state: np.ndarray) -> float:
            return float(state[0] - height_m)

    solved = solve_ivp(
        fallen, (0, 60), [0, 0], events=AtHeight(), rtol=1e-9, atol=1e-10
    )
    assert kinematics.fall_speed_m_s(height_m, terminal_m_s) == pytest.approx(
        solved.y_events[0][0][1], rel=1e-6
    )
    seconds = solved.t_events[0][0]
    assert kinematics.fall_time_s(height_m, terminal_m_s) == pytest.approx(
        seconds, rel=1e-6
    )
    assert float(kinematics.fallen_m(seconds, terminal_m_s)) == pytest.approx(
        height_m, rel=1e-6
    )
    assert float(kinematics.falling_m_s(seconds, terminal_m_s)) == pytest.approx(
        solved.y_events[0][0][1], rel=1e-6
    )


def test_drag_vanishes_for_a_very_high_terminal_speed() -> None:
    assert kinematics.fall_speed_m_s(1.0, 1e4) == pytest.approx(
        kinematics.fall_speed_m_s(1.0), rel=1e-6
    )


def test_pendulum_at_a_right_angle_falls_its_length() -> None:
    assert kinematics.pendulum_speed_m_s(2.0, 90) == pytest.approx(
        kinematics.fall_speed_m_s(2.0)
    )
    assert kinematics.pendulum_speed_m_s(2.0, 180) == pytest.approx(
        kinematics.fall_speed_m_s(4.0)
    )


@pytest.mark.parametrize("release_deg", [10.0, 60.0, 150.0])
@pytest.mark.parametrize("phase_deg", [0.0, 90.0])
def test_a_swing_of_any_amplitude_against_the_equation_of_motion(
    release_deg: float, phase_deg: float
) -> None:
    """scipy.integrate solves L θ″ = −g sin θ from the lowest point, or from rest at the turning point."""
    length, times = 1.7, np.linspace(0, 2.5, 40)
    alpha = math.radians(release_deg)
    start = (
        [0.0, kinematics.pendulum_speed_m_s(length, release_deg) / length]
        if phase_deg == 0
        else [alpha, 0.0]
    )

    def swinging(_t: float, state: np.ndarray) -> list[float]:
        return [state[1], -G / length * math.sin(state[0])]

    solved = solve_ivp(swinging, (0, 2.5), start, t_eval=times, rtol=1e-10, atol=1e-12)
    angle, rate = kinematics.pendulum(times, length, math.sin(alpha / 2), phase_deg)
    assert angle == pytest.approx(solved.y[0], abs=1e-6)
    assert rate == pytest.approx(solved.y[1], abs=1e-6)


MOTIONS = [
    (Steady(speed_m_s=9.0), 9.0),
    (Fall(height_m=1.0), 4.4287),
    (Fall(height_m=1.0, terminal_m_s=5.0), 3.6868),
    (Leap(rise_m=0.5, from_apex_s=0.1), 0.980665),
    (Leap(rise_m=0.5, from_apex_s=0.1, horizontal_m_s=3.0), math.hypot(3, 0.980665)),
    (
        Rotation(radius_m=0.5, rpm=60.0, phase_deg=40.0),
        math.pi,
    ),  # once around 2π · 0.5 m in a second
    (Swing(length_m=2.0, angle_from_rest_deg=90.0), 6.2631),
    (Measured(distance_m=0.2, interval_s=0.02), 10.0),
    (Measured(speed_m_s=12.0), 12.0),
]
SAID = [f"{motion.kind}-{place}" for place, (motion, _) in enumerate(MOTIONS)]


@pytest.mark.parametrize(("motion", "speed"), MOTIONS, ids=SAID)
def test_every_kind_keeps_the_contract_of_a_trajectory(motion, speed: float) -> None:
    """At the event it is where it is; velocity is the change of place; the speed is the formula's; g only bends it."""
    wanted = motion.natural_s(0.0) or 0.0
    trajectory = Trajectory(motion, wanted)
    assert trajectory.wanted_speed_m_s == pytest.approx(speed, rel=1e-4)
    assert [float(part) for part in trajectory.place_m(0.0)] == pytest.approx(
        [0, 0, 0], abs=1e-12
    )
    times = np.linspace(0.02, 0.3, 9)
    for extra in (0.0, 0.3):
        before, after = (
            trajectory.place_m(times + step, extra) for step in (-1e-6, 1e-6)
        )
        velocity = trajectory.velocity_m_s(times, extra)
        for then, now, rate in zip(before, after, velocity, strict=True):
            changed = (
                np.broadcast_to(now, times.shape) - np.broadcast_to(then, times.shape)
            ) / 2e-6
            assert changed == pytest.approx(
                np.broadcast_to(rate, times.shape), abs=2e-3
            )
    size = np.sqrt(
        sum(
            np.square(np.broadcast_to(part, times.shape))
            for part in trajectory.velocity_m_s(times)
        )
    )
    assert np.broadcast_to(trajectory.speed_m_s(times), times.shape) == pytest.approx(
        size
    )
    faster = float(trajectory.speed_m_s(wanted, 0.3))
    assert faster >= speed - 1e-9
    assert motion.formula()
    assert motion.title
    assert KINDS[motion.kind] is type(motion)


def test_every_kind_begins_with_figures_that_it_takes() -> None:
    for kind, motion in KINDS.items():
        assert motion.model_validate({"kind": kind, **motion.beginning}).kind == kind


def test_turning_and_swinging_parts_stay_within_their_radius() -> None:
    times = np.linspace(0, 20, 5000)
    turning = Trajectory(Rotation(radius_m=0.4, rpm=333.0), 0.0).place_m(times)
    assert np.hypot(turning.across, turning.up).max() <= 0.8 + 1e-9
    swinging = Trajectory(Swing(length_m=2.0, angle_from_rest_deg=30.0), 0.0).place_m(
        times
    )
    assert np.abs(swinging.across).max() == pytest.approx(
        2 * math.sin(math.radians(30)), rel=1e-4
    )


def test_a_fall_begins_at_rest_and_a_beam_counts_by_the_fall() -> None:
    """0.5 m with a beam 0.3 m above: √(2·0.5/g) − √(2·0.2/g) = 117 ms, not 0.3 m over the final 3.13 m/s = 96 ms."""
    fall = Fall(height_m=0.5)
    due = fall.natural_s(0.3)
    assert due == pytest.approx(math.sqrt(1 / G) - math.sqrt(0.4 / G))
    assert float(Trajectory(fall, due).place_m(due).up) == pytest.approx(-0.3)
    released = Trajectory(fall, fall.natural_s(0.0))
    assert float(released.place_m(-1.0).up) == 0
    assert float(released.speed_m_s(0.0)) == 0


def test_a_direction_turns_places_into_the_cameras_axes() -> None:
    towards = Trajectory(Steady(speed_m_s=2.0, angle_deg=0.0), 0.0).place_m(0.5)
    assert [float(part) for part in towards] == pytest.approx([0, 0, 1.0])
    oblique = Trajectory(Steady(speed_m_s=2.0, angle_deg=150.0), 0.0).place_m(0.5)
    assert float(oblique.across) == pytest.approx(0.5)  # sin 150° = ½
    assert float(oblique.towards) == pytest.approx(-math.cos(math.radians(30)))
    leap = Trajectory(Leap(rise_m=1.0, horizontal_m_s=2.0, angle_deg=0.0), 0.0).place_m(
        0.2
    )
    assert float(leap.up) == pytest.approx(-G / 2 * 0.04)
    assert float(leap.towards) == pytest.approx(0.4)


def test_ways_are_integrals_of_the_speed() -> None:
    leap = Trajectory(Leap(rise_m=1.0), 0.0)
    # half a second about the apex: 0.61 m
    assert leap.way_m(-0.25, 0.25) == pytest.approx(G * 0.25**2, rel=2e-3)
    assert path_length(lambda time: 3.0 + 0 * time, 1.0, 2.5) == pytest.approx(4.5)
    assert time_for(lambda time: 2 * time, 5.0, 1.0) == pytest.approx(2.5, rel=1e-5)
    assert math.isinf(time_for(lambda time: 0 * time, 5.0, 1.0))


def test_a_leap_is_in_the_air_for_both_falls() -> None:
    # √(2 · 0.5 / 9.80665)
    assert kinematics.time_in_the_air_s(0.5) == pytest.approx(0.3193, abs=1e-4)


def test_usual_speeds_have_a_range_a_source_and_an_order() -> None:
    assert (
        len({each.name for each in presets.USUAL_SPEEDS})
        == len(presets.USUAL_SPEEDS)
        > 10
    )
    for each in presets.USUAL_SPEEDS:
        assert each.source in each.says
        assert f"{each.high_m_s:g} m/s" in each.says
    with pytest.raises(OutOfRange, match="usual_m_s is 9, but must be between 1 and 5"):
        presets.UsualSpeed("Snail", 1, 9, 5)
