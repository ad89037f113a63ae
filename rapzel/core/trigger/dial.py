"""Dialling one knob in: the next value to try, from what the tries before it showed, and when to stop (science §14).

Looked for is the one value at which the light is on time. Each try at a value tells on which side of it that one lies,
or by how much it was off, as far as jitter, reading and a wrong key let it. What is believed of the value is kept
whole, as a distribution; its middle is tried next, which is bisection where nothing jitters.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
import numpy.typing as npt
from scipy.special import ndtr

from rapzel.core.shared.steps import settled

DialOutcome = Literal["early", "late", "on"]
Array = npt.NDArray[np.float64]
# places of the right value [s]; what is believed of each, by width
Belief = tuple[Array, Array]

_WRONG_KEY = 0.002  # of tries that are judged or keyed wrongly (memory)
# by which an offset that is read off a picture is wrong, of itself (memory)
_READING = 0.15
_DRIFT = 0.15  # of the jitter, by which a rig moves from one try to the next (memory)
# an outcome that was less likely than this says that something else has moved
_ODD = 0.01
# so often the same outcome, and it is asked whether the knob works the other way round
RUNS_OFF = 6
_LAST = 30  # tries that are asked: older ones tell little of a rig that drifts
_POINTS = 401
# of what blurs a try: with a doubt below it, twice the blur is hardly ever missed
_TELLS = 0.8
# of what looks right, as shares of what is thought
_WIDTHS = np.array([0.1, 0.5, 1.0, 1.5])
_PLAN_OFF = 0.04  # of its value, by which a plan may be off (memory)
# two things that are apart by less look like one to somebody who watches (memory)
_EYE_S = 0.02


@dataclass(frozen=True, slots=True)
class Try:
    """One try: the value that was set, how it came out, and by how much it was late [s], early negative, if told."""

    value: float
    outcome: DialOutcome
    offset_s: float | None = None


@dataclass(frozen=True, slots=True)
class Knob:
    """What is dialled. Values are in the knob's own unit; s_per_unit says by how much a step up makes the light later.

    resolution_s: the steps of the unit in time; jitter_s: of a try, None where not known; on_s: within how much of its
    instant a try looks right, None: as much as it jitters; by_eye: judged without a picture.
    """

    resolution_s: float
    jitter_s: float | None = None
    s_per_unit: float = 1.0
    on_s: float | None = None
    lowest: float | None = None
    highest: float | None = None
    by_eye: bool = False

    @property
    def fine_s(self) -> float:
        """What cannot be told apart: the larger of jitter and step, and of what an eye can tell [s]."""
        known = max(self.jitter_s or 0.0, self.resolution_s, 1e-6)
        if self.by_eye:
            return max(known, _EYE_S)
        return known

    @property
    def noise_s(self) -> float:
        """Standard deviation of a try's judgement [s]; not quite 0, so that no belief is beyond correction."""
        noise = max(self.jitter_s or 0.0, self.resolution_s / 10, 1e-7)
        if self.by_eye:
            return max(noise, _EYE_S / 2)
        return noise

    @property
    def right_s(self) -> float:
        """Half width of what looks right [s]."""
        if self.on_s is None:
            return self.fine_s
        return max(self.on_s, self.resolution_s / 2, 1e-7)

    def settable(self, value: float) -> float:
        """The nearest value that can be set, within the knob's ends."""
        near = settled(value, self.resolution_s / abs(self.s_per_unit))
        if self.lowest is not None:
            near = max(near, self.lowest)
        if self.highest is not None:
            near = min(near, self.highest)
        return round(near, 9)


@dataclass(frozen=True, slots=True)
class Dialled:
    """What to do next. bracket: where the right value lies with 98 % certainty, None ends are open; doubt: its sd.

    from_try: the first try that still counts, from 0: earlier ones contradict what came later. at_end: the knob's own
    end is in the way. All in the knob's unit.
    """

    next_value: float | None
    converged: bool
    bracket: tuple[float | None, float | None]
    doubt: float | None
    from_try: int
    at_end: bool = False


