"""Pages of the product's own for what could not be answered; parts of pages get the words alone."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from rapzel.ui.http import is_htmx, notice


def refused(request: HttpRequest, says: str, status: int) -> HttpResponse:
    """The words why, as a page of its own, or as a notice where a part of a page was asked for."""
    if is_htmx(request):
        return notice(request, says, status)
    return render(request, "ui/refused.html", {"says": says}, status=status)


def bad_request(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
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


def permission_denied(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """403."""
    return refused(request, "This is not open to your account.", 403)


def page_not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """404: also for what belongs to somebody else."""
    return refused(
        request, "There is nothing here: it was removed, or it is not in your account.", 404
    )


def server_error(request: HttpRequest) -> HttpResponse:
    """500: nothing of the request is relied on, as anything may have failed."""
    return render(None, "ui/server_error.html", status=500)
