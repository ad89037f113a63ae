"""What the background notes on a row while it works on it, and in the end."""

from typing import Any

from rapzel.bench.models import Measured, State


class Cancelled(Exception):
    """The owner asked to stop."""


def report(row: Measured, share: float) -> None:
    """Notes the progress where the page can see it; raises Cancelled when the owner has asked to stop."""
    own = type(row).objects.filter(pk=row.pk)
    own.update(progress=round(share * 100))
    if own.filter(cancel_asked=True).exists():
        raise Cancelled


def done(row: Measured, result: dict[str, Any], **more: Any) -> None:
    """Stores the result; a result and the state that says so appear together."""
    own = type(row).objects.filter(pk=row.pk)
    own.update(result=result, state=State.DONE, progress=100, says="", **more)
