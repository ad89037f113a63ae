"""All that a person has, to take along before an account goes. Each app says its own part when it is set up."""

import tempfile
import zipfile
from collections.abc import Callable, Iterable, Iterator
from typing import IO, Any

# the file's name in the archive, and what it holds
Part = tuple[str, str | bytes | IO[bytes]]
Teller = Callable[[Any], Iterable[Part]]
Forgetter = Callable[[Any], None]

_TELLERS: list[Teller] = []
_FORGETTERS: list[Forgetter] = []
_CHUNK = 2**20


def register(tell: Teller, forget: Forgetter | None = None) -> None:
    """`tell` yields an owner's files; `forget` removes what the database's own rules do not, files above all."""
    if tell not in _TELLERS:
        _TELLERS.append(tell)
    if forget is not None and forget not in _FORGETTERS:
        _FORGETTERS.append(forget)


def archive_of(owner: Any) -> IO[bytes]:
    """A ZIP file of everything, on disk while it is made: recordings may be large."""
    file = tempfile.TemporaryFile(prefix="rapzel-")  # noqa: SIM115  the answer closes it once it is sent
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in _parts_of(owner):
            if isinstance(content, str | bytes):
                archive.writestr(name, content)
                continue
            with content, archive.open(name, "w", force_zip64=True) as entry:
                while chunk := content.read(_CHUNK):
                    entry.write(chunk)
    file.seek(0)
    return file


def _parts_of(owner: Any) -> Iterator[Part]:
    for tell in _TELLERS:
        yield from tell(owner)


def forget(owner: Any) -> None:
    """Removes what an owner's rows would leave behind; called before the rows go."""
    for each in _FORGETTERS:
        each(owner)
