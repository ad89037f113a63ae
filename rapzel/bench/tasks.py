"""Work in the background: reading and measuring a recording, with progress, and stopping when asked.

Done by `manage.py work`. A job may run twice (a worker that dies is replaced), so it begins anew.
"""

import logging
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np
from asgiref.sync import sync_to_async
from django.core.files.storage import default_storage
from django.db import InterfaceError, OperationalError, close_old_connections, connections
from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.jobs import Status

from rapzel.bench import keeper
from rapzel.bench.models import ColourRun, Measured, State, Trace
from rapzel.core.errors import CoreError
from rapzel.core.grey_card import FrameError, Patch, find_patch, judge, open_frame, read_patch
from rapzel.core.trace import Layout, Recording, analyse_recording, read
from rapzel.ui import housekeeping

log = logging.getLogger(__name__)
_ATTEMPTS = 4


class Cancelled(Exception):
    """The owner asked to stop."""


def _report(row: Measured, share: float) -> None:
    """Notes the progress where the page can see it; raises Cancelled when the owner has asked to stop."""
    own = type(row).objects.filter(pk=row.pk)
    own.update(progress=round(share * 100))
    if own.filter(cancel_asked=True).exists():
        raise Cancelled


def _run(row_type: type[Measured], pk: int, work: Callable[[Any], None]) -> None:
    """Does the work on a row that waits for it. Whatever happens, the row says so in the end."""
    own = row_type.objects.filter(pk=pk)
    if not own.filter(state__in=(State.QUEUED, State.RUNNING)).update(state=State.RUNNING):
        return
    try:
        work(own.get())
    except Cancelled:
        own.update(state=State.CANCELLED, says="Stopped as asked. What was brought in is kept.")
    except CoreError as error:
        own.update(state=State.FAILED, says=str(error)[:1000])
    except (OperationalError, InterfaceError):
        raise  # the database was away: the queue tries the job again, and the row says until then that it is busy
    except Exception:
        log.exception("%s %s could not be measured", row_type.__name__, pk)
        own.update(state=State.FAILED, says="Something went wrong on Rapzel's side. What was brought in is kept.")


def _done(row: Measured, result: dict[str, Any], **more: Any) -> None:
    """Stores the result; a result and the state that says so appear together."""
    own = type(row).objects.filter(pk=row.pk)
    own.update(result=result, state=State.DONE, progress=100, says="", **more)


def run(trace_id: int) -> None:
    """Measures one trace."""
    _run(Trace, trace_id, _measure)


def run_colour(run_id: int) -> None:
    """Measures the frames of one run."""
    _run(ColourRun, run_id, _measure_colour)


def _measure(trace: Trace) -> None:
    _report(trace, 0.02)
    recording = read(Path(trace.file.path), Layout(**trace.layout), lambda share: _report(trace, 0.7 * share))
    result = analyse_recording(recording, trace.channel).to_document()
    _report(trace, 0.9)
    segments = [[each.t0_s, each.dt_s, each.count] for each in recording.segments]
    result |= {"segments": segments, "channels": list(recording.channels)}
    _done(trace, result, samples_file=_keep(trace, recording), summary=summary_of(result))


def summary_of(result: dict[str, Any]) -> dict[str, Any]:
    """What a list shows of a result."""
    return {
        "t05_s": result["t05_s"], "t01_s": result["t01_s"], "pops": len(result["pops"]),
        "light_sd_stops": result["light_sd_stops"], "codes": [warning["code"] for warning in result["warnings"]],
    }  # fmt: skip


def _keep(trace: Trace, recording: Recording) -> str:
    """The samples in a form that a page can read quickly; beside the original, which stays as it came."""
    name = f"{trace.file.name}.npz"
    arrays = {
        f"s{s}c{c}": values.astype(np.float32)
        for s, segment in enumerate(recording.segments)
        for c, values in enumerate(segment.values)
    }
    path = Path(default_storage.path(name))
    begun = path.with_suffix(".begun")
    try:
        with begun.open("wb") as file:  # under its own name only once it is whole: a disk may be full
            np.savez(file, allow_pickle=False, **arrays)
        begun.replace(path)
    finally:
        begun.unlink(missing_ok=True)
    return name


def _measure_colour(run: ColourRun) -> None:
    frames = list(run.frames.all())
    patch = Patch(**run.patch) if run.patch else None
    readings = []
    for number, frame in enumerate(frames):
        _report(run, number / len(frames))
        try:
            with frame.file.open("rb") as file:
                picture = open_frame(file.read())
            patch = patch or find_patch(picture)  # the first frame's patch serves them all: the camera stands still
            readings.append(read_patch(picture, patch, run.white_balance_k))
        except FrameError as error:
            raise FrameError(f"{frame.name}: {error}") from None
    judged = judge(readings, run.tolerance)
    shown = [
        {
            "name": frame.name, "power": frame.power, "cct_k": each.reading.cct_k, "duv": each.reading.duv,
            "delta_e00": each.delta_e00, "mired_shift": each.mired_shift, "exposure_stops": each.exposure_stops,
            "beyond": each.beyond,
        }
        for frame, each in zip(frames, judged, strict=True)
    ]  # fmt: skip
    stops = [each.exposure_stops for each in judged]
    found = asdict(patch) if patch else None
    _done(run, {"frames": shown, "patch": found, "spread_stops": max(stops) - min(stops)})


def _on_its_own(work: Callable[[int], None], pk: int) -> None:
    """Works in the worker's thread and leaves no database connection behind in it."""
    close_old_connections()
    try:
        work(pk)
    finally:
        connections.close_all()


_AGAIN = RetryStrategy(max_attempts=_ATTEMPTS, exponential_wait=4, retry_exceptions={OperationalError, InterfaceError})


@app.task(queue="bench", name="measure_colour", retry=_AGAIN)
def measure_colour(run_id: int) -> None:
    """The queue's door to `run_colour`."""
    _on_its_own(run_colour, run_id)


@app.task(queue="bench", name="measure", retry=_AGAIN)
def measure(trace_id: int) -> None:
    """The queue's door to `run`."""
    _on_its_own(run, trace_id)


@app.periodic(cron="* * * * * */15")
@app.task(queue="bench", name="pick_up_stalled", queueing_lock="pick_up_stalled", pass_context=True)
async def pick_up_stalled(context: JobContext, timestamp: int) -> None:
    """Jobs whose worker died go back to the queue, and rows without a job are ended in words."""
    manager = context.app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=keeper.STALLED_S):
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
        nb_hours=keeper.KEPT_JOBS_H, include_failed=True, include_cancelled=True, include_aborted=True
    )
    await sync_to_async(_off_the_loop)(housekeeping.tidy)


def _off_the_loop(work: Callable[[], Any]) -> None:
    """Database work in a thread of its own, which leaves no connection behind."""
    try:
        work()
    finally:
        connections.close_all()