def dialled(knob: Knob, history: Sequence[Try]) -> Dialled:
    """The next value to try after these tries, oldest first; no value before the first."""
    if not history:
        return Dialled(None, False, (None, None), None, 0)
    return dialled_path(knob, history)[-1]


def dialled_path(knob: Knob, history: Sequence[Try]) -> Sequence[Dialled]:
    """What was known after each try. What a later one contradicts is dropped, oldest first."""
    return _path(knob, tuple(history))


@lru_cache(maxsize=64)
def _path(knob: Knob, history: tuple[Try, ...]) -> tuple[Dialled, ...]:
    found: list[Dialled] = []
    first = 0
    belief: Belief | None = None
    for end, latest in enumerate(history, start=1):
        # A rig that was moved makes older tries wrong, the oldest first: they go until the latest
        # can be believed.
        while belief is not None and _contradicts(knob, belief, latest):
            first += 1
            belief = _belief(knob, history[first : end - 1])
        tries = history[first:end]
        belief = _belief(knob, tries)
        if belief is None:
            found.append(_wider(knob, tries, first))
        else:
            found.append(_known(knob, tries, belief, first))
    return tuple(found)


def _known(knob: Knob, tries: Sequence[Try], belief: Belief, first: int) -> Dialled:
    """What these tries say together."""
    at, weights = belief
    share = weights.sum(axis=0)
    sums = np.cumsum(share)
    # The median is tried next: it halves what is believed, as bisection halves a bracket.
    middle, low, high = (float(np.interp(each, sums, at)) for each in (0.5, 0.01, 0.99))
    mean = float(at @ share)
    doubt_s = math.sqrt(float(np.square(at - mean) @ share))
    ends = sorted(each / knob.s_per_unit for each in (low, high))
    wanted = middle / knob.s_per_unit
    following = knob.settable(wanted)
    # How far the knob's end keeps from what is wanted.
    beyond_s = abs(following - wanted) * abs(knob.s_per_unit)
    at_end = beyond_s > knob.resolution_s + 3 * knob.fine_s
    return Dialled(
        next_value=following,
        converged=not at_end and _is_there(knob, tries, following, doubt_s, high - low),
        bracket=(ends[0], ends[1]),
        doubt=doubt_s / abs(knob.s_per_unit),
        from_try=first,
        at_end=at_end,
    )


def _contradicts(knob: Knob, before: Belief, latest: Try) -> bool:
    """Whether the latest try was hardly to be expected by what was believed before it."""
    at, weights = before
    return float(np.sum(_likelihood(knob, latest, at, 0) * weights)) < _ODD


def _is_there(
    knob: Knob, tries: Sequence[Try], value: float, doubt_s: float, width_s: float
) -> bool:
    """Whether a further try would tell no more than jitter and steps blur: bracketed, or on, and the value tried."""
    if not met(tries):
        return False
    # Within what looks right only where it has looked right: two misses on both sides make that narrower.
    if any(each.outcome == "on" for each in tries):
        blur = max(knob.fine_s, knob.right_s)
    else:
        blur = knob.fine_s
    near = max(blur, knob.resolution_s * 1.01)
    if not any(
        abs(each.value - value) * abs(knob.s_per_unit) <= near for each in tries
    ):
        return False
    within_step = width_s <= knob.resolution_s * 1.3
    tells = blur * _TELLS
    return within_step or doubt_s <= tells


def _step_s(knob: Knob, begun_s: float) -> float:
    """How far off a plan usually is [s]: some percent of what it sets (memory), and more than jitter hides."""
    return max(4 * max(knob.fine_s, knob.right_s), _PLAN_OFF * abs(begun_s))


