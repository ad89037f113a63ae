"""Decoding in a process of its own: a picture that is too much for it ends that process, and nothing else.

One at a time on a machine, and nobody waits for it: who comes meanwhile is told to come again, so that of a server's
threads one at most stands here, and the others answer pages. All processes that read pictures agree by the lock on a
file. The decoder gets what the pages leave of the processor.
"""

import fcntl
import json
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from rapzel.core.decoding.cutting import Packed
from rapzel.core.decoding.header import PictureError, read_header
from rapzel.core.shared.errors import CoreError

TIME_S = 30  # of decoding
# bytes: forty million pixels with transparency, and a copy of them
MEMORY = 700_000_000
REFUSED = 3  # how the process ends where it says why it takes a picture not
_ROOT = Path(__file__).resolve().parents[3]
_KINDS = {"small": ("JPEG", "PNG", "WEBP"), "cutout": ("PNG",)}


class DecoderBusy(CoreError):
    """Too many pictures at once; str() says so."""


def small_jpeg(data: bytes, lock: Path) -> bytes:
    """`small.small_jpeg`, apart; lock: the file of the machine's decoder. Raises PictureError, DecoderBusy."""
    return _decoded("small", data, lock)


def packed(data: bytes, lock: Path) -> Packed:
    """`cutting.packed`, apart; lock: the file of the machine's decoder. Raises PictureError, DecoderBusy."""
    answer = json.loads(_decoded("cutout", data, lock))
    left, top, right, bottom = answer["box"]
    return Packed(answer["picture"], (left, top, right, bottom))


def _decoded(task: str, data: bytes, lock: Path) -> bytes:
    read_header(data, _KINDS[task])  # what the header tells is refused at once
    with one_at_a_time(lock):
        return _run(task, data)


@contextmanager
def one_at_a_time(lock: Path) -> Iterator[None]:
    """The decoder's turn, as long as the file is held; a process that ends gives it back. Raises DecoderBusy."""
    lock.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    with lock.open("ab") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise DecoderBusy(
                "Other pictures are being read just now. Send this one again in a moment."
            ) from None
        yield


def _run(task: str, data: bytes) -> bytes:
    try:
        # This very Python with a module of ours; the picture is its input only.
        ran = subprocess.run(  # noqa: S603
            [sys.executable, "-m", "rapzel.core.decoding", task],
            input=data,
            capture_output=True,
            timeout=TIME_S,
            cwd=_ROOT,
            check=False,
        )
    except subprocess.TimeoutExpired:
        raise PictureError(
            f"Reading this picture takes longer than {TIME_S} s. Export it smaller and send it again."
        ) from None
    if ran.returncode == REFUSED:
        raise PictureError(ran.stdout.decode())
    # Killed by its own limits, which is how too large a picture ends.
    if ran.returncode != 0:
        raise PictureError(
            "Reading this picture needs more memory than it may have. Export it smaller and send it again."
        )
    return ran.stdout
