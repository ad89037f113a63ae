"""Pages of the product's own for what could not be answered; parts of pages get the words alone."""

import sys

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from psycopg.errors import DiskFull

from rapzel.ui.http import is_htmx, notice
from rapzel.ui.storage import FULL


def refused(request: HttpRequest, says: str, status: int) -> HttpResponse:
    """The words why, as a page of its own, or as a notice where a part of a page was asked for."""
    if is_htmx(request):
        return notice(request, says, status)
    return render(request, "ui/refused.html", {"says": says}, status=status)


def bad_request(
    request: HttpRequest, exception: Exception | None = None
) -> HttpResponse:
    """400: what was sent could not be read at all."""
    return refused(
        request,
        "What was sent could not be read: it is too large, has too many parts, or is broken.",
        400,
    )


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """403: the page was made before the last login, or cookies are off."""
    says = "This page was made before you logged in last. Reload it and try again; cookies must be allowed."
    return refused(request, says, 403)


def permission_denied(
    request: HttpRequest, exception: Exception | None = None
) -> HttpResponse:
    """403."""
    return refused(request, "This is not open to your account.", 403)


def page_not_found(
    request: HttpRequest, exception: Exception | None = None
) -> HttpResponse:
    """404: also for what belongs to somebody else."""
    return refused(
        request,
        "There is nothing here: it was removed, or it is not in your account.",
        404,
    )


AWAY = (
    "Rapzel's database does not answer",
    "It comes back by itself as a rule: try again in a moment.",
)
FULL_DISK = (
    "Rapzel's disk is full",
    "Nothing more can be stored until whoever runs this site makes room.",
)
BROKEN = (
    "Something went wrong on Rapzel's side",
    "Go back and try again; if it happens again, tell whoever runs this site the time.",
)


def server_error(request: HttpRequest) -> HttpResponse:
    """500, 503 without a database, 507 with a full disk. Nothing of the request is used: anything may have failed."""
    status, (title, says) = _why(sys.exc_info()[1])
    return render(
        None, "ui/server_error.html", {"title": title, "says": says}, status=status
    )


def _why(error: BaseException | None) -> tuple[int, tuple[str, str]]:
    """(status, words) for what has failed."""
    causes = [error]
    # What failed first is wrapped by what gave up because of it: the whole chain is looked through.
    while causes[-1] is not None:
        causes.append(causes[-1].__cause__)
    # Before the database: one that has no room to write does not answer either.
    if any(_is_disk_full(cause) for cause in causes):
        return 507, FULL_DISK
    if any(isinstance(cause, OperationalError | InterfaceError) for cause in causes):
        return 503, AWAY
    return 500, BROKEN


def _is_disk_full(error: BaseException | None) -> bool:
    """Whether a disk was full, this machine's or the database's."""
    return isinstance(error, DiskFull) or getattr(error, "errno", None) in FULL
