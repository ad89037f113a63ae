"""Dialling in on simulated rigs whose truth the guide does not know, and by hand where nothing jitters."""

from dataclasses import dataclass

import numpy as np
import pytest

from rapzel.core.shared.errors import DocumentError
from rapzel.core.tools import TOOLS, ask
from rapzel.core.tools.dial_in import words
from rapzel.core.trigger.dial import DialOutcome, Knob, Try, dialled
from rapzel.core.trigger.noticed import (
    called_on_over_s,
    keeps_moving,
    turned_the_wrong_way,
)

TOOL = TOOLS["dial-in"]
MOST_STEPS = 10


@dataclass
class Rig:
    """A set with a right value of its own that jitters or drifts, and somebody who judges its pictures."""

    rng: np.random.Generator
    kind: str

    def __post_init__(self) -> None:
        rng = self.rng
        self.step = float(rng.choice([1e-4, 5e-4, 1e-3]))
        self.jitter = 0.0 if self.kind == "still" else float(rng.uniform(0.3e-3, 2e-3))
        self.blur = max(self.step, self.jitter)
        self.right = float(rng.uniform(0.1, 0.4))
        self.begins = self.right * (1 + float(rng.normal(0, 0.025)))  # as a plan is off
        # within which it looks right
        self.sees = float(rng.uniform(0.7, 1.5)) * self.blur
        self.reads = rng.random() < 0.3  # whether offsets are read off the pictures
        self.drift = (
            float(rng.normal(0, 0.15)) * self.jitter if self.kind == "drifting" else 0.0
        )

    def tried(self, value: float) -> Try:
        """One try at a value, judged."""
        off = value - self.right + float(self.rng.normal(0, self.jitter))
        self.right += self.drift
        outcome: DialOutcome = (
            "on" if abs(off) <= self.sees else "early" if off < 0 else "late"
        )
        read = off * (1 + float(self.rng.normal(0, 0.1)))
        return Try(value, outcome, read if self.reads and outcome != "on" else None)


def _dial(rig: Rig) -> tuple[int, float, bool]:
    """Steps until it says that it is there, how far off that is [blurs], and whether its bracket misses the truth."""
    knob = Knob(rig.step, rig.jitter, lowest=0.0)
    value, tries = knob.settable(rig.begins), list[Try]()
    for step in range(1, 3 * MOST_STEPS):
        tries.append(rig.tried(value))
        found = dialled(knob, tries)
        assert found.next_value is not None
        value = found.next_value
        if found.converged:
            low, high = found.bracket
            assert low is not None
            assert high is not None
            outside = not low - rig.step <= rig.right <= high + rig.step
            return step, abs(value - rig.right) / rig.blur, outside
    return 3 * MOST_STEPS, np.inf, True


def test_rigs_are_dialled_in_within_ten_steps_and_hardly_ever_falsely(
    rigs: int,
) -> None:
    """Still, jittering and drifting ones. False: off by more than twice what a try jitters or a step is.

    300 of them; `--rigs 1000` for the whole study.
    """
    kinds = ("still", "jittering", "drifting")
    found = [
        _dial(Rig(np.random.default_rng(seed), kinds[seed % 3])) for seed in range(rigs)
    ]
    steps, off, outside = (np.array(part) for part in zip(*found, strict=True))
    assert steps.max() <= MOST_STEPS
    assert steps.mean() < 5.5
    assert np.mean(off > 2) <= 0.01
    assert np.mean(outside) <= 0.01


def test_without_jitter_it_is_bisection() -> None:
    """Early at 100 ms, late at 108: the middle; and so on until the middle is within a step of both ends."""
    knob, tries, right = (
        Knob(1e-3, 0.0),
        [Try(0.1, "early"), Try(0.108, "late")],
        0.1027,
    )
    widths = []
    for _ in range(6):
        found = dialled(knob, tries)
        widths.append(found.bracket[1] - found.bracket[0])
        if found.converged:
            break
        tries.append(
            Try(found.next_value, "early" if found.next_value < right else "late")
        )
    assert found.converged
    assert [each.value for each in tries[2:]] == [0.104, 0.102]
    assert found.next_value == pytest.approx(right, abs=knob.resolution_s)
    assert found.bracket == pytest.approx((0.102, 0.104), abs=1e-4)
    assert widths == sorted(widths, reverse=True)


