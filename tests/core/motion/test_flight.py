"""Falls and throws against closed forms, a plain stepper, CoolProp's air, and drag's own limit."""

import math
from typing import Any

import pytest
from scipy.integrate import quad

from rapzel.core.motion import flight, kinematics
from rapzel.core.motion.flight import Sphere, fly
from rapzel.core.shared.errors import OutOfRange
from rapzel.core.tools import TOOLS, ask

G = 9.80665


def test_air_against_coolprop(coolprop: Any) -> None:
    assert coolprop.PropsSI("D", "T", 293.15, "P", 101325, "Air") == pytest.approx(
        flight.AIR_KG_M3, rel=1e-3
    )
    assert coolprop.PropsSI("V", "T", 293.15, "P", 101325, "Air") == pytest.approx(
        flight.AIR_PA_S, rel=5e-3
    )
    assert coolprop.PropsSI("D", "T", 293.15, "P", 101325, "Water") == pytest.approx(
        998.2, rel=1e-3
    )


@pytest.mark.parametrize("height_m", [0.2, 2.0, 30.0])
def test_without_drag_it_is_a_parabola(height_m: float) -> None:
    way = fly(height_m, 3.0, 2.0, None)
    lands = (3 + math.sqrt(9 + 2 * G * height_m)) / G
    assert way.lands_s == pytest.approx(lands)
    assert way.along_m[-1] == pytest.approx(2 * lands)
    assert way.apex_s == pytest.approx(3 / G)
    assert way.at(3 / G)[1] == pytest.approx(height_m + 9 / 2 / G, rel=1e-4)
    assert fly(height_m, 0.0, 0.0, None).lands_s == pytest.approx(
        kinematics.fall_time_s(height_m)
    )


def test_a_heavy_ball_falls_by_quadratic_drag() -> None:
    """At Reynolds numbers above a thousand the drag coefficient is constant, and the closed form holds."""
    ball = Sphere(0.0427, 0.0459)
    found = fly(60.0, 0.0, 0.0, ball)
    assert found.lands_s == pytest.approx(
        kinematics.fall_time_s(60.0, ball.terminal_m_s), rel=1e-3
    )
    assert found.speed_m_s[-1] == pytest.approx(
        kinematics.fall_speed_m_s(60.0, ball.terminal_m_s), rel=1e-3
    )


def test_a_small_drop_against_an_integral_over_its_speed() -> None:
    """One dimension, drag with its own Reynolds number: t = ∫ dv / a(v), by another rule than the flight's."""
    drop = Sphere(0.001, 998.2 * math.pi / 6 * 0.001**3)

    def slowing(v: float) -> float:
        reynolds = 1.2041 * v * 0.001 / 1.813e-5
        coefficient = (
            24 / reynolds * (1 + 0.15 * reynolds**0.687) if reynolds <= 1000 else 0.44
        )
        return coefficient * 1.2041 * math.pi / 4 * 0.001**2 * v * v / 2 / drop.mass_kg

    speed = 3.0
    pull = G * (1 - 1.2041 / 998.2)
    expected, _ = quad(lambda v: 1 / (pull - slowing(max(v, 1e-9))), 0, speed)
    way = fly(3.0, 0.0, 0.0, drop)
    reached = float(way.time_s[(way.speed_m_s >= speed).argmax()])
    assert reached == pytest.approx(expected, abs=way.lands_s / 200)
    assert slowing(drop.terminal_m_s) == pytest.approx(pull, rel=1e-6)


def test_stokes_is_the_limit_of_small_spheres() -> None:
    """Creeping flow: v = g d² ρ / 18 μ, less the air's lift (Stokes 1851)."""
    mist = Sphere(1e-5, 998.2 * math.pi / 6 * 1e-15)
    assert mist.terminal_m_s == pytest.approx(
        G * 1e-10 * (998.2 - 1.2041) / 18 / 1.813e-5, rel=0.01
    )


def test_a_throw_against_a_plain_stepper() -> None:
    ball = Sphere(0.0427, 0.0459)
    x, y, u, w, dt = 0.0, 1.5, 12.0, 9.0, 2e-5
    time = 0.0
    while y > 0:
        v = math.hypot(u, w)
        drag = 0.44 * 1.2041 * math.pi / 4 * 0.0427**2 * v / 2 / 0.0459
        x, y, u, w = (
            x + u * dt,
            y + w * dt,
            u - drag * u * dt,
            w - (ball.weight_m_s2 + drag * w) * dt,
        )
        time += dt
    way = fly(1.5, 9.0, 12.0, ball)
    assert way.lands_s == pytest.approx(time, rel=1e-3)
    assert way.along_m[-1] == pytest.approx(x, rel=1e-3)


def test_the_tool_counts_from_release_or_impact() -> None:
    asked = {"release_m": 1.25, "wanted_m": 0.0, "lag_s": 0.01}
    found = ask(TOOLS["flight"], asked)
    assert found["delay_s"] == pytest.approx(math.sqrt(2 * 1.25 / G) - 0.01)
    late = ask(TOOLS["flight"], {**asked, "wanted_m": 0.2, "event": "impact"})
    before = math.sqrt(2 * 1.25 / G) - math.sqrt(2 * 1.05 / G)
    assert late["delay_s"] is None
    assert late["too_late_s"] == pytest.approx(before + 0.01, rel=1e-3)
    never = ask(TOOLS["flight"], {**asked, "wanted_m": 2.0, "leg": "up"})
    assert never["wanted_s"] is None
    spread = ask(TOOLS["flight"], {**asked, "release_sd_m": 0.05})
    # d t / d h = 1 / √(2 g h), to first order
    assert spread["spread_s"] == pytest.approx(0.05 / math.sqrt(2 * G * 1.25), rel=0.03)


def test_what_cannot_fall_is_refused() -> None:
    with pytest.raises(OutOfRange, match="must be more than that of the air"):
        Sphere(0.3, 1e-4)
    with pytest.raises(OutOfRange, match="diameter_m is 0"):
        Sphere(0.0, 1.0)
