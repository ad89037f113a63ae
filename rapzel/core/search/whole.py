"""A search with what it says where nothing fits: hits, or else the nearest misses and the relaxations that succeed."""

from dataclasses import asdict, dataclass, field
from typing import Any

from rapzel.core.document.scene import Scene
from rapzel.core.search.find import Found, Kit, Progress, Search
from rapzel.core.search.limits import Limits
from rapzel.core.search.misses import Miss, misses_of
from rapzel.core.search.relaxing import Relaxation, relaxations_of

_MISSES_AT, _RELAXED_FROM = 0.3, 0.45  # shares of the work where nothing fits


@dataclass(frozen=True)
class SearchOutcome:
    """What a search came to; misses and relaxations only where it found nothing.

    untried: limits that were not widened because that would have taken too long.
    """

    found: Found
    misses: list[Miss] = field(default_factory=list)
    relaxations: list[Relaxation] = field(default_factory=list)
    untried: int = 0

    def to_document(self) -> dict[str, Any]:
        """The outcome as `find_settings` prints it."""
        found = self.found
        return {
            "combinations": found.combinations,
            "hit_count": found.hit_count,
            "hits": [hit.to_document() for hit in found.hits],
            "front": [
                {
                    "iso": one.iso,
                    "lasts_s": one.lasts_s,
                    "lights": one.lights,
                    **one.hit.to_document(),
                }
                for one in found.front
            ],
            "misses": [miss.to_document() for miss in self.misses],
            "relaxations": [one.to_document() for one in self.relaxations],
            "untried": self.untried,
            "not_possible": found.reasons,
            "unknown_recycles": found.unknown,
            "left_out": None if found.left_out is None else asdict(found.left_out),
        }


def search_all(
    scene: Scene,
    kit: Kit,
    limits: Limits,
    progress: Progress | None = None,
    patience_s: float | None = None,
    count: bool = True,
) -> SearchOutcome:
    """Everything within the limits. `progress` is told the share that is done, and may raise to cancel.

    patience_s: what would take longer is left out, and said to be; None takes the time that it needs. count: see
    `Search.run`.
    """
    told = progress or _nobody
    search = Search(scene, kit, limits)
    found = search.run(lambda share: told(share * _MISSES_AT), patience_s, count)
    if found.hits:
        return SearchOutcome(found)
    misses = misses_of(search, lambda: told(_MISSES_AT))
    rest = 1 - _RELAXED_FROM
    relaxed = relaxations_of(
        scene, kit, limits, lambda share: told(_RELAXED_FROM + share * rest), patience_s
    )
    return SearchOutcome(found, misses, relaxed.found, relaxed.untried)


def _nobody(share: float) -> None:
    """Nobody wants to know how far it is."""
