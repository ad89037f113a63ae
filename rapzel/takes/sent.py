"""What a browser says of a try that may have waited there: its key, and when it was."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.utils import timezone
from django.utils.dateparse import parse_datetime

LONGEST_WAIT = timedelta(days=30)  # in a browser without a connection


@dataclass(frozen=True)
class Sent:
    """key: the browser's own of the try, so that none is logged twice; at: when it was, None for just now."""

    key: str = ""
    at: datetime | None = None

    @classmethod
    def read(cls, posted: Mapping[str, str]) -> "Sent":
        """From a form's fields."""
        return cls(str(posted.get("key", ""))[:40], _time(posted.get("at", "")))


def _time(text: str) -> datetime | None:
    """A time that the browser noted; None where that is not to be believed."""
    try:
        said = parse_datetime(text)
    except ValueError:
        return None
    if said is None or said.tzinfo is None:
        return None
    age = timezone.now() - said
    if timedelta(0) <= age <= LONGEST_WAIT:
        return said
    return None