def test_it_widens_until_it_has_been_on_both_sides() -> None:
    knob = Knob(1e-4, 0.0)
    tries = [Try(0.2, "early")]
    first = dialled(knob, tries)
    assert first.bracket == (0.2, None)
    tries.append(Try(first.next_value, "early"))
    second = dialled(knob, tries)
    assert second.next_value - first.next_value > first.next_value - 0.2
    assert not second.converged


def test_a_measured_offset_goes_there_at_once_and_is_not_believed_untried() -> None:
    found = dialled(Knob(1e-4, 2e-4), [Try(0.2, "early", -0.004)])
    assert found.next_value == pytest.approx(0.204, abs=2e-4)
    assert not found.converged
    tries = [Try(0.2, "early", -0.004), *[Try(0.204, "on")] * 3]
    assert dialled(Knob(1e-4, 2e-4), tries).converged


def test_two_noisy_tries_close_together_are_no_bracket() -> None:
    """Early at 100 and late at 101 with a jitter of 3 ms says next to nothing: no convergence is claimed."""
    assert not dialled(
        Knob(1e-4, 3e-3), [Try(0.1, "early"), Try(0.101, "late")]
    ).converged
    assert dialled(Knob(1e-3, 0.0), [Try(0.1, "early"), Try(0.101, "late")]).converged


def test_what_contradicts_itself_is_dropped_and_counted_anew() -> None:
    """Late at 50 ms and early at 200 cannot both be: something else has moved in between."""
    tries = [Try(0.1, "late"), Try(0.05, "late"), Try(0.03, "early"), Try(0.2, "early")]
    found = dialled(Knob(1e-4, 1e-3), tries)
    assert found.from_try == 2
    assert found.next_value > 0.2


def test_a_knob_that_makes_the_light_sooner_is_turned_the_other_way() -> None:
    """A beam further upstream: its light is early when it stands too far away, at 5 m/s by 0.2 s for each metre."""
    knob, right = Knob(0.001, 0.0, s_per_unit=-0.2, lowest=0.0), 0.437
    value, tries = 0.5, list[Try]()
    for _ in range(MOST_STEPS):
        off = -(value - right) * 0.2
        tries.append(
            Try(value, "on" if abs(off) < 0.0012 else "early" if off < 0 else "late")
        )
        found = dialled(knob, tries)
        if found.converged:
            break
        value = found.next_value
    assert found.converged
    assert found.next_value == pytest.approx(right, abs=0.006)


def test_at_its_end_it_says_so() -> None:
    tries = [{"value": 0.01, "outcome": "late"}, {"value": 0.0, "outcome": "late"}]
    found = ask(TOOL, {"history": tries, "lowest": 0.0})
    assert found["next_value"] is None
    assert "at its end" in found["says"]
    assert "sooner" in found["says"]


def test_by_eye_it_stops_at_what_an_eye_can_tell() -> None:
    tries = [
        {"value": 0.15, "outcome": "early"},
        {"value": 0.2, "outcome": "late"},
        {"value": 0.174, "outcome": "on"},
        {"value": 0.174, "outcome": "on"},
    ]
    by_eye, by_picture = (
        ask(
            TOOL,
            {
                "history": tries,
                "judged": judged,
                "resolution_s": 1e-4,
                "jitter_s": 1e-3,
                "on_s": None,
            },
        )
        for judged in ("eye", "picture")
    )
    assert by_eye["converged"]
    assert "pictures" in by_eye["says"]
    assert by_eye["doubt"] > 3 * by_picture["doubt"]


def test_an_offset_has_the_sign_of_its_outcome() -> None:
    either = [
        ask(TOOL, {"history": [{"value": 0.2, "outcome": "early", "offset_s": off}]})[
            "next_value"
        ]
        for off in (0.004, -0.004)
    ]
    assert either[0] == either[1] > 0.2


def test_before_the_first_try_it_proposes_nothing() -> None:
    found = ask(TOOL, {"knob": "Flash delay", "history": []})
    assert found["next_value"] is None
    assert found["bracket"] == [None, None]
    assert not found["converged"]


@pytest.mark.parametrize(
    ("values", "path"),
    [
        ({"history": [{"value": 0.1, "outcome": "perhaps"}]}, "history[0].outcome"),
        ({"history": [{"value": float("inf"), "outcome": "on"}]}, "history[0].value"),
        ({"history": [{"value": 0.1, "outcome": "on"}] * 101}, "history"),
        ({"s_per_unit": 0.0}, "s_per_unit"),
        ({"resolution_s": -1}, "resolution_s"),
    ],
)
def test_what_is_refused_is_named(values: dict, path: str) -> None:
    with pytest.raises(DocumentError) as refused:
        ask(TOOL, values)
    assert any(problem.path == path for problem in refused.value.problems), (
        refused.value.problems
    )


