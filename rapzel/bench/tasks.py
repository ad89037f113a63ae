"""Work in the background: reading and measuring a recording, with progress, and stopping when asked.

Done by `manage.py procrastinate worker`. A job may run twice (a worker that dies is replaced), so it begins anew.
"""

import logging
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np
from django.core.files.storage import default_storage
from django.db import close_old_connections, connections
from procrastinate import JobContext
from procrastinate.contrib.django import app

from rapzel.bench.models import ColourRun, Measured, State, Trace
from rapzel.core.errors import CoreError
from rapzel.core.grey_card import FrameError, Patch, find_patch, judge, open_frame, read_patch
from rapzel.core.trace import Layout, Recording, analyse_recording, read

log = logging.getLogger(__name__)
STALLED_S = 120.0
_ATTEMPTS = 3


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
    np.savez(default_storage.path(name), allow_pickle=False, **arrays)
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


@app.task(queue="bench", name="measure_colour")
def measure_colour(run_id: int) -> None:
    """The queue's door to `run_colour`."""
    _on_its_own(run_colour, run_id)


@app.task(queue="bench", name="measure")
def measure(trace_id: int) -> None:
    """The queue's door to `run`."""
    _on_its_own(run, trace_id)


@app.periodic(cron="* * * * *")
@app.task(queue="bench", name="pick_up_stalled", queueing_lock="pick_up_stalled", pass_context=True)
async def pick_up_stalled(context: JobContext, timestamp: int) -> None:
    """Jobs whose worker died go back to the queue; asked over the worker's own connections."""
    manager = context.app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_S):
        if job.attempts < _ATTEMPTS:
            await manager.retry_job(job)
