"""Parts of pages that depend on nothing but a state, written once for each state and kept for every process.

What a part was written from, and this version of the code, are its key; so nothing kept is ever out of date.
"""

import hashlib
import logging
import pickle
import random
import zlib
from collections.abc import Callable, Mapping
from functools import cache
from pathlib import Path
from typing import Any, TypeVar

from django.conf import settings
from django.core.cache import caches
from django.core.cache.backends.filebased import FileBasedCache
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.safestring import SafeString

Name = TypeVar("Name")
log = logging.getLogger(__name__)
_LOOKED_THROUGH = 0.005  # share of the parts stored after which old ones are looked for


class KeptOnDisk(FileBasedCache):
    """Django's own cache in files, which the processes of a machine share.

    What finds no room is not kept, and what a loss of power left half written is made anew: nobody sees either.
    """

    def get(self, key: str, default: Any = None, version: int | None = None) -> Any:
        try:
            return super().get(key, default, version)
        except (EOFError, OSError, pickle.UnpicklingError, zlib.error) as error:
            log.warning("could not be read, and is made anew: %s", error)
            return default

    def set(self, *args: Any, **options: Any) -> None:
        try:
            super().set(*args, **options)
        except OSError as error:
            log.warning("not kept: %s", error)


class PartsOnDisk(KeptOnDisk):
    """The same for many small parts; it looks for old ones now and then only.

    Django's counts its files each time that one is stored, which takes longer than to write a part.
    """

    def _cull(self) -> None:
        if random.random() < _LOOKED_THROUGH:
            # Django has it, its stubs do not.
            super()._cull()  # type: ignore[misc]


@cache
def _code() -> str:
    """Another text for every other version of templates and code."""
    told = hashlib.sha256()
    for file in sorted(Path(settings.ROOT, "rapzel").rglob("*")):
        if file.suffix in (".html", ".py"):
            stat = file.stat()
            # Name, size and time: reading a megabyte of code at each start would take longer than
            # it is worth.
            told.update(f"{file.name} {stat.st_size} {stat.st_mtime_ns}\n".encode())
    return told.hexdigest()[:16]


def key_of(template: str, *state: Any) -> str:
    """The key of a part: its template, what it was written from, the code, and the clock."""
    clock = timezone.get_current_timezone_name()  # a part may show times
    # A short key of one length, whatever the state holds.
    return hashlib.sha256(repr((template, _code(), clock, state)).encode()).hexdigest()


def kept(key: str) -> SafeString | None:
    """A part as it is kept under its key; None where it has still to be written."""
    found = caches["fragments"].get(key)
    assert found is None or isinstance(found, SafeString), "kept as it was rendered"
    return found


def written_once(
    template: str, state: tuple[Any, ...], context: Callable[[], dict[str, Any]]
) -> SafeString:
    """A part as it is kept, else written from its context; `state` is all that it depends on."""
    key = key_of(template, *state)
    found = kept(key)
    if found is None:
        found = render_to_string(template, context())
        caches["fragments"].set(key, found)
    return found


def written_each(
    template: str,
    states: Mapping[Name, tuple[Any, ...]],
    contexts: Callable[[list[Name]], Mapping[Name, dict[str, Any]]],
) -> dict[Name, SafeString]:
    """Several parts of a kind by their names; `contexts` is asked once for all that are not kept."""
    keys = {name: key_of(template, *state) for name, state in states.items()}
    # One look for all rows of a list.
    found = caches["fragments"].get_many(keys.values())
    written = {name: found[key] for name, key in keys.items() if key in found}
    missing = [name for name in keys if name not in written]
    for name, context in contexts(missing).items() if missing else ():
        written[name] = render_to_string(template, context)
        caches["fragments"].set(keys[name], written[name])
    return written
