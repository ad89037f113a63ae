"""Seeing to it that no row of the bench waits for a job that is not there, and what health tells of the queue."""

from datetime import timedelta
from typing import Any

from django.db.models import Min, Q, QuerySet
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker

from rapzel.bench.models import BUSY, ColourRun, Measured, State, Trace

# without a heartbeat of its worker, of which one comes every ten seconds
STALLED_S = 30.0
# from the asking to the job, which comes with the same transaction
PATIENCE = timedelta(seconds=60)
KEPT_JOBS_H = 24 * 14
# Which task works on which rows, and under which name it gets their key.
TASKS: dict[type[Measured], tuple[str, str]] = {
    Trace: ("measure", "trace_id"),
    ColourRun: ("measure_colour", "run_id"),
}
BROKEN_OFF = (
    "The measuring was broken off. What was brought in is kept: measure it again."
)


def _jobs(
    row_type: type[Measured], status: tuple[str, ...]
) -> QuerySet[ProcrastinateJob]:
    task, _ = TASKS[row_type]
    return ProcrastinateJob.objects.filter(task_name=task, status__in=status)


def works_on(row: Measured) -> bool:
    """Whether a worker that is alive has the row's job in hand."""
    _, name = TASKS[type(row)]
    alive = timezone.now() - timedelta(seconds=STALLED_S)
    doing = _jobs(type(row), ("doing",)).filter(**{f"args__{name}": row.pk})
    return doing.filter(worker__last_heartbeat__gte=alive).exists()


def settle_orphans() -> int:
    """Ends every busy row whose job is gone, failed for good or was never there; returns how many."""
    settled = 0
    for row_type, (_, name) in TASKS.items():
        jobs = _jobs(row_type, ("todo", "doing")).values_list(
            f"args__{name}", flat=True
        )
        # A row that was just asked for may be a moment ahead of its job.
        waiting = Q(asked_at__isnull=True) | Q(asked_at__lt=timezone.now() - PATIENCE)
        orphans = row_type.objects.filter(waiting, state__in=BUSY).exclude(
            pk__in=[int(key) for key in jobs]
        )
        settled += orphans.filter(cancel_asked=True).update(state=State.CANCELLED)
        settled += orphans.filter(cancel_asked=False).update(
            state=State.FAILED, says=BROKEN_OFF
        )
    return settled


def health() -> dict[str, Any]:
    """Whether the queue is served, how many jobs wait, and how old the oldest of them is [s]."""
    now = timezone.now()
    served = ProcrastinateWorker.objects.filter(
        last_heartbeat__gte=now - timedelta(seconds=STALLED_S)
    ).exists()
    waiting = ProcrastinateJob.objects.filter(status="todo").filter(
        Q(scheduled_at__isnull=True) | Q(scheduled_at__lte=now)
    )
    oldest = waiting.aggregate(at=Min("procrastinateevent__at"))["at"]
    if oldest:
        age = (now - oldest).total_seconds()
    else:
        age = None
    return {
        "served": served,
        "waiting": waiting.count(),
        "oldest_s": None if age is None else round(age, 1),
    }
