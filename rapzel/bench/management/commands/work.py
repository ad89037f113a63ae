"""manage.py work : works off the queue, and goes on after the database was away."""

import logging
import re
import resource
import time
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.db import connections
from procrastinate.contrib.django.django_connector import DjangoConnector
from procrastinate.contrib.django.procrastinate_app import current_app

log = logging.getLogger(__name__)
# bytes that jobs may take beside what the worker has loaded
MOST_MEMORY = 1_500_000_000
_LOOK_S = 1.0  # between looks for a job that had to wait for another
_PATIENCE_S = (1, 2, 4, 8, 15)  # before the next try, the longer the more have failed


def limit_memory(more: int) -> None:
    """From now on no more than so many further bytes: a job that wants them fails, and the machine stays well."""
    status = Path("/proc/self/status").read_text("ascii")
    now = re.search(r"^VmData:\s+(\d+) kB$", status, re.MULTILINE)
    if now is None:
        return  # not Linux, where nothing is limited
    _, hard = resource.getrlimit(resource.RLIMIT_DATA)
    resource.setrlimit(resource.RLIMIT_DATA, (int(now[1]) * 1024 + more, hard))


class Command(BaseCommand):
    help = "Measures recordings and frames in the background, until it is stopped."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--concurrency", type=int, default=2, help="jobs at a time")

    def handle(self, *args: Any, **options: Any) -> None:
        limit_memory(MOST_MEMORY)
        failed = 0
        while True:
            began = time.monotonic()
            try:
                queue = current_app.connector
                assert isinstance(queue, DjangoConnector), (
                    "the queue lives in Django's database"
                )
                current_app.with_connector(queue.get_worker_connector()).run_worker(
                    concurrency=options["concurrency"],
                    fetch_job_polling_interval=_LOOK_S,
                )
                return  # asked to stop
            except Exception:
                if time.monotonic() - began > 60:
                    failed = 0
                else:
                    failed = failed + 1
                wait = _PATIENCE_S[min(failed, len(_PATIENCE_S) - 1)]
                log.exception("the worker stopped; it begins again in %s s", wait)
                connections.close_all()
                time.sleep(wait)
