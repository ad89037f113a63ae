"""Rows and jobs that lost each other, what health tells, and what is thrown away after a while."""

import asyncio
import errno
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from pathlib import Path
from types import SimpleNamespace

import pytest
from django.core.files.storage import default_storage
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import OperationalError, connection
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob
from procrastinate.jobs import Status

from rapzel.bench import keeper, services, tasks
from rapzel.bench.models import ColourRun, State, Trace
from rapzel.kit.models import Lens
from rapzel.shoots.models import Scene
from rapzel.takes.services import log_take
from rapzel.ui import housekeeping
from tests.apps.rows import CSV, colour_row, trace_row

LONG_AGO = timezone.now() - timedelta(days=40)


class Queue:
    """Stands for the queue's manager: jobs that went quiet, and what is asked of them."""

    def __init__(self, *attempts: int) -> None:
        self.jobs = [
            SimpleNamespace(id=n, attempts=tries) for n, tries in enumerate(attempts)
        ]
        self.retried: list[int] = []
        self.ended: list[tuple[int, Status]] = []
        self.asked = 0.0

    async def get_stalled_jobs(
        self, seconds_since_heartbeat: float
    ) -> list[SimpleNamespace]:
        self.asked = seconds_since_heartbeat
        return self.jobs

    async def retry_job(self, job: SimpleNamespace) -> None:
        self.retried.append(job.id)

    async def finish_job(
        self, job: SimpleNamespace, status: Status, delete_job: bool
    ) -> None:
        self.ended.append((job.id, status))


@pytest.mark.django_db(transaction=True)
def test_jobs_of_a_dead_worker_are_tried_again_but_not_for_ever() -> None:
    queue = Queue(0, 3, 4, 7)
    context = SimpleNamespace(app=SimpleNamespace(job_manager=queue))
    # the browser tests keep a loop running in this thread
    with ThreadPoolExecutor(1) as own:
        own.submit(lambda: asyncio.run(tasks.pick_up_stalled.func(context, 0))).result()
    assert queue.retried == [0, 1]
    assert queue.ended == [(2, Status.FAILED), (3, Status.FAILED)]
    assert queue.asked <= 30, "jobs of a killed worker go on within a minute"


def busy(owner, state: str, **more) -> Trace:
    trace = trace_row(owner)
    Trace.objects.filter(pk=trace.pk).update(state=state, asked_at=LONG_AGO, **more)
    trace.refresh_from_db()
    return trace


def job(trace: Trace, status: str = "todo", heartbeat: str = "now()") -> None:
    """A job of the queue for the trace, in the queue's own tables."""
    with connection.cursor() as cursor:
        worker = None
        if status == "doing":
            cursor.execute(
                f"INSERT INTO procrastinate_workers (last_heartbeat) VALUES ({heartbeat}) RETURNING id"
            )
            worker = cursor.fetchone()[0]
        cursor.execute(
            "INSERT INTO procrastinate_jobs (queue_name, task_name, args, status, worker_id)"
            " VALUES ('bench', 'measure', jsonb_build_object('trace_id', %s::int), %s::procrastinate_job_status, %s)",
            [trace.pk, status, worker],
        )


def test_rows_without_a_job_are_ended_in_words_and_the_others_left_alone(owner) -> None:
    served, lost, gone, given_up = (
        busy(owner, state) for state in ("queued", "running", "running", "running")
    )
    fresh = busy(owner, "queued")
    Trace.objects.filter(pk=fresh.pk).update(asked_at=timezone.now())
    Trace.objects.filter(pk=gone.pk).update(cancel_asked=True)
    job(served)
    job(given_up, "failed")
    assert keeper.settle_orphans() == 3
    states = {trace.pk: trace for trace in Trace.objects.all()}
    assert states[served.pk].state == State.QUEUED
    assert states[fresh.pk].state == State.QUEUED, (
        "its job comes with the same transaction"
    )
    assert states[gone.pk].state == State.CANCELLED
    for trace in (lost, given_up):
        assert states[trace.pk].state == State.FAILED
        assert "measure it again" in states[trace.pk].says


def test_cancel_ends_a_row_that_nobody_works_on(owner) -> None:
    dead, alive = busy(owner, "running"), busy(owner, "running")
    job(dead, "doing", "now() - interval '5 minutes'")
    job(alive, "doing")
    for trace in (dead, alive):
        services.cancel(trace)
        trace.refresh_from_db()
    assert dead.state == State.CANCELLED
    assert (alive.state, alive.cancel_asked) == (State.RUNNING, True), (
        "its worker will see it"
    )


def test_a_database_that_was_away_leaves_the_row_to_the_next_try(owner) -> None:
    trace = busy(owner, "queued")

    def away(_row: Trace) -> None:
        raise OperationalError("server closed the connection")

    with pytest.raises(OperationalError):
        tasks._run(Trace, trace.pk, away)
    trace.refresh_from_db()
    assert trace.state == State.RUNNING
    assert tasks.measure.retry_strategy.max_attempts > 1


def test_health_tells_of_database_and_queue(client, owner) -> None:
    assert client.get("/healthz").json() == {
        "status": "degraded",
        "database": "answers",
        "queue": {"served": False, "waiting": 0, "oldest_s": None},
    }
    trace = busy(owner, "queued")
    job(trace, "doing")  # a worker lives
    assert client.get("/healthz").json()["status"] == "ok"
    job(trace)
    ProcrastinateJob.objects.filter(status="todo").get()
    with connection.cursor() as cursor:
        cursor.execute(
            "UPDATE procrastinate_events SET at = now() - interval '5 minutes' WHERE type = 'deferred'"
        )
    found = client.get("/healthz").json()
    assert found["status"] == "degraded"
    assert found["queue"]["waiting"] == 1
    assert found["queue"]["oldest_s"] == pytest.approx(300, abs=30)


def test_what_was_removed_long_ago_goes_for_good_with_its_files(owner, scene) -> None:
    old, young, kept = trace_row(owner), trace_row(owner), trace_row(owner)
    run = colour_row(owner)
    lens = Lens.objects.create(owner=owner, name="Gone", deleted_at=LONG_AGO)
    take = log_take(scene, "late")
    for row in (old, run, take):
        type(row).objects.filter(pk=row.pk).update(deleted_at=LONG_AGO)
    young.put_away()
    housekeeping.tidy()
    assert set(Trace.objects.values_list("pk", flat=True)) == {young.pk, kept.pk}
    assert not default_storage.exists(old.file.name)
    assert default_storage.exists(young.file.name)
    assert not ColourRun.objects.exists()
    assert not Lens.objects.filter(pk=lens.pk).exists()
    assert not scene.takes.exists()
    assert Scene.objects.filter(pk=scene.pk).exists()


def test_a_full_disk_leaves_no_half_file_and_says_so(
    visitor, owner, monkeypatch
) -> None:
    def until_it_is_full(_file, chunk_size: int = 0):
        yield CSV[:1000]
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(
        "django.core.files.uploadedfile.InMemoryUploadedFile.chunks", until_it_is_full
    )
    before = {
        path for path in Path(default_storage.path("")).rglob("*") if path.is_file()
    }
    answer = visitor.post(
        "/bench/import/", {"file": SimpleUploadedFile("pop.csv", CSV)}
    )
    assert answer.status_code == 422
    assert "disk is full" in answer.content.decode()
    assert {
        path for path in Path(default_storage.path("")).rglob("*") if path.is_file()
    } == before
    assert not Trace.objects.exists()
