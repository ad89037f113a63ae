"""Memory that heavy work is done with, given back to the machine."""

import ctypes

_LIBC = ctypes.CDLL(None)


def give_back() -> None:
    """Returns the free pages that the C library keeps for later; where it knows no such call nothing happens.

    Comparisons and searches leave more than ten megabytes behind in small pieces, in each process. It takes some
    milliseconds, in which other threads go on.
    """
    trim = getattr(_LIBC, "malloc_trim", None)  # of glibc
    if trim is not None:
        trim(0)
