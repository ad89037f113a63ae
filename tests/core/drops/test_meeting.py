"""The meeting against a search that steps both drops plainly, and its spread against drawn tries of another make."""

import numpy as np
import pytest

from rapzel.core.drops.asked import Drops
from rapzel.core.drops.plan import met, planned
from rapzel.core.tools import TOOLS, ask
from tests.core.drops.plain import STEP_S, G, falls, meets, tip_m

TOOL = TOOLS["drops"]


@pytest.mark.parametrize(
    ("valve_m", "second_m", "diameter_m", "launch_s", "speed_m_s", "wanted_m"),
    [
        (0.30, None, None, 0.31, 1.2, 0.05),
        (0.30, None, 0.004, 0.31, 1.2, 0.06),
        (0.55, 0.40, 0.003, 0.41, 1.5, 0.08),
        (0.20, 0.35, 0.0025, 0.26, 0.9, 0.03),
    ],
)
def test_the_second_release_against_a_search(
    valve_m: float,
    second_m: float | None,
    diameter_m: float | None,
    launch_s: float,
    speed_m_s: float,
    wanted_m: float,
) -> None:
    """Every release in steps of 0.1 ms is tried; the best of them meets no nearer to the wanted height."""
    found = ask(
        TOOL,
        {
            "valve_height_m": valve_m,
            "second_valve_height_m": second_m,
            "diameter_m": diameter_m,
            "liquid": "water",
            "jet": {"launch_s": launch_s, "speed_m_s": speed_m_s},
            "meet_height_m": wanted_m,
            "resolution_s": 0.0001,
        },
    )
    drop, tip = falls(second_m or valve_m, diameter_m), tip_m(launch_s, speed_m_s)
    tried = {}
    for step in range(-40, 41):
        release = round(found["second_release_s"] + step * 1e-4, 6)
        height = meets(release, drop, tip)
        if height is not None:
            tried[release] = height
    best = min(tried, key=lambda release: abs(tried[release] - wanted_m))
    assert found["second_release_s"] == pytest.approx(best, abs=1.01e-4)
    assert found["meet_height_m"] == pytest.approx(
        tried[found["second_release_s"]], abs=1e-4
    )
    assert found["impact_s"] == pytest.approx(
        len(falls(valve_m, diameter_m)) * STEP_S, abs=1e-4
    )
    assert found["flash_s"] == pytest.approx(found["meet_s"], abs=0.51e-4)


def test_a_meeting_on_the_jets_way_back() -> None:
    asked = {
        "valve_height_m": 0.3,
        "jet": {"launch_s": 0.31, "speed_m_s": 1.2},
        "meet_height_m": 0.05,
    }
    up, down = ask(TOOL, asked), ask(TOOL, {**asked, "leg": "falling"})
    assert down["meet_s"] > up["meet_s"]
    assert down["meet_s"] - 0.31 == pytest.approx(
        (1.2 + (1.44 - 2 * G * 0.05) ** 0.5) / G
    )
    assert down["meet_height_m"] == pytest.approx(0.05)


