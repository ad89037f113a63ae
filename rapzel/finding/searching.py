"""Searches: answered at once where that is quick, else in the background; what was found is kept for the next look."""

import hashlib
import time
from collections.abc import Callable
from dataclasses import asdict
from typing import Any

from django.conf import settings
from django.utils import timezone

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.evaluate import evaluate
from rapzel.core.search.gathering import Point
from rapzel.core.search.hits import Hit, whole_cost
from rapzel.core.search.misses import Miss, in_words
from rapzel.core.search.whole import SearchOutcome, search_all
from rapzel.core.shared.errors import CoreError
from rapzel.finding.models import Finding
from rapzel.finding.question import read_question
from rapzel.shoots.models import Scene
from rapzel.ui.lanes import LANE

PATIENCE_S = 60.0  # what would take longer there is left out until somebody asks for it
KEPT = 8  # searches of a scene
SHOWN_FIRST = 12  # hits; the others are asked for
_REPORT_S = 0.3
_VERSION = "4"  # of what is stored: a newer one searches anew


class _TakesLonger(Exception):
    """The search is not done in the time that a page waits."""


class _Stopped(Exception):
    """Its owner asked to stop."""


def find(scene: Scene, question: str, later: Callable[[int], Any]) -> Finding:
    """The search for a question: as it stands if it was asked before, else begun; `later` takes what is not quick.

    Who asks the same at the same time shares it; older searches of the scene are stopped.
    """
    # The question itself is the key: whoever asks the same gets the same search.
    asked = hashlib.sha256(f"{_VERSION}:{question}".encode()).hexdigest()[:40]
    row, created = Finding.objects.get_or_create(
        scene=scene, asked=asked, defaults={"question": question}
    )
    if not created and not _taken_up(row):
        return row
    _stop_others(row)
    old = scene.findings.exclude(pk=row.pk).values_list("pk", flat=True)[KEPT - 1 :]
    scene.findings.filter(pk__in=list(old)).delete()
    if LANE.is_full:
        later(row.pk)
    else:
        key = ("search", row.pk, row.heard_at)
        LANE.ask(key, key, lambda: _at_once(row) or later(row.pk))
    row.refresh_from_db()
    return row


def _taken_up(row: Finding) -> bool:
    """Whether a search that broke off became this caller's to begin anew: of several callers one's."""
    if row.state != Finding.State.RUNNING or row.busy:
        return False
    # The time at which it was last heard of is the lock: only one of several callers still finds
    # it.
    as_seen = Finding.objects.filter(pk=row.pk, heard_at=row.heard_at)
    return bool(as_seen.update(heard_at=timezone.now(), begun=False))


def _stop_others(row: Finding) -> None:
    """A newer question about a scene overtakes those that are still searched for."""
    older = Finding.objects.filter(scene=row.scene_id, state=Finding.State.RUNNING)
    for each in older.exclude(pk=row.pk):
        cancel(each)


def _at_once(row: Finding) -> bool:
    """Whether the search was done in the time that the lane gives it."""
    try:
        _search(row, _within(time.monotonic() + settings.SEARCH_AT_ONCE_S), PATIENCE_S)
    except _TakesLonger:
        return False
    return True


def again(row: Finding, later: Callable[[int], Any], patient: bool = False) -> None:
    """Searches anew what was stopped, broken off or left out; `patient`: for as long as it takes."""
    row.patient = patient
    _begin(row)
    later(row.pk)


def waits_behind(row: Finding) -> Finding | None:
    """The search of the same person whose end this one waits for; None where it waits for none."""
    if row.begun:
        return None
    mine = Finding.objects.filter(
        scene__shoot__owner=row.scene.shoot.owner_id, begun=True
    )
    running = (
        mine.filter(state=Finding.State.RUNNING)
        .exclude(pk=row.pk)
        .select_related("scene")
    )
    return next((each for each in running if each.busy), None)


def cancel(row: Finding) -> None:
    """Asks the background to stop; where nobody works on it any more it is stopped at once."""
    own = Finding.objects.filter(pk=row.pk, state=Finding.State.RUNNING)
    own.update(cancel_asked=True)
    if not row.busy:
        own.update(state=Finding.State.CANCELLED)


