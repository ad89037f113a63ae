"""The service worker, served from the root so that it may answer for every page."""

from functools import cache
from pathlib import Path

from django.contrib.staticfiles import finders
from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_safe


@cache
def _source() -> bytes:
    found = finders.find("rapzel/sw.js")
    assert isinstance(found, str), "it ships with the application"
    return Path(found).read_bytes()


@require_safe
def service_worker(request: HttpRequest) -> HttpResponse:
    """The script; the browser asks for it anew each time, as a worker that is old would serve old pages."""
    response = HttpResponse(_source(), content_type="text/javascript; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response