def _wider(knob: Knob, tries: Sequence[Try], first: int) -> Dialled:
    """Not bracketed yet: further the same way, twice as far each time."""
    later = tries[-1].outcome == "early"  # the light has to come later
    reached = [each.value * knob.s_per_unit for each in tries]
    edge = max(reached) if later else min(reached)
    # Doubling finds a far value in few tries, and overshoots it by no more than it went.
    step = _step_s(knob, reached[0]) * 2 ** (len(tries) - 1)
    if len(tries) == RUNS_OFF:
        # Once to the other side of where it began: a knob with the wrong sign shows itself there.
        step, edge = -2 * _step_s(knob, reached[0]), reached[0]
    wanted = (edge + (step if later else -step)) / knob.s_per_unit
    following = knob.settable(wanted)
    stuck = following == knob.settable(edge / knob.s_per_unit)
    known = edge / knob.s_per_unit
    # On a knob that makes the light earlier, later is downward.
    upward = later == (knob.s_per_unit > 0)
    bracket = (known, None) if upward else (None, known)
    return Dialled(
        None if stuck else following, False, bracket, None, first, at_end=stuck
    )


def _likelihood(knob: Knob, each: Try, at: Array, age: int) -> Array:
    """How likely an outcome is [widths × places of the right value]; older tries tell less of a rig that drifts.

    Within how much a try looks right is the person's own, so that several widths are held possible.
    """
    right_s = knob.right_s * _WIDTHS[:, None]
    off = each.value * knob.s_per_unit - at
    noise = knob.noise_s * math.hypot(1.0, _DRIFT * age)
    if each.offset_s is not None:
        sd = math.hypot(noise, _READING * each.offset_s, knob.resolution_s / 2)
        # An offset is read off a picture: the larger it is, the worse it is read.
        near = np.exp(-np.square((off - each.offset_s) / sd) / 2)
        # A key may have been the wrong one: nothing is ever impossible, or one slip would decide
        # for good.
        return np.asarray(
            ((1 - _WRONG_KEY) * near + _WRONG_KEY / 10) * np.ones_like(right_s)
        )
    early = ndtr((-right_s - off) / noise)
    late = ndtr((off - right_s) / noise)
    share = {"early": early, "late": late, "on": 1 - early - late}[each.outcome]
    return np.asarray((1 - _WRONG_KEY) * share + _WRONG_KEY / 3)


def met(tries: Sequence[Try]) -> bool:
    """Whether the right value was met: from both sides, or as on."""
    kinds = {each.outcome for each in tries}
    return "on" in kinds or {"early", "late"} <= kinds


def _weights(knob: Knob, tries: Sequence[Try], at: Array) -> Array:
    """What is believed of each place of the right value, and of each width of what looks right; all sum to 1."""
    total = np.zeros((len(_WIDTHS), 1))
    # Until both sides are known, what a plan usually is off by stands in for the missing one.
    if not {"early", "late"} <= {each.outcome for each in tries}:
        # far off is less likely, never ruled out
        begun = tries[0].value * knob.s_per_unit
        total = total - np.log1p(np.square((at - begun) / _step_s(knob, begun)))
    for age, each in enumerate(reversed(tries)):
        total = total + np.log(_likelihood(knob, each, at, age))
    weight = np.exp(total - total.max())
    return np.asarray(weight / weight.sum())


def _belief(knob: Knob, tries: Sequence[Try]) -> Belief | None:
    """Places of the right value [s] and what is believed of each; None while one side is open."""
    if not (met(tries) or any(each.offset_s is not None for each in tries)):
        return None
    tries = tries[-_LAST:]
    reached = [each.value * knob.s_per_unit for each in tries]
    reached += [
        each.value * knob.s_per_unit - each.offset_s
        for each in tries
        if each.offset_s is not None
    ]
    pad = 8 * knob.noise_s + 2 * knob.right_s
    low, high = min(reached) - pad, max(reached) + pad
    at = np.linspace(low, high, _POINTS)
    for _ in range(3):  # looked at again more closely where it is
        share = _weights(knob, tries, at).sum(axis=0)
        sums = np.cumsum(share)
        step = at[1] - at[0]
        low = float(np.interp(1e-4, sums, at)) - 2 * step
        high = float(np.interp(1 - 1e-4, sums, at)) + 2 * step
        at = np.linspace(low, high, _POINTS)
    return at, _weights(knob, tries, at)
