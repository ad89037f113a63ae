"""The jet from frames, against a plain stepper, against repeated noisy frames, and its own outliers."""

import numpy as np
import pytest

from rapzel.core.drops.jet import Jet, NoJet, fit_jet
from rapzel.core.drops.sizes import NoSizes, calibrated, diameter_m
from tests.core.drops.plain import tip_m

DELAYS = (0.335, 0.35, 0.37, 0.39, 0.41, 0.43, 0.45, 0.47)


def _frames(
    rng: np.random.Generator, count: int, sd_m: float
) -> list[tuple[float, float]]:
    tip = tip_m(0.31, 1.25)
    return [(at, max(tip(at) + rng.normal(0, sd_m), 0.0)) for at in DELAYS[:count]]


def test_two_frames_give_the_jet_that_was_stepped() -> None:
    tip = tip_m(0.31, 1.25)
    found = fit_jet([(0.35, tip(0.35)), (0.42, tip(0.42))])
    assert found.jet.launch_s == pytest.approx(0.31, abs=1e-5)
    assert found.jet.speed_m_s == pytest.approx(1.25, abs=1e-4)
    assert found.jet.sd_m is None  # two frames say nothing of how much jets differ
    assert found.jet.launch_sd_s is None
    assert found.doubt_m(0.4) is None
    assert found.left_out is None


def test_heights_and_times_of_a_jet_go_both_ways() -> None:
    jet = Jet(0.3, 1.4)
    for height in (0.0, 0.03, 0.099):
        for falling in (False, True):
            there = jet.reaches_s(height, falling)
            assert there is not None
            assert jet.height_m(there) == pytest.approx(height, abs=1e-9)
            assert (jet.rising_m_s(there) < 0) is falling
    assert jet.reaches_s(0.2) is None
    assert jet.height_m(0.29) == 0
    assert jet.height_m(jet.falls_back_s + 0.01) == 0
    assert jet.height_m(jet.apex_s) == pytest.approx(jet.apex_m)


@pytest.mark.parametrize("count", [3, 4, 6, 8])
def test_its_doubts_hold_the_truth_as_often_as_they_say(count: int) -> None:
    """Of 600 mornings with noisy frames about two thirds have launch, speed and height within one stated deviation."""
    rng, within, days = np.random.default_rng(count), np.zeros(3), 600
    truth = tip_m(0.31, 1.25)(0.4)
    for _ in range(days):
        found = fit_jet(_frames(rng, count, 0.0015))
        jet, doubt = found.jet, found.doubt_m(0.4)
        assert jet.launch_sd_s is not None
        assert jet.speed_sd_m_s is not None
        assert doubt is not None
        within += [
            abs(jet.launch_s - 0.31) <= jet.launch_sd_s,
            abs(jet.speed_m_s - 1.25) <= jet.speed_sd_m_s,
            abs(jet.height_m(0.4) - truth) <= doubt,
        ]
    assert within / days == pytest.approx([0.683] * 3, abs=0.08)


def test_another_jets_frame_is_named_and_left_out() -> None:
    rng = np.random.default_rng(5)
    frames = _frames(rng, 6, 0.0008)
    frames[3] = (frames[3][0], frames[3][1] + 0.02)
    found = fit_jet(frames)
    assert found.left_out == 3
    assert found.off_m[3] == pytest.approx(0.02, abs=0.004)
    assert found.jet.speed_m_s == pytest.approx(1.25, abs=0.02)


def test_good_frames_are_seldom_called_another_jets() -> None:
    rng = np.random.default_rng(6)
    named = sum(
        fit_jet(_frames(rng, 6, 0.0015)).left_out is not None for _ in range(500)
    )
    assert named / 500 < 0.04


def test_of_three_frames_none_can_be_named() -> None:
    frames = _frames(np.random.default_rng(7), 3, 0.0)
    frames[1] = (frames[1][0], frames[1][1] + 0.02)
    found = fit_jet(frames)
    assert found.left_out is None
    assert found.jet.sd_m is not None
    assert found.jet.sd_m > 0.004  # and says how badly they agree


@pytest.mark.parametrize("frames", [[(0.3, 0.01)], [(0.3, 0.01), (0.3, 0.02)]])
def test_too_few_frames_are_refused(frames: list[tuple[float, float]]) -> None:
    with pytest.raises(NoJet, match="two or more frames at different delays"):
        fit_jet(frames)


def test_sizes_from_weighed_drops() -> None:
    """Two weighings are a line: 20 mg more for 10 ms more; 32 mg of water are 3.94 mm across (V = π d³/6)."""
    opening = calibrated([(0.03, 50, 0.0006), (0.04, 100, 0.0032)])
    assert opening.rate_kg_s == pytest.approx(0.002)
    assert opening.dead_s == pytest.approx(0.024)
    assert opening.mass_kg(0.05) == pytest.approx(52e-6)
    assert opening.open_s(52e-6) == pytest.approx(0.05)
    assert opening.mass_kg(0.01) == 0
    assert opening.sd_kg is None
    assert diameter_m(32e-6, 998.2) == pytest.approx(0.003941, rel=1e-3)


def test_weighings_that_say_less_for_longer_are_refused() -> None:
    with pytest.raises(NoSizes, match="open for longer"):
        calibrated([(0.03, 50, 0.003), (0.04, 50, 0.001)])
    with pytest.raises(NoSizes, match="two or more open times"):
        calibrated([(0.03, 50, 0.003), (0.03, 50, 0.001)])


@pytest.mark.parametrize("count", [4, 5, 6])
def test_a_frame_off_by_ten_deviations_is_named_even_among_four(count: int) -> None:
    """Two hundred mornings: frames of one rig that differ by a millimetre, and one that is a centimetre off."""
    rng = np.random.default_rng(count)
    named = 0
    for _ in range(200):
        frames = _frames(rng, count, 0.001)
        odd = int(rng.integers(count))
        time_s, height_m = frames[odd]
        frames[odd] = (time_s, height_m + 0.01 * float(rng.choice([-1, 1])))
        try:
            named += fit_jet(frames).left_out == odd
        except NoJet:
            named += 1  # refused as one of another jet
    assert named >= 120
