"""The lane for heavy work in a web process: one at a time, so that plain pages do not wait behind many of them."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager

_LANE = threading.BoundedSemaphore(1)


@contextmanager
def heavy(wait_s: float) -> Iterator[bool]:
    """Whether the lane was free within the time; who does not get it does the work elsewhere, or says so."""
    mine = _LANE.acquire(timeout=wait_s)
    try:
        yield mine
    finally:
        if mine:
            _LANE.release()
