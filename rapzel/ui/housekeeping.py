"""What is thrown away after a while. Each app says its own part; the worker of the queue calls them all."""

import logging
from collections.abc import Callable
from datetime import timedelta
from typing import Any

from django.core.management import call_command
from django.db.models import Model
from django.utils import timezone

log = logging.getLogger(__name__)
KEPT = timedelta(days=30)  # of what was removed: until then it can be taken back
_TIDIERS: list[Callable[[], Any]] = []


def register(tidy: Callable[[], Any]) -> None:
    """`tidy` throws away what its app no longer keeps."""
    if tidy not in _TIDIERS:
        _TIDIERS.append(tidy)


def purge(model: type[Model]) -> int:
    """Deletes for good what was put away long ago; returns how many rows went with it."""
    gone, _ = model._default_manager.filter(
        deleted_at__lt=timezone.now() - KEPT
    ).delete()
    return gone


def purge_older(model: type[Model], moment: str) -> int:
    """Deletes for good the rows whose moment, a field, is long ago; returns how many rows went with them."""
    gone, _ = model._default_manager.filter(
        **{f"{moment}__lt": timezone.now() - KEPT}
    ).delete()
    return gone


def tidy() -> None:
    """Old sessions and everything registered; one that fails does not keep the others."""
    for each in (*_TIDIERS, lambda: call_command("clearsessions")):
        try:
            each()
        except Exception:
            log.exception("tidying up failed in one place")