def test_its_spread_against_tries_drawn_another_way() -> None:
    """Releases, jets and steps drawn by themselves, every meeting found by stepping: height, time and share agree."""
    asked = Drops.model_validate(
        {
            "valve_height_m": 0.3,
            "jet": {"launch_s": 0.31, "speed_m_s": 1.2},
            "meet_height_m": 0.05,
            "resolution_s": 0.001,
            "valve_sd_s": 0.0008,
            "jets_sd_m": 0.0015,
            "aside_sd_m": 0.0012,
            "diameter_m": 0.004,
            "lasts_s": 0.003,
        }
    )
    plan = planned(asked)
    assert plan.spread is not None
    assert plan.solved is not None
    rng, tries = np.random.default_rng(1), 40_000
    off = rng.normal(0, 0.0008, tries) + rng.uniform(-5e-4, 5e-4, tries)
    release = plan.solved.second_release_s + off
    launch = 0.31 + rng.normal(0, 0.0008, tries)
    higher = rng.normal(0, 0.0015, tries)
    drop = np.array(falls(0.3, 0.004))
    times = np.arange(len(drop)) * STEP_S
    low, high = np.full(tries, 0.33), np.full(tries, 0.43)
    for _ in range(40):  # halving: above the tip before they meet, below it after
        at = (low + high) / 2
        since = at - launch
        above = (
            np.interp(at - release, times, drop)
            > 1.2 * since - G * since**2 / 2 + higher
        )
        low, high = np.where(above, at, low), np.where(above, high, at)
    height = np.interp(at - release, times, drop)
    light = plan.flash_s + rng.uniform(-5e-4, 5e-4, tries)
    timely = np.abs(light - at) <= 0.0015
    apart = np.hypot(
        *(rng.normal(0, 0.0012, (2, tries)) - rng.normal(0, 0.0012, (2, tries)))
    )
    assert plan.spread.height_sd_m == pytest.approx(height.std(), rel=0.03)
    assert plan.spread.time_sd_s == pytest.approx(at.std(), rel=0.03)
    assert plan.spread.timely == pytest.approx(timely.mean(), abs=0.01)
    assert plan.spread.touching == pytest.approx((apart <= 0.004).mean(), abs=0.01)
    assert plan.spread.hits == pytest.approx(
        (timely & (apart <= 0.004)).mean(), abs=0.015
    )


def test_near_the_top_of_the_jet_a_late_drop_hardly_moves_the_meeting() -> None:
    """Why the second drop is sent to the top: there the tip stands still, and only its own scatter counts."""
    asked = {
        "valve_height_m": 0.3,
        "jet": {"launch_s": 0.31, "speed_m_s": 1.2},
        "resolution_s": 0.002,
    }
    low = ask(TOOL, {**asked, "meet_height_m": 0.02})["meet_sd_m"]
    top = ask(TOOL, {**asked, "meet_height_m": 0.0733})["meet_sd_m"]
    assert top < low / 10


@pytest.mark.parametrize("seed", range(6))
def test_a_collision_solved_from_noisy_frames_of_another_integrator(seed: int) -> None:
    """Frames of a stepped jet, read to a millimetre or so, give a release that meets the true jet where it said."""
    rng = np.random.default_rng(seed)
    launch, speed = 0.30 + rng.uniform(0, 0.05), rng.uniform(1.1, 1.6)
    tip = tip_m(launch, speed)
    frames = [
        {
            "flash_delay_s": launch + after,
            "height_m": max(tip(launch + after) + rng.normal(0, 0.001), 0),
        }
        for after in (0.03, 0.05, 0.075, 0.095)
    ]
    found = ask(
        TOOL,
        {
            "valve_height_m": 0.3,
            "diameter_m": 0.004,
            "meet_height_m": 0.045,
            "observations": frames,
            "resolution_s": 0.0001,
            "valve_sd_s": 0.0003,
            "aside_sd_m": 0.0005,
        },
    )
    truly = meets(found["second_release_s"], falls(0.3, 0.004), tip)
    assert truly == pytest.approx(0.045, abs=0.003)
    assert abs(truly - 0.045) < 4 * found["meet_sd_m"] + 0.001
    assert found["jet"]["left_out"] is None
    assert found["share"] is not None
    assert not found["unknown"]


def test_drops_that_pass_each_other_do_not_meet() -> None:
    plan = planned(
        Drops.model_validate(
            {
                "valve_height_m": 0.3,
                "jet": {"launch_s": 0.31, "speed_m_s": 1.2},
                "meet_height_m": 0.05,
            }
        )
    )
    assert plan.jet is not None
    assert met(plan.jet, plan.second, 1.0) is None  # long after the jet has fallen back
    assert met(plan.jet, plan.second, 0.0) is None  # gone before it rises
