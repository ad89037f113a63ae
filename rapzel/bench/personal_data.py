"""What of the bench goes along when a person leaves, and what is thrown away after a while: rows and their files."""

import contextlib
import json
from collections.abc import Iterable, Iterator
from typing import Any

from django.core.files.storage import default_storage
from django.utils import timezone
from django.utils.text import slugify

from rapzel.bench.models import ColourFrame, ColourRun, Trace
from rapzel.ui import housekeeping
from rapzel.ui.archive import Part


def tell(owner: Any) -> Iterator[Part]:
    """Each recording as it came with what was found, and each frame of a grey card."""
    for trace in Trace.objects.visible_to(owner).iterator(chunk_size=20):
        name = f"bench/{slugify(trace.name) or 'trace'}-{trace.pk}"
        if trace.result is not None:
            yield f"{name}.json", json.dumps(trace.result, indent=2, ensure_ascii=False)
        with contextlib.suppress(
            OSError
        ):  # a file that is lost must not keep the rest from going along
            yield (
                f"{name}/{str(trace.file.name).rsplit('/', 1)[-1]}",
                trace.file.open("rb"),
            )
    for run in ColourRun.objects.visible_to(owner).prefetch_related("frames"):
        name = f"colour/{slugify(run.name) or 'run'}-{run.pk}"
        yield f"{name}.json", json.dumps(run.result, indent=2, ensure_ascii=False)
        for frame in run.frames.all():
            with contextlib.suppress(OSError):
                yield f"{name}/{frame.pk}-{frame.name}", frame.file.open("rb")


def _files_of(traces: Iterable[Trace], frames: Iterable[ColourFrame]) -> list[str]:
    names = [
        name for trace in traces for name in (str(trace.file.name), trace.samples_file)
    ]
    return [
        name for name in [*names, *(str(frame.file.name) for frame in frames)] if name
    ]


def _delete_files(names: list[str]) -> None:
    for name in names:
        with contextlib.suppress(OSError):
            default_storage.delete(name)


def forget(owner: Any) -> None:
    """Deletes the owner's files; the rows go with the account."""
    frames = ColourFrame.objects.filter(run__owner=owner)
    _delete_files(_files_of(Trace.objects.filter(owner=owner).defer("result"), frames))


def tidy() -> None:
    """Removed recordings and runs for good, their files first: a row without a file would be the lesser evil."""
    long_ago = timezone.now() - housekeeping.KEPT
    traces = Trace.objects.filter(deleted_at__lt=long_ago).defer("result")
    _delete_files(
        _files_of(traces, ColourFrame.objects.filter(run__deleted_at__lt=long_ago))
    )
    for model in (Trace, ColourRun):
        housekeeping.purge(model)
