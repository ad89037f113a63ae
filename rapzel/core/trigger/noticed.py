"""What a log of tries tells of the knob, the rig and the person, beside where the right value lies (science §14).

A knob that works the other way round, a rig that keeps moving, and a person who calls more "on" than was said: each is
told aloud, since no further step would mend it.
"""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from rapzel.core.trigger.dial import RUNS_OFF, Knob, Try, dialled_path, met

_MOVED = 2  # drops of older tries after which it is no single knock
_RECENT = 12  # tries in which these are counted
_APART_NOISE = 4.0  # of what blurs a try, by which two values tell a direction
# of the lateness against what was set, which is 1 where the sign is right
_WRONG_SLOPE = -0.3
# of what blurs a try, by which calls of "on" reach beyond what looks right
_BOTH_SIDES = 4.0


def turned_the_wrong_way(knob: Knob, tries: Sequence[Try]) -> bool:
    """Whether the light comes sooner where the knob is set to make it later.

    By offsets that were read, as the slope of their line; else by one outcome all along, while the other side of where
    it began was tried as well and came out the other way.
    """
    read = [
        (each.value * knob.s_per_unit, each.offset_s)
        for each in tries
        if each.offset_s is not None
    ]
    if len(read) >= 2:
        set_s = np.array([value for value, _ in read])
        late_s = np.array([off for _, off in read])
        if np.ptp(set_s) > _APART_NOISE * knob.noise_s:
            slope = float(np.polyfit(set_s, late_s, 1)[0])
            return slope < _WRONG_SLOPE
    return _outcomes_are_reversed(knob, tries)


def _outcomes_are_reversed(knob: Knob, tries: Sequence[Try]) -> bool:
    """Whether everything set later came early, and everything set sooner late, clearly apart."""
    by_outcome: dict[str, list[float]] = {"early": [], "late": []}
    for each in tries:
        if each.outcome != "on":
            by_outcome[each.outcome].append(each.value * knob.s_per_unit)
    early, late = by_outcome["early"], by_outcome["late"]
    if len(early) + len(late) < RUNS_OFF or not early or not late:
        return False
    # Where the sign is right, what came late was set later.
    return min(early) - max(late) > _APART_NOISE * knob.noise_s


def _in_a_row(tries: Sequence[Try]) -> bool:
    """Whether the latest tries came out alike, and not right, more often than chance would have it."""
    last = [each.outcome for each in tries[-RUNS_OFF:]]
    return len(last) == RUNS_OFF and len(set(last)) == 1 and last[0] != "on"


def runs_off(tries: Sequence[Try]) -> bool:
    """Whether one outcome has come from the first try on, so often that the way itself is in doubt."""
    return _in_a_row(tries) and not met(tries)


def keeps_moving(knob: Knob, tries: Sequence[Try]) -> bool:
    """Whether the right value moves away: missed on one side all along after it had been met, or dropped tries.

    Where it stands, the middle of what is believed is missed on either side as often: six in a row on one side come
    once in thirty-two times.
    """
    if not tries:
        return False
    if _in_a_row(tries) and met(tries[:-RUNS_OFF]):
        return True
    starts = [found.from_try for found in dialled_path(knob, tuple(tries))][-_RECENT:]
    drops = sum(after > before for before, after in pairwise(starts))
    return drops >= _MOVED


def called_on_over_s(knob: Knob, tries: Sequence[Try]) -> float | None:
    """Over how much was called "on" [s], where that is clearly more than was said to look right; else None."""
    on = [each.value * knob.s_per_unit for each in tries if each.outcome == "on"]
    if knob.on_s is None or len(on) < 2:
        return None
    over = max(on) - min(on)
    said = 2 * knob.right_s + _BOTH_SIDES * knob.noise_s
    return over if over > said else None
