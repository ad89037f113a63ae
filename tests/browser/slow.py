"""A slow machine on call: the server holds its answers back, and the browser's processor is throttled."""

import random
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any

from django.core.servers.basehttp import ThreadedWSGIServer

from tests.patience import ANSWER_S

LEAST_S, MOST_S = 0.05, 1.5  # that `--slow-machine` holds each answer back
THROTTLED = 4.0  # times slower, of the browser's processor

Application = Callable[[dict[str, Any], Any], Iterable[bytes]]


@dataclass
class Answers:
    """How long each answer of the live server is held back; not at all unless somebody asks for it."""

    least_s: float = 0.0
    most_s: float = 0.0
    seed: str = ""
    only: tuple[str, ...] = ()  # parts of the addresses that are meant; none means all
    _asked: Counter[str] = field(default_factory=Counter)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def held_back_s(self, request: str) -> float:
        """Goes by the seed, the address and how often it was asked, so that a seed delays alike each time. [s]"""
        if not self.most_s or not self._means(request):
            return 0.0
        with self._lock:
            self._asked[request] += 1
            times = self._asked[request]
        return random.Random(f"{self.seed} {request} {times}").uniform(
            self.least_s, self.most_s
        )

    def begin(
        self, seed: str, least_s: float, most_s: float, only: tuple[str, ...] = ()
    ) -> None:
        """Holds answers back from now on."""
        self._asked.clear()
        self.seed, self.least_s, self.most_s, self.only = seed, least_s, most_s, only

    def end(self) -> None:
        """Answers come as fast as they are made."""
        self.begin("", 0.0, 0.0)

    def _means(self, request: str) -> bool:
        return not self.only or any(part in request for part in self.only)


class Requests:
    """The requests that are being answered. What a test leaves behind must not reach into the next one's world."""

    def __init__(self) -> None:
        self._changed = threading.Condition()
        self._count = 0

    @contextmanager
    def answering(self) -> Iterator[None]:
        """One more, until it has been answered."""
        self._add(1)
        try:
            yield
        finally:
            self._add(-1)

    def wait_until_none(self) -> None:
        """Returns once nothing is being answered; fails where that does not end."""
        with self._changed:
            assert self._changed.wait_for(lambda: self._count == 0, ANSWER_S)

    def _add(self, change: int) -> None:
        with self._changed:
            self._count += change
            self._changed.notify_all()


# Of the one live server that a test process has.
ANSWERS = Answers()
REQUESTS = Requests()


class HoldingServer(ThreadedWSGIServer):
    """The live server, whose answers can be held back: pages, fragments, pictures, scripts and styles."""

    def set_app(self, application: Application | None) -> None:
        """Puts the holding back before the application."""
        assert application is not None

        def held_back(environ: dict[str, Any], start_response: Any) -> Iterable[bytes]:
            request = f"{environ['REQUEST_METHOD']} {environ['PATH_INFO']}?{environ['QUERY_STRING']}"
            with REQUESTS.answering():
                time.sleep(ANSWERS.held_back_s(request))
                return application(environ, start_response)

        super().set_app(held_back)
