"""Trigger units for the tests: the simulated one in a thread, and hand-made ones that do all wrong."""

import contextlib
import itertools
import socket
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from types import SimpleNamespace

import pytest

from rapzel.dialling import unit
from rapzel.dialling.shots import THREAD
from simulators.unit import Server
from tests.patience import ANSWER_S

Behave = Callable[[socket.socket], None]


def be_patient(monkeypatch: pytest.MonkeyPatch) -> None:
    """Units are waited for as long as a slow machine takes; what is said of a silent one is asked with less."""
    monkeypatch.setattr(unit, "ANSWER_S", ANSWER_S)
    monkeypatch.setattr(unit, "CONNECT_S", ANSWER_S)


def in_turn(monkeypatch: pytest.MonkeyPatch) -> None:
    """Shots are named in turn, not by chance: what the simulated set does with a shot is drawn by its name."""
    names = itertools.count(1)
    counted = SimpleNamespace(token_hex=lambda _length: f"{next(names):012x}")
    monkeypatch.setattr("rapzel.dialling.models.secrets", counted)


@contextmanager
def standing_in(one: bool = False, slow: bool = False) -> Iterator[str]:
    """The simulated unit; its address. Ends when no conversation goes on any more."""
    with Server(one=one, slow=slow) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"127.0.0.1:{server.port}"
        wait_for_conversations()
        server.shutdown()


def wait_for_conversations() -> None:
    """Until no shot is talked over: their threads use the database, which a test is about to empty."""
    for thread in threading.enumerate():
        if thread.name.startswith(THREAD):
            thread.join(ANSWER_S)
            assert not thread.is_alive()


@contextmanager
def behaving(behave: Behave) -> Iterator[str]:
    """A listener that does what it is told with each connection."""
    with socket.create_server(("127.0.0.1", 0)) as listener:

        def serve() -> None:
            while True:
                try:
                    connection, _ = listener.accept()
                except OSError:
                    return
                threading.Thread(
                    target=_behave, args=(behave, connection), daemon=True
                ).start()

        threading.Thread(target=serve, daemon=True).start()
        yield f"127.0.0.1:{listener.getsockname()[1]}"
        listener.shutdown(socket.SHUT_RDWR)


def _behave(behave: Behave, connection: socket.socket) -> None:
    with connection, contextlib.suppress(OSError):
        behave(connection)
