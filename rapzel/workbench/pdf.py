"""HTML to PDF, with the application's own fonts and nothing from anywhere else."""

from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from django.contrib.staticfiles import finders
from weasyprint import HTML
from weasyprint.urls import URLFetcher, URLFetcherResponse

# never asked: every address is answered from the static files
_HOST = "http://rapzel.invalid/"
_TYPES = {".css": "text/css", ".otf": "font/otf"}


class _StaticFiles(URLFetcher):
    """Answers addresses below /static/ from the application's files and refuses all others."""

    def fetch(self, url: str, headers: Any = None) -> URLFetcherResponse:
        path = urlsplit(url).path.lstrip("/").removeprefix("static/")
        if url.startswith(_HOST):
            found = finders.find(path)
        else:
            found = None
        if not isinstance(found, str):
            raise ValueError(f"a run sheet may not load {url}")
        file = Path(found)
        return URLFetcherResponse(
            url,
            file.read_bytes(),
            {"Content-Type": _TYPES.get(file.suffix, "application/octet-stream")},
        )


def to_pdf(html: str) -> bytes:
    """The page as PDF bytes."""
    document = HTML(
        string=html,
        base_url=_HOST,
        url_fetcher=_StaticFiles(allowed_protocols={"data"}, fail_on_errors=True),
    )
    return bytes(document.write_pdf() or b"")
