"""Pages that show a scene beside its inputs: what follows a change on each, and which inputs stand there.

The workbench is one; an application above adds its own when it starts.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.http import HttpRequest

from rapzel.shoots.models import Scene
from rapzel.workbench.answer import Answer

Context = Callable[[HttpRequest, Scene, Answer], dict[str, Any]]


@dataclass(frozen=True)
class ScenePage:
    """One of them. changed: the template of what follows a change; groups: keys of its inputs, empty for all."""

    key: str
    changed: str
    context: Context
    groups: tuple[str, ...] = ()


PAGES: dict[str, ScenePage] = {}


def register(page: ScenePage) -> None:
    """Makes a page known by its key, which its requests carry as `on`."""
    PAGES[page.key] = page


def page_of(request: HttpRequest) -> ScenePage:
    """The page that a request comes from; the workbench where it says none."""
    key = request.POST.get("on") or request.GET.get("on") or ""
    return PAGES.get(key) or PAGES["workbench"]
