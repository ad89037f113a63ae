"""Work in the background: the queue's doors to the measuring, and the caretaker's rounds.

Done by `manage.py work`. A job may run twice (a worker that dies is replaced), so it begins anew.
"""

import logging
from collections.abc import Callable
from typing import Any

from asgiref.sync import sync_to_async
from django.db import (
    InterfaceError,
    OperationalError,
    close_old_connections,
    connections,
)
from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.jobs import Status

from rapzel.bench import keeper
from rapzel.bench.models import BUSY, ColourRun, Measured, State, Trace
from rapzel.bench.reporting import Cancelled
from rapzel.core.shared.errors import CoreError
from rapzel.ui import housekeeping

log = logging.getLogger(__name__)
_ATTEMPTS = 4


def _run(row_type: type[Measured], pk: int, work: Callable[[Any], None]) -> None:
    """Does the work on a row that waits for it. Whatever happens, the row says so in the end."""
    own = row_type.objects.filter(pk=pk)
    # Stopped, or ended, while it waited: nothing is left to do.
    if not own.filter(state__in=BUSY).update(state=State.RUNNING):
        return
    try:
        work(own.get())
    except Cancelled:
        own.update(
            state=State.CANCELLED, says="Stopped as asked. What was brought in is kept."
        )
    except CoreError as error:
        own.update(state=State.FAILED, says=str(error)[:1000])
    except (OperationalError, InterfaceError):
        # the database was away: the queue tries the job again, and the row says until then that it
        # is busy
        raise
    except Exception:
        log.exception("%s %s could not be measured", row_type.__name__, pk)
        own.update(
            state=State.FAILED,
            says="Something went wrong on Rapzel's side. What was brought in is kept.",
        )


def run(trace_id: int) -> None:
    """Measures one trace."""
    from rapzel.bench import measuring  # noqa: PLC0415  signal processing, which takes memory that web servers spare

    _run(Trace, trace_id, measuring.measure)


def run_colour(run_id: int) -> None:
    """Measures the frames of one run."""
    from rapzel.bench import measuring  # noqa: PLC0415

    _run(ColourRun, run_id, measuring.measure_colour)


def _on_its_own(work: Callable[[int], None], pk: int) -> None:
    """Works in the worker's thread and leaves no database connection behind in it."""
    close_old_connections()
    try:
        work(pk)
    finally:
        connections.close_all()


_AGAIN = RetryStrategy(
    max_attempts=_ATTEMPTS,
    exponential_wait=4,
    retry_exceptions={OperationalError, InterfaceError},
)


@app.task(queue="bench", name="measure_colour", retry=_AGAIN)
def measure_colour(run_id: int) -> None:
    """The queue's door to `run_colour`."""
    _on_its_own(run_colour, run_id)


@app.task(queue="bench", name="measure", retry=_AGAIN)
def measure(trace_id: int) -> None:
    """The queue's door to `run`."""
    _on_its_own(run, trace_id)


@app.periodic(cron="* * * * * */15")
@app.task(
    queue="bench",
    name="pick_up_stalled",
    queueing_lock="pick_up_stalled",
    pass_context=True,
)
async def pick_up_stalled(context: JobContext, timestamp: int) -> None:
    """Jobs whose worker died go back to the queue, and rows without a job are ended in words."""
    manager = context.app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=keeper.STALLED_S):
        # A recording that kills its worker each time would kill one for ever.
        if job.attempts < _ATTEMPTS:
            await manager.retry_job(job)
        else:
            await manager.finish_job(job, status=Status.FAILED, delete_job=False)
    await sync_to_async(_off_the_loop)(keeper.settle_orphans)


@app.periodic(cron="17 4 * * *")
@app.task(queue="bench", name="tidy_up", queueing_lock="tidy_up", pass_context=True)
async def tidy_up(context: JobContext, timestamp: int) -> None:
    """Once a day: old jobs, and all that the apps no longer keep."""
    await context.app.job_manager.delete_old_jobs(
        nb_hours=keeper.KEPT_JOBS_H,
        include_failed=True,
        include_cancelled=True,
        include_aborted=True,
    )
    await sync_to_async(_off_the_loop)(housekeeping.tidy)


def _off_the_loop(work: Callable[[], Any]) -> None:
    """Database work in a thread of its own, which leaves no connection behind."""
    try:
        work()
    finally:
        connections.close_all()
