"""One change that closes it, or the two that do: each proposal is tried on the scene, and offered if it holds.

A change is judged by the whole strip: the margin must hold by the best guess at least, and no other margin may come
out worse than it was, the picture's exposure included.
"""

import time
from collections.abc import Iterator
from itertools import islice

from rapzel.core.document.evaluation import STATES, Evaluation, Margin
from rapzel.core.document.places import changed
from rapzel.core.document.scene import Scene, read_scene
from rapzel.core.evaluate import evaluate
from rapzel.core.shared.errors import CoreError
from rapzel.core.verdict.change import Change
from rapzel.core.verdict.remedies import REMEDIES

__all__ = ["Change", "advise", "advise_pairs"]

_MOST = 3  # proposals for one margin
_HOLDS = STATES.index("unsure")
PAIRS_S = 0.3  # of search for two changes


def _open(now: Evaluation) -> list[Margin]:
    """The margins that want a change, in the order of the strip."""
    return [margin for margin in now.margins if margin.state == "fails"]


def _tried(scene: Scene, change: Change) -> tuple[Scene, Evaluation] | None:
    """The scene with a change and its evaluation; None where it is impossible."""
    try:
        after = read_scene(changed(scene.to_document(), dict(change.values)))
        return after, evaluate(after)
    except CoreError:
        return None


def _worse(now: Evaluation, after: Evaluation) -> list[str]:
    """The margins that a change leaves worse than they were."""
    return [margin.name for margin in now.margins if after.margin(margin.name).rank < margin.rank]


def _holds(scene: Scene, change: Change, now: Evaluation) -> bool:
    """Whether the change closes its margin and leaves no other margin worse."""
    tried = _tried(scene, change)
    return (
        tried is not None
        and tried[1].margin(change.margin).rank >= _HOLDS
        and not _worse(now, tried[1])
    )


def advise(scene: Scene, now: Evaluation, imperial: bool = False) -> list[Change]:
    """Single changes that each close one failing margin, up to three for it, and leave none worse.

    Margins are taken in the order of the strip, so that what is first in the sentence is closed first.
    """
    offers: list[Change] = []
    for margin in _open(now):
        proposals = REMEDIES[margin.name](scene, now, imperial)
        offers += islice((change for change in proposals if _holds(scene, change, now)), _MOST)
    return offers


def _pairs_for(
    scene: Scene, margin: str, now: Evaluation, imperial: bool, until: float
) -> Iterator[Change]:
    """Pairs whose second change mends what the first one breaks, or ends what it leaves open."""
    for first in REMEDIES[margin](scene, now, imperial):
        tried = _tried(scene, first)
        if tried is None:
            continue
        between, halfway = tried
        broken = _worse(now, halfway)
        if halfway.margin(margin).rank < _HOLDS:
            broken = [margin, *broken]
        for name in broken[:1]:
            for second in REMEDIES[name](between, halfway, imperial):
                if time.monotonic() >= until:
                    return
                both = Change(margin, f"{first.says} with {second.says}", _joined(first, second))
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
            offers += islice(_pairs_for(scene, margin.name, now, imperial, until), _MOST)
    return offers
