"""The process that decodes one picture: python -m rapzel.core.decoding small|cutout, the file in, what is kept out.

It limits itself before it reads anything. Exit status 3: standard output says why the picture is not taken.
"""

import json
import os
import resource
import sys
from dataclasses import asdict

from rapzel.core.decoding.apart import MEMORY, REFUSED, TIME_S
from rapzel.core.decoding.cutting import packed
from rapzel.core.decoding.header import PictureError
from rapzel.core.decoding.small import small_jpeg


def _limit() -> None:
    # Pages go first.
    os.nice(10)
    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (TIME_S, TIME_S))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _cut_out(data: bytes) -> bytes:
    return json.dumps(asdict(packed(data))).encode()


TASKS = {"small": small_jpeg, "cutout": _cut_out}


def main() -> int:
    """Decodes what stands in standard input."""
    _limit()
    try:
        answer = TASKS[sys.argv[1]](sys.stdin.buffer.read())
    except PictureError as error:
        # Too large is not unreadable: the parent has its own words for it.
        if isinstance(error.__cause__, MemoryError):
            return 1
        sys.stdout.write(str(error))
        return REFUSED
    sys.stdout.buffer.write(answer)
    return 0


if __name__ == "__main__":
    sys.exit(main())