@pytest.mark.parametrize("history", [
    [{"value": 3600.0, "outcome": "early"}, {"value": -3600.0, "outcome": "late"}],
    [{"value": 0.1, "outcome": "on", "offset_s": 60.0}, {"value": 0.1, "outcome": "late", "offset_s": 60.0}],
    [{"value": 0.1, "outcome": outcome} for outcome in ("early", "late", "on") * 20],
])  # fmt: skip
def test_nonsense_is_answered_calmly(history: list) -> None:
    found = ask(TOOL, {"history": history, "resolution_s": 0.0, "jitter_s": 0.0})
    assert found["says"].endswith(".")
    assert found["next_value"] is None or np.isfinite(found["next_value"])


def _played(
    knob: Knob, right: float, begins: float, sign: float, tries: int = 12
) -> list[Try]:
    """A rig whose light moves by `sign` of what is set, judged without jitter."""
    history: list[Try] = []
    value: float | None = begins
    while value is not None and len(history) < tries:
        off = sign * (value - right)
        outcome: DialOutcome = (
            "on" if abs(off) <= 1e-4 else "early" if off < 0 else "late"
        )
        history.append(Try(value, outcome))
        if outcome == "on":
            break
        value = dialled(knob, history).next_value
    return history


def test_a_knob_with_the_wrong_sign_is_noticed_and_does_not_run_off_for_ever() -> None:
    knob = Knob(1e-4, 1e-4, lowest=0.0)
    tries = _played(knob, 0.198, 0.2, -1.0)
    assert not turned_the_wrong_way(knob, _played(knob, 0.215, 0.2, 1.0))
    found = next(
        count
        for count in range(1, len(tries) + 1)
        if turned_the_wrong_way(knob, tries[:count])
    )
    assert found <= 8
    said = words("Delay", knob, tries[:found], dialled(knob, tries[:found]), str)
    assert "the other way round" in said


def test_read_offsets_show_the_wrong_sign_at_the_second_try() -> None:
    knob = Knob(1e-4, 1e-4)
    wrong = [Try(0.2, "early", -0.002), Try(0.202, "early", -0.004)]
    right = [Try(0.2, "early", -0.004), Try(0.202, "early", -0.002)]
    assert turned_the_wrong_way(knob, wrong)
    assert not turned_the_wrong_way(knob, right)


def test_what_is_far_off_is_still_found_past_the_look_at_the_other_side() -> None:
    knob = Knob(1e-4, 1e-4, lowest=0.0)
    tries = _played(knob, 0.9, 0.2, 1.0, 30)
    assert tries[-1].outcome == "on"
    assert not turned_the_wrong_way(knob, tries)


def test_somebody_who_calls_more_on_than_was_said_is_told() -> None:
    knob = Knob(1e-4, 1e-4, on_s=0.001)
    wide = [Try(0.2, "on"), Try(0.206, "on")]
    assert called_on_over_s(knob, wide) == pytest.approx(0.006)
    assert called_on_over_s(knob, [Try(0.2, "on"), Try(0.2015, "on")]) is None
    assert "say how wide it really is" in words(
        "Delay", knob, wide, dialled(knob, wide), str
    )


def test_a_rig_that_keeps_moving_is_told_and_one_that_stands_hardly_ever() -> None:
    """Fifty rigs whose right value walks off by six blurs every other try, and fifty that stand."""
    rng = np.random.default_rng(11)

    def told(walks: float) -> int:
        count = 0
        for _ in range(50):
            knob, right, value = Knob(1e-4, 1e-3), 0.2, 0.201
            tries: list[Try] = []
            for number in range(14):
                right += walks * (number % 2)
                off = value - right + float(rng.normal(0, 1e-3))
                outcome: DialOutcome = (
                    "on" if abs(off) < 1e-3 else "early" if off < 0 else "late"
                )
                tries.append(Try(value, outcome))
                value = dialled(knob, tries).next_value or value
            count += keeps_moving(knob, tries)
        return count

    assert told(6e-3) >= 40
    assert told(0.0) <= 2
