"""What every page knows."""

from typing import Any

from django.apps import apps
from django.http import HttpRequest


def site(request: HttpRequest) -> dict[str, Any]:
    """Whether this is the demo, and how the person likes the screen."""
    if hasattr(request, "user"):
        theme = getattr(request.user, "theme", "dark")
    else:
        theme = "dark"
    return {"demo": apps.is_installed("rapzel.demo"), "theme": theme}
