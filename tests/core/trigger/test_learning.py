"""Drills and logs: estimates against simulated people and against scipy's own intervals."""

import math

import numpy as np
import pytest
from scipy import stats

from rapzel.core.shared.errors import OutOfRange
from rapzel.core.trigger.drill import measure
from rapzel.core.trigger.learning import (
    Planned,
    from_counts,
    from_offsets,
    next_delay_s,
    plan_against_takes,
)


def test_a_drill_against_scipys_intervals() -> None:
    errors = np.random.default_rng(2).normal(0.03, 0.025, 12)
    found = measure(list(errors))
    low, high = stats.t.interval(0.9, 11, loc=errors.mean(), scale=stats.sem(errors))
    assert (found.bias_low_s, found.bias_high_s) == pytest.approx((low, high))
    assert found.spread_s == pytest.approx(errors.std(ddof=1))
    assert found.outliers == ()


def test_the_intervals_hold_the_truth_nine_times_of_ten() -> None:
    rng, bias, spread, runs = np.random.default_rng(3), 0.02, 0.03, 1500
    drills = [measure(list(rng.normal(bias, spread, 12))) for _ in range(runs)]
    held = np.mean([each.bias_low_s <= bias <= each.bias_high_s for each in drills])
    narrow = np.mean(
        [each.spread_low_s <= spread <= each.spread_high_s for each in drills]
    )
    assert held == pytest.approx(0.9, abs=0.04)
    assert narrow == pytest.approx(0.9, abs=0.05)


def test_a_slip_is_set_aside_and_told() -> None:
    found = measure(
        [0.01, 0.02, 0.0, 0.015, 0.01, 0.02, 0.005, 0.9, 0.01, 0.0, 0.02, 0.01]
    )
    assert found.outliers == (7,)
    assert found.counted == 11
    assert abs(found.bias_s) < 0.02


@pytest.mark.parametrize(
    "errors", [[0.1] * 4, [0.1, 0.2, math.nan, 0.1, 0.1], [3.0] * 12]
)
def test_what_is_no_drill_is_refused(errors: list[float]) -> None:
    with pytest.raises(OutOfRange):
        measure(errors)


def test_a_robots_finger_has_no_spread_and_no_outliers() -> None:
    assert measure([0.02] * 12).spread_s == pytest.approx(0.0, abs=1e-12)


@pytest.mark.parametrize("late_s", [-0.02, 0.0, 0.015])
def test_the_bias_is_found_again_from_counts(late_s: float) -> None:
    """A moment of 40 ms, a jitter of 15 ms, 400 tries: within three of the errors that it states."""
    errors = np.random.default_rng(5).normal(late_s, 0.015, 400)
    early, late = int(np.sum(errors < -0.02)), int(np.sum(errors > 0.02))
    found = from_counts(early, 400 - early - late, late, 0.04)
    assert found is not None
    assert found.late_s == pytest.approx(late_s, abs=3 * found.error_s)
    assert found.error_s < 0.004
    assert found.sure == (late_s != 0)


def test_counts_of_one_kind_leave_it_open() -> None:
    assert from_counts(0, 0, 9, 0.04) is None
    assert from_counts(1, 1, 0, 0.04) is None


def test_offsets_say_the_next_delay() -> None:
    found = from_offsets([0.010, 0.014, 0.012], None)
    assert found is not None
    assert found.late_s == pytest.approx(0.012)
    assert found.error_s == pytest.approx(0.002 / math.sqrt(3))
    assert next_delay_s(0.030, found, 0.001) == pytest.approx(0.018)
    # 18 ms in steps of 4
    assert next_delay_s(0.030, found, 0.004) == pytest.approx(0.016)
    assert next_delay_s(0.005, found, 0.0) is None, "no delay makes up for coming late"
    assert from_offsets([], 0.01) is None
    one = from_offsets([0.02], 0.006)
    assert one is not None
    assert one.error_s == pytest.approx(0.006), (
        "one try is as sure as the plan's jitter"
    )


def test_plan_and_takes_in_one_sentence() -> None:
    assert (
        plan_against_takes(Planned(0.38, 0.38, 0.38), 6, 20)
        == "Plan says 38 %, your takes say 31 % (16 to 48)."
    )
    low, high = stats.beta.interval(0.9, 6.5, 14.5)
    assert (round(low * 100), round(high * 100)) == (16, 48)
    sure, doubtful = Planned(0.9, 0.9, 0.9), Planned(0.9, 0.1, 1.0)
    assert plan_against_takes(sure, 2, 20).endswith(": the plan leaves something out.")
    # A plan that may be anything is refuted by nothing.
    assert plan_against_takes(doubtful, 2, 20).startswith("Plan says 90 % (10 to 100), your")  # fmt: skip
    assert "leaves" not in plan_against_takes(doubtful, 2, 20)
    assert plan_against_takes(sure, 0, 0) == ""
    assert "0 of 1 try landed, which tells little yet" in plan_against_takes(sure, 0, 1)


def test_three_honest_offsets_are_called_sure_as_seldom_as_student_says() -> None:
    """Logs of three tries without any bias: one in twenty may be called sure (Student 1908), and was one in five."""
    rng = np.random.default_rng(2)
    logs = 0.01 * rng.standard_normal((4000, 3))
    sure = np.mean([from_offsets(log, None).sure for log in logs])
    assert sure == pytest.approx(0.05, abs=0.012)


def test_without_a_plan_the_takes_are_told_alone() -> None:
    assert "says nothing of landing" in plan_against_takes(None, 1, 3)