def work(pk: int) -> None:
    """Searches in the background. Whatever happens, the row says so in the end."""
    row = Finding.objects.filter(pk=pk, state=Finding.State.RUNNING).first()
    if row is None:
        return
    row.begun, row.heard_at = True, timezone.now()
    row.save(update_fields=["begun", "heard_at"])
    try:
        _search(row, _reporting(row), None if row.patient else PATIENCE_S)
    except _Stopped:
        Finding.objects.filter(pk=pk).update(state=Finding.State.CANCELLED)


def _begin(row: Finding) -> None:
    row.state, row.progress, row.says, row.cancel_asked = (
        Finding.State.RUNNING,
        0,
        "",
        False,
    )
    row.heard_at, row.begun = timezone.now(), False
    row.save()


def _search(
    row: Finding, progress: Callable[[float], None], patience_s: float | None
) -> None:
    """Searches and stores what was found, or why nothing could be."""
    own = Finding.objects.filter(pk=row.pk)
    try:
        outcome = search_all(
            *read_question(row.question), progress, patience_s, count=False
        )
    except CoreError as error:
        own.update(state=Finding.State.FAILED, says=str(error)[:400])
        return
    own.update(state=Finding.State.DONE, progress=100, result=stored(outcome))


def _within(until: float) -> Callable[[float], None]:
    def progress(share: float) -> None:
        if time.monotonic() > until:
            raise _TakesLonger

    return progress


def _reporting(row: Finding) -> Callable[[float], None]:
    """Notes the progress where the page can see it, and stops when its owner has asked for that."""
    told = 0.0

    def progress(share: float) -> None:
        nonlocal told
        if time.monotonic() - told < _REPORT_S:
            return
        told = time.monotonic()
        own = Finding.objects.filter(pk=row.pk)
        if not own.filter(cancel_asked=False).update(
            progress=round(share * 100), heard_at=timezone.now()
        ):
            raise _Stopped

    return progress


def stored(outcome: SearchOutcome) -> dict[str, Any]:
    """What is kept of an outcome: set-ups with their margins, needs and cost.

    Hits beyond those that are shown first are judged when somebody asks for them: most never are.
    """
    found = outcome.found
    first, more = found.hits[:SHOWN_FIRST], found.hits[SHOWN_FIRST:]
    return {
        "combinations": found.combinations,
        "hit_count": found.hit_count,
        "left_out": None if found.left_out is None else asdict(found.left_out),
        "untried": outcome.untried,
        "not_possible": found.reasons,
        "unknown_recycles": found.unknown,
        "hits": [*(_set_up(hit) for hit in first), *(_unjudged(hit) for hit in more)],
        "front": [_point(point) for point in found.front],
        "misses": [_miss(miss) for miss in outcome.misses],
        "relaxations": [
            {**one.to_document(), "limits": one.limits.model_dump(mode="json")}
            for one in outcome.relaxations
        ],
    }


def _unjudged(hit: Hit) -> dict[str, Any]:
    return {
        "method": hit.way.method.key,
        "needs": hit.needs,
        "cost": hit.cost_of_rig,
        "document": hit.document,
    }


def _set_up(hit: Hit) -> dict[str, Any]:
    return {**_unjudged(hit), **_judged(hit.evaluation, hit.cost_of_rig)}


def _judged(evaluation: Evaluation, cost: dict[str, float | None]) -> dict[str, Any]:
    """The margins without their working, which the scene gives when it is opened; the sentence; all of the cost."""
    margins = [
        {**margin.model_dump(mode="json"), "working": []}
        for margin in evaluation.margins
    ]
    return {
        "margins": margins,
        "sentence": evaluation.sentence,
        "cost": whole_cost(cost, evaluation),
    }


def judge_all(row: Finding) -> None:
    """Judges the hits of a search that nobody has asked for yet."""
    hits = (row.result or {}).get("hits", [])
    unjudged = [hit for hit in hits if "margins" not in hit]
    for hit in unjudged:
        hit.update(_judged(evaluate(hit["document"]), hit["cost"]))
    if unjudged:
        Finding.objects.filter(pk=row.pk, heard_at=row.heard_at).update(
            result=row.result
        )


def _point(point: Point) -> dict[str, Any]:
    return {"lasts_s": point.lasts_s, **_set_up(point.hit)}


def _miss(miss: Miss) -> dict[str, Any]:
    return {"fails": miss.fails, "says": in_words(miss), **_set_up(miss.hit)}
