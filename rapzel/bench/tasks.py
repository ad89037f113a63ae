"""Work in the background: reading and measuring a recording, with progress, and stopping when asked.

Done by `manage.py procrastinate worker`. A job may run twice (a worker that dies is replaced), so it begins anew.
"""

import logging
import time
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path

import numpy as np
from django.core.files.storage import default_storage
from django.db import close_old_connections, connections, transaction
from procrastinate import JobContext
from procrastinate.contrib.django import app

from rapzel.bench.models import ColourRun, State, Trace
from rapzel.core.grey_card import FrameError, Patch, find_patch, judge, open_frame, read_patch
from rapzel.core.trace import Layout, Recording, analyse_recording, read
from rapzel.core.trace.samples import TraceError

log = logging.getLogger(__name__)
STALLED_S = 120.0
_ATTEMPTS = 3


class Cancelled(Exception):
    """The owner asked to stop."""


def _report(trace_id: int, share: float) -> None:
    """Notes the progress where the page can see it; raises Cancelled when the owner has asked to stop."""
    Trace.objects.filter(pk=trace_id).update(progress=round(share * 100))
    if Trace.objects.filter(pk=trace_id, cancel_asked=True).exists():
        raise Cancelled


def run(trace_id: int) -> None:
    """Measures one trace. Whatever happens, the trace says so in the end."""
    begun = Trace.objects.filter(pk=trace_id, state__in=(Trace.State.QUEUED, Trace.State.RUNNING)).update(
        state=Trace.State.RUNNING
    )
    if not begun:
        return
    trace = Trace.objects.get(pk=trace_id)
    try:
        _measure(trace)
    except Cancelled:
        _end(trace, Trace.State.CANCELLED, "Stopped as asked. The file is kept; confirm it again to measure it.")
    except TraceError as error:
        _end(trace, Trace.State.FAILED, str(error))
    except Exception:
        log.exception("trace %s could not be measured", trace_id)
        _end(trace, Trace.State.FAILED, "Something went wrong on Rapzel's side. The file is kept; try again.")


def _measure(trace: Trace) -> None:
    _report(trace.pk, 0.02)
    recording = read(Path(trace.file.path), Layout(**trace.layout), lambda share: _report(trace.pk, 0.7 * share))
    result = analyse_recording(recording, trace.channel).to_document()
    _report(trace.pk, 0.9)
    trace.samples_file = _keep(trace, recording)
    trace.result = {**result, "segments": [[each.t0_s, each.dt_s, each.count] for each in recording.segments],
                    "channels": list(recording.channels)}  # fmt: skip
    trace.state, trace.progress, trace.says = Trace.State.DONE, 100, ""
    with transaction.atomic():
        trace.save(update_fields=["samples_file", "result", "state", "progress", "says"])


def _keep(trace: Trace, recording: Recording) -> str:
    """The samples in a form that a page can read quickly; beside the original, which stays as it came."""
    name = f"{trace.file.name}.npz"
    arrays = {
        f"s{s}c{c}": values.astype(np.float32)
        for s, segment in enumerate(recording.segments)
        for c, values in enumerate(segment.values)
    }
    with default_storage.open(name, "wb") as file:
        np.savez(file, **arrays)  # type: ignore[arg-type]
    return name


def _end(trace: Trace, state: str, says: str) -> None:
    Trace.objects.filter(pk=trace.pk).update(state=state, says=says[:1000])


def run_colour(run_id: int) -> None:
    """Measures the frames of one run. Whatever happens, the run says so in the end."""
    known = ColourRun.objects.filter(pk=run_id, state__in=(State.QUEUED, State.RUNNING))
    if not known.update(state=State.RUNNING):
        return
    run = ColourRun.objects.get(pk=run_id)
    try:
        _measure_colour(run)
    except Cancelled:
        known.update(state=State.CANCELLED, says="Stopped as asked. The frames are kept.")
    except FrameError as error:
        known.update(state=State.FAILED, says=str(error)[:1000])
    except Exception:
        log.exception("colour run %s could not be measured", run_id)
        known.update(state=State.FAILED, says="Something went wrong on Rapzel's side. The frames are kept.")


def _measure_colour(run: ColourRun) -> None:
    frames = list(run.frames.all())
    patch = Patch(**run.patch) if run.patch else None
    readings, shown = [], []
    for number, frame in enumerate(frames):
        ColourRun.objects.filter(pk=run.pk).update(progress=round(100 * number / len(frames)))
        if ColourRun.objects.filter(pk=run.pk, cancel_asked=True).exists():
            raise Cancelled
        try:
            with frame.file.open("rb") as file:
                picture = open_frame(file.read())
            patch = patch or find_patch(picture)  # the first frame's patch serves them all: the camera stands still
            readings.append(read_patch(picture, patch, run.white_balance_k))
        except FrameError as error:
            raise FrameError(f"{frame.name}: {error}") from None
    judged = judge(readings, run.tolerance)
    for frame, each in zip(frames, judged, strict=True):
        shown.append(
            {
                "name": frame.name, "power": frame.power, "cct_k": each.reading.cct_k, "duv": each.reading.duv,
                "delta_e00": each.delta_e00, "mired_shift": each.mired_shift, "exposure_stops": each.exposure_stops,
                "beyond": each.beyond,
            }
        )  # fmt: skip
    stops = [each.exposure_stops for each in judged]
    run.result = {"frames": shown, "patch": asdict(patch) if patch else None, "spread_stops": max(stops) - min(stops)}
    run.state, run.progress, run.says = State.DONE, 100, ""
    run.save(update_fields=["result", "state", "progress", "says"])


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
    """Jobs whose worker died go back to the queue."""
    manager = app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_S):
        if job.attempts < _ATTEMPTS:
            await manager.retry_job(job)
    log.debug("stalled jobs looked for at %s, %.0f", timestamp, time.time())
