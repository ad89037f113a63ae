"""The lane for heavy work of a web process: one piece at a time, in a thread beside those that answer pages.

Who asks waits for a moment. What takes longer goes on, and the page that is shown meanwhile asks again. A person has
one piece in the lane: a newer one takes the place of an older one that has not begun, so that nobody fills it.
"""

import contextvars
import logging
import threading
from collections.abc import Callable, Hashable
from typing import Any

from django.conf import settings
from django.db import connections
from django.utils import timezone

from rapzel.ui.memory import give_back

log = logging.getLogger(__name__)
_TURNS = 5  # jobs, the one that is done included, after which the lane is full
_REMEMBERED = 20  # answers that are kept for those who ask again


class Job:
    """A piece of work: who asked for it, and what came of it once it has ended.

    It is done as it was asked for: on the asker's clock and in the asker's units, which a thread does not inherit.
    """

    def __init__(self, who: Hashable, key: Hashable, work: Callable[[], Any]) -> None:
        self.who, self.key, self._work = who, key, work
        self.begun = False
        self._context = contextvars.copy_context()
        self._clock = timezone.get_current_timezone()
        self.result: Any = None
        self.error: Exception | None = None
        self.ended = threading.Event()

    def _as_asked(self) -> Any:
        with timezone.override(self._clock):
            return self._work()

    def do(self) -> None:
        """Does it, and keeps what it returns or raises for whoever asked."""
        try:
            self.result = self._context.run(self._as_asked)
        except Exception as error:
            # Raised again where somebody waits for it; often nobody does any more.
            log.warning("work in the lane failed: %r", error, exc_info=error)
            self.error = error
        finally:
            # The answer is remembered, not what it was made from: that may be megabytes.
            del self._work, self._context


class Lane:
    """Jobs by their keys, one of them at a time. Who asks for the same key shares the job."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._turn = threading.Lock()
        self._jobs: dict[Hashable, Job] = {}
        self._newest: dict[Hashable, Job] = {}

    @property
    def is_full(self) -> bool:
        """Whether one waits longer for a turn than work is worth that can be done elsewhere."""
        with self._lock:
            under_way = sum(not job.ended.is_set() for job in self._jobs.values())
        return under_way >= _TURNS

    def ask(self, who: Hashable, key: Hashable, work: Callable[[], Any]) -> Any:
        """What the work returns, or None where it takes longer than a page waits; what it raises is raised here.

        who: a newer job of the same one takes the place of an older one that has not begun.
        """
        if settings.LANE_WAIT_S is None:  # as tests want it
            return work()
        job = self._job(who, key, work)
        if not job.ended.wait(settings.LANE_WAIT_S):
            return None
        if job.error is not None:
            self._forget(key, job)
            raise job.error
        return job.result

    def _job(self, who: Hashable, key: Hashable, work: Callable[[], Any]) -> Job:
        """The job of a key, begun unless it is under way or has ended a moment ago."""
        with self._lock:
            if key in self._jobs:
                return self._jobs[key]
            # Now, and not when its turn comes: until then others would wait for what nobody does.
            older = self._newest.get(who)
            if older is not None and not older.begun:
                self._jobs.pop(older.key, None)
            job = self._jobs[key] = self._newest[who] = Job(who, key, work)
        # A daemon: a server that is told to stop does not wait for work that can be asked for again.
        threading.Thread(target=self._take_turn, args=(job,), daemon=True).start()
        return job

    def _take_turn(self, job: Job) -> None:
        with self._turn:
            with self._lock:
                # Not where a newer question of the same person came while this one waited for its turn.
                job.begun = self._newest.get(job.who) is job
            if job.begun:
                job.do()
                connections.close_all()  # those of this thread
        self._ended(job)
        # What the work held goes back to the system; the C library would keep it.
        give_back()

    def _ended(self, job: Job) -> None:
        """Lets those who wait know, and forgets the oldest jobs."""
        with self._lock:
            if self._newest.get(job.who) is job:
                del self._newest[job.who]
            ended = [key for key, each in self._jobs.items() if each.ended.is_set()]
            # In the order in which they were asked: the oldest go.
            for key in ended[:-_REMEMBERED]:
                del self._jobs[key]
        job.ended.set()

    def _forget(self, key: Hashable, job: Job) -> None:
        with self._lock:
            if self._jobs.get(key) is job:
                del self._jobs[key]


LANE = Lane()
