"""The verbs of the log, and what a log amounts to."""

import csv
import io
from collections import Counter
from collections.abc import Iterable
from typing import Any

from django.db import transaction

from rapzel.core.success import HitRate, hit_rate, tries_for
from rapzel.shoots.fields import differences
from rapzel.shoots.models import Scene
from rapzel.shoots.workbench import Answer
from rapzel.takes.models import Outcome, Take


@transaction.atomic
def log_take(scene: Scene, outcome: str, changed: str = "", note: str = "") -> Take:
    """Logs a try with the plan as it stands. What was changed is told by the plan itself when nothing is said.

    Raises ValueError for an outcome that is not one.
    """
    if outcome not in Outcome.values:
        raise ValueError(f"An outcome is one of {', '.join(Outcome.values)}.")
    locked = Scene.objects.select_for_update(of=("self",)).get(pk=scene.pk)
    last = Take.objects.filter(scene=locked).order_by("-number").first()
    said = changed.strip() or (plan_changes(last.document, locked.document) if last else "")
    return Take.objects.create(
        scene=locked,
        number=last.number + 1 if last else 1,
        outcome=outcome,
        changed=said[:400],
        note=note.strip()[:1000],
        document=locked.document,
    )


def plan_changes(before: dict[str, Any], after: dict[str, Any]) -> str:
    """What changed between two plans, in words: 'Key Power 1/32 → 1/64'."""
    if before == after:
        return ""
    return ", ".join(f"{label} {old} → {new}" for label, (old, new) in differences([before, after]))


def totals(takes: Iterable[Take]) -> dict[str, Any]:
    """Counts by outcome, the hit rate with its interval, and tries left for one more keeper."""
    counts = Counter(take.outcome for take in takes)
    tries = sum(counts.values())
    rate: HitRate | None = hit_rate(counts[Outcome.KEEP], tries) if tries else None
    rows = [(outcome.label, counts[outcome]) for outcome in Outcome]
    return {"tries": tries, "counts": rows, "rate": rate, "more": tries_for(rate.mean) if rate else None}


CSV_HEADER = ("number", "at", "outcome", "changed", "note", "f_number", "iso", "shutter_s", "method", "powers")


def to_csv(takes: Iterable[Take]) -> str:
    """The log as CSV, oldest first, numbers in SI."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(CSV_HEADER)
    for take in takes:
        exposure = take.document["exposure"]
        powers = "; ".join(f"{light['name']} {light['power']:.6g}" for light in take.document["lights"])
        own = [take.number, take.at.isoformat(), take.outcome, _safe(take.changed), _safe(take.note)]
        writer.writerow(
            [*own, exposure["f_number"], exposure["iso"], exposure["shutter_s"], exposure["method"], _safe(powers)]
        )
    return out.getvalue()


def _safe(text: str) -> str:
    """A text that a spreadsheet will not run as a formula."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t") else text


def with_margins(takes: Iterable[Take]) -> list[dict[str, Any]]:
    """Each take with the margins of its plan; plans that repeat are answered once."""
    answered: dict[str, Answer] = {}
    rows = []
    for take in takes:
        answer = Answer(take.document)
        answer = answered.setdefault(answer.fingerprint, answer)
        rows.append({"take": take, "margins": answer.margins})
    return rows
