"""One method of a comparison: its best set-up within the limits, or the nearest to one, and what binds it."""

import math
from dataclasses import dataclass
from typing import Any

from rapzel.core.methods import Method
from rapzel.core.search.hits import Hit
from rapzel.core.search.misses import Miss, in_words
from rapzel.core.shared.once import once
from rapzel.core.shared.units import format_f_number, format_length, format_stops
from rapzel.core.verdict.margins import MARGINS

_PLENTY_STOPS = 1.0  # a margin above it binds nothing


@dataclass(frozen=True)
class Column:
    """One method: its best set-up, or what comes nearest to one, or why it cannot be.

    `reserve_stops` is what is left between what its set-up needs and the limits of light; None where there is no
    set-up. `reach_m` is how far its lights may stand in this room.
    """

    method: Method
    reason: str = ""
    hit: Hit | None = None
    miss: Miss | None = None
    reserve_stops: float | None = None
    reach_m: float | None = None

    @property
    def possible(self) -> bool:
        """Whether this camera and these lights can work so at all."""
        return not self.reason

    @property
    def works(self) -> bool:
        """Whether a set-up within the limits holds."""
        return self.hit is not None

    @property
    def shown(self) -> Hit | None:
        """The set-up to show: the best, or the nearest."""
        return self.hit or (self.miss.hit if self.miss else None)

    @once
    def binding(self) -> str | None:
        """The margin that is tightest [its name]; None where there is nothing to judge."""
        if self.hit is not None:
            return min(self._slack, key=lambda name: self._slack[name], default=None)
        if self.miss:
            return self.miss.fails.split(" and ", maxsplit=1)[0]
        return None

    @once
    def _slack(self) -> dict[str, float]:
        """Stops left in each margin of the set-up that is counted in stops."""
        if self.hit is None:
            return {}
        evaluation = self.hit.evaluation
        if self.reserve_stops is None:
            slack = {}
        else:
            slack = {"light": self.reserve_stops}
        for name in ("freeze", "room", "ghost"):
            margin = evaluation.margin(name)
            # What is right in the middle has no slack on one side.
            if margin.value is not None and not margin.two_sided:
                slack[name] = margin.value
        pace = evaluation.pace
        if pace.asked_fps and pace.sustained_fps:
            # In stops like the others, so that they can be compared.
            slack["pace"] = math.log2(pace.sustained_fps / pace.asked_fps)
        return slack

    @once
    def binds(self) -> str:
        """What binds it, in words: what the method itself takes, and the tightest margin."""
        if self.reason:
            return self.reason
        hit = self.shown
        if hit is None:
            return "the look cannot be had by it within these limits"
        slit = hit.evaluation.shutter.hss_loss_stops
        if slit:
            lost = [f"{slit:.1f} stops lost to the slit"]
        else:
            lost = []
        if self.hit is None and self.miss is not None:
            return "; ".join([*lost, f"{in_words(self.miss)} {_at(hit)}"])
        return "; ".join([*lost, self._tightest])

    @property
    def _tightest(self) -> str:
        name = self.binding
        if name is None:
            return "nothing binds it"
        left = self._slack[name]
        stops = format_stops(left, signed=left < 0)  # what is left needs no plus
        if self._slack[name] > _PLENTY_STOPS:
            return f"nothing is tight: {stops} stops left where it is closest, {MARGINS[name].brief}"
        return MARGINS[name].to_spare.format(stops)

    def to_document(self) -> dict[str, Any]:
        """The column as `compare_methods` prints it."""
        hit = self.shown
        return {
            "method": self.method.key,
            "possible": self.possible,
            "works": self.works,
            "binding": self.binding,
            "says": self.binds,
            "by_stops": self.miss.by_stops if self.miss and not self.hit else None,
            "reserve_stops": self.reserve_stops,
            "reach_m": self.reach_m,
            "needs": hit.needs if hit else None,
            "cost": hit.cost if hit else None,
            "scene": hit.document if hit else None,
            "evaluation": hit.evaluation.to_document() if hit else None,
        }


def _at(hit: Hit) -> str:
    """The dials and lights of a set-up, briefly."""
    dials = f"at ISO {hit.iso:g}, {format_f_number(hit.f_number)}"
    if not hit.rig:
        return dials
    if hit.lights == 1:
        plural = ""
    else:
        plural = "s"
    return f"{dials}, {hit.lights} light{plural} at {format_length(hit.distance_m)}"
