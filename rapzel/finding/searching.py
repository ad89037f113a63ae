"""Searches: answered at once where that is quick, else in the background; what was found is kept for the next look."""

import hashlib
import time
from collections.abc import Callable
from typing import Any

from django.utils import timezone

from rapzel.core.document.evaluation import Evaluation
from rapzel.core.search.find import Point
from rapzel.core.search.hits import Hit
from rapzel.core.search.misses import Miss, in_words
from rapzel.core.search.whole import Outcome, search_all
from rapzel.core.shared.errors import CoreError
from rapzel.finding.models import Finding
from rapzel.finding.question import read_question
from rapzel.shoots.models import Scene

AT_ONCE_S = 1.0  # a search that takes longer goes on in the background
KEPT = 8  # searches of a scene
_REPORT_S = 0.3
_VERSION = "1"  # of what is stored: a newer one searches anew


class _TakesLonger(Exception):
    """The search is not done in the time that a page waits."""


class _Stopped(Exception):
    """Its owner asked to stop."""


def find(scene: Scene, question: str, later: Callable[[int], Any]) -> Finding:
    """The search for a question: as it stands if it was asked before, else begun; `later` takes what is not quick."""
    asked = hashlib.sha256(f"{_VERSION}:{question}".encode()).hexdigest()[:40]
    known = scene.findings.filter(asked=asked).first()
    if known is not None and (known.busy or known.state != Finding.State.RUNNING):
        return known
    row, _ = Finding.objects.update_or_create(
        scene=scene, asked=asked, defaults={"question": question, "heard_at": timezone.now()}
    )
    old = scene.findings.exclude(pk=row.pk).values_list("pk", flat=True)[KEPT - 1 :]
    scene.findings.filter(pk__in=list(old)).delete()
    until = time.monotonic() + AT_ONCE_S
    try:
        _search(row, _within(until))
    except _TakesLonger:
        later(row.pk)
    row.refresh_from_db()
    return row


def again(row: Finding, later: Callable[[int], Any]) -> None:
    """Searches anew what was stopped or broken off."""
    _begin(row)
    later(row.pk)


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
    try:
        _search(row, _reporting(row))
    except _Stopped:
        Finding.objects.filter(pk=pk).update(state=Finding.State.CANCELLED)


def _begin(row: Finding) -> None:
    row.state, row.progress, row.says, row.cancel_asked = Finding.State.RUNNING, 0, "", False
    row.heard_at = timezone.now()
    row.save()


def _search(row: Finding, progress: Callable[[float], None]) -> None:
    """Searches and stores what was found, or why nothing could be."""
    own = Finding.objects.filter(pk=row.pk)
    try:
        outcome = search_all(*read_question(row.question), progress)
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


def stored(outcome: Outcome) -> dict[str, Any]:
    """What is kept of an outcome: set-ups with their margins, needs and cost."""
    found = outcome.found
    return {
        "combinations": found.combinations,
        "hit_count": found.hit_count,
        "not_possible": found.reasons,
        "hits": [_set_up(hit) for hit in found.hits],
        "front": [_point(point) for point in found.front],
        "misses": [_miss(miss) for miss in outcome.misses],
        "relaxations": [
            {**one.to_document(), "limits": one.limits.model_dump(mode="json")}
            for one in outcome.relaxations
        ],
    }


def _set_up(hit: Hit) -> dict[str, Any]:
    return {
        "method": hit.way.method.key, "needs": hit.needs, "cost": hit.cost,
        "margins": _margins(hit.evaluation), "sentence": hit.evaluation.sentence,
        "document": hit.document,
    }  # fmt: skip


def _margins(evaluation: Evaluation) -> list[dict[str, Any]]:
    """The margins without their working, which the scene gives again when it is opened."""
    return [{**margin.model_dump(mode="json"), "working": []} for margin in evaluation.margins]


def _point(point: Point) -> dict[str, Any]:
    return {"lasts_s": point.lasts_s, **_set_up(point.hit)}


def _miss(miss: Miss) -> dict[str, Any]:
    return {"fails": miss.fails, "says": in_words(miss), **_set_up(miss.hit)}
