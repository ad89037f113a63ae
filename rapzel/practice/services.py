"""The verbs of practice."""

from collections.abc import Sequence
from typing import Any

from rapzel.core.shared.errors import OutOfRange
from rapzel.core.trigger.drill import measure
from rapzel.practice.models import Drill
from rapzel.ui.quota import require_room

MOST_TRIES = 60


def keep(
    owner: Any, what: str, sound: bool, errors_s: Sequence[float], key: str = ""
) -> Drill:
    """Stores a drill, once: one whose key is there already was sent again because its answer was lost.

    Raises OutOfRange for too few or impossible tries, ValueError for another drill, QuotaFull.
    """
    if what not in Drill.What.values:
        raise ValueError(f"A drill is one of {', '.join(Drill.What.values)}.")
    if len(errors_s) > MOST_TRIES:
        raise OutOfRange("errors_s", len(errors_s), f"at most {MOST_TRIES} tries")
    measure(errors_s)  # refuses what is no drill
    require_room("drills", Drill.objects.visible_to(owner).count())
    values = {"what": what, "sound": sound, "errors_s": list(errors_s)}
    if not key:
        return Drill.objects.create(owner=owner, **values)
    return Drill.objects.get_or_create(owner=owner, key=key, defaults=values)[0]


def latest(owner: Any, way: str) -> Drill | None:
    """The person's last drill of reacting, or of anticipating."""
    kinds = [what for what in Drill.What.values if Drill(what=what).way == way]
    return Drill.objects.visible_to(owner).filter(what__in=kinds).first()
