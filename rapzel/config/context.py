"""What every page knows."""

from typing import Any

from django.apps import apps
from django.http import HttpRequest

# What applications do on every page: tries that wait are sent from whichever is open, and what the pages need that are
# kept for a place without network is loaded by every page, so that it is kept as well.
SCRIPTS_OF_EVERY_PAGE = ("takes/sending.js", "takes/offline.js", "takes/takes.js")


def site(request: HttpRequest) -> dict[str, Any]:
    """Whether this is the demo, and how the person likes the screen."""
    if hasattr(request, "user"):
        theme = getattr(request.user, "theme", "dark")
    else:
        theme = "dark"
    return {
        "demo": apps.is_installed("rapzel.demo"),
        "theme": theme,
        "scripts_of_every_page": SCRIPTS_OF_EVERY_PAGE,
    }
