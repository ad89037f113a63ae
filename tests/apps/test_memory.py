"""What heavy work leaves behind goes back to the machine."""

import ctypes
from pathlib import Path

import pytest

from rapzel.ui.memory import give_back

PIECE = 600  # bytes: more than Python keeps in arenas of its own
PIECES = 100_000


def resident_mb() -> float:
    """What of this process lies in memory now (proc(5), statm)."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * 4096 / 1e6


@pytest.mark.skipif(
    not hasattr(ctypes.CDLL(None), "malloc_trim"),
    reason="the C library gives back by itself",
)
def test_small_pieces_that_are_free_are_given_back() -> None:
    pieces = [bytes(PIECE) for _ in range(PIECES)]
    # above them all: what is free below it stays, unless it is asked for
    last = bytes(PIECE)
    del pieces
    before = resident_mb()
    give_back()
    assert before - resident_mb() > PIECE * PIECES / 1e6 / 2
    assert len(last) == PIECE
