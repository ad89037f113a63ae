"""One change that closes it, or the two that do: each proposal is tried on the scene, and offered if it holds.

A change is judged by the whole strip: the margin must hold by the best guess at least, and no other margin may come
out worse than it was, the picture's exposure included.
"""

import time
from collections.abc import Iterator
from itertools import islice

from rapzel.core.document.evaluation import STATES, Evaluation, Margin
from rapzel.core.document.scene import Scene, with_values
from rapzel.core.evaluate import evaluate_physics
from rapzel.core.physics import Physics
from rapzel.core.possible import possible
from rapzel.core.shared.errors import CoreError
from rapzel.core.shared.once import once
from rapzel.core.verdict.change import Change
from rapzel.core.verdict.margins import MARGINS

__all__ = ["Change", "advise", "advise_pairs"]

_MOST = 3  # proposals for one margin
_HOLDS = STATES.index("unsure")
_FEWER = 0.1  # of all tries
PAIRS_S = 0.3  # of search for two changes


def _open(now: Evaluation) -> list[Margin]:
    """The margins that want a change, in the order of the strip."""
    return [margin for margin in now.margins if margin.state == "fails" or margin.leans]


def _falls_short(margin: Margin) -> bool:
    """Whether the best guess of a margin is on the wrong side, surely or probably."""
    return margin.state == "fails" or margin.leans


class _Trial:
    """A scene with a change. Each margin is judged when it is asked for: most changes fail by the first."""

    def __init__(self, scene: Scene, change: Change) -> None:
        """Raises CoreError where the changed scene is impossible."""
        self.scene = with_values(scene, dict(change.values))
        self._physics = Physics(possible(self.scene))
        self._judged: dict[str, Margin] = {}

    def margin(self, name: str) -> Margin:
        """A margin of the changed scene."""
        if name not in self._judged:
            self._judged[name] = MARGINS[name].judge(self._physics)
        return self._judged[name]

    def rank(self, margin: str) -> int:
        """The rank of a margin's state, the worst first."""
        return self.margin(margin).rank

    def worse(self, now: Evaluation) -> Iterator[str]:
        """The margins that the change leaves worse than they were."""
        return (margin.name for margin in now.margins if self._is_worse(margin))

    def _is_worse(self, before: Margin) -> bool:
        """Whether a margin's state is worse now, or clearly fewer tries land than did."""
        after = self.margin(before.name)
        if after.rank < before.rank or _falls_short(after) > _falls_short(before):
            return True
        # 77 % for 99 % still passes, and is no help all the same.
        both = before.value is not None and after.value is not None
        if before.unit != "share" or not both:
            return False
        return (before.value or 0.0) - (after.value or 0.0) > _FEWER

    def closes(self, margin: str, now: Evaluation) -> bool:
        """Whether the change closes a margin and leaves no other worse."""
        holds = self.rank(margin) >= _HOLDS and not self.margin(margin).leans
        return holds and next(self.worse(now), None) is None

    @once
    def evaluation(self) -> Evaluation:
        return evaluate_physics(self._physics)


def _holds(scene: Scene, change: Change, now: Evaluation) -> bool:
    """Whether the change is possible, closes its margin and leaves no other margin worse."""
    try:
        return _Trial(scene, change).closes(change.margin, now)
    except CoreError:
        return False


def advise(scene: Scene, now: Evaluation, imperial: bool = False) -> list[Change]:
    """Single changes that each close one failing margin, up to three for it, and leave none worse.

    Margins are taken in the order of the strip, so that what is first in the sentence is closed first.
    """
    offers: list[Change] = []
    for margin in _open(now):
        proposals = MARGINS[margin.name].remedies(scene, now, imperial)
        offers += islice(
            (change for change in proposals if _holds(scene, change, now)), _MOST
        )
    return offers


def _pairs_for(
    scene: Scene, margin: str, now: Evaluation, imperial: bool, until: float
) -> Iterator[Change]:
    """Pairs whose second change mends what the first one breaks, or ends what it leaves open."""
    for first in MARGINS[margin].remedies(scene, now, imperial):
        try:
            between = _Trial(scene, first)
            left = (
                margin
                if between.rank(margin) < _HOLDS
                else next(between.worse(now), None)
            )
            if left is None:
                continue  # it needs no second
            halfway = between.evaluation
        except CoreError:
            continue
        for second in MARGINS[left].remedies(between.scene, halfway, imperial):
            if time.monotonic() >= until:
                return
            both = Change(
                margin, f"{first.says} with {second.says}", _joined(first, second)
            )
            if _holds(scene, both, now):
                yield both
                break


def _joined(first: Change, second: Change) -> tuple[tuple[str, object], ...]:
    return tuple({**dict(first.values), **dict(second.values)}.items())


def advise_pairs(
    scene: Scene,
    now: Evaluation,
    singles: list[Change],
    imperial: bool = False,
    within_s: float = PAIRS_S,
) -> list[Change]:
    """Two changes together for each failing margin that no single change closes, up to three for it.

    Stops after `within_s` [s] with what has been found.
    """
    until = time.monotonic() + within_s
    closed = {change.margin for change in singles}
    offers: list[Change] = []
    for margin in _open(now):
        if margin.name not in closed:
            offers += islice(
                _pairs_for(scene, margin.name, now, imperial, until), _MOST
            )
    return offers
