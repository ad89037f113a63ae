"""The clock that a person reads: a shoot's own zone on pages about it, else the zone of the person.

Instants are stored in UTC. Whatever is shown, printed or written into a file says its offset from UTC with them.
"""

from collections.abc import Callable
from datetime import datetime, timedelta
from functools import cache
from zoneinfo import ZoneInfo, available_timezones

from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

LONGEST_NAME = 64
# old names of zones that have one of a place
_NO_PLACES = (
    "Etc/",
    "SystemV/",
    "US/",
    "posix/",
    "right/",
)


@cache
def names() -> tuple[str, ...]:
    """The names of all zones, as the tz database has them, in order: `Europe/Berlin`."""
    # Names without a slash are abbreviations that no longer say a place.
    places = [name for name in available_timezones() if "/" in name]
    return ("UTC", *sorted(name for name in places if not name.startswith(_NO_PLACES)))


def choices(unknown: str) -> list[tuple[str, str]]:
    """What a list offers; `unknown` is what stands for a zone that nobody has said."""
    return [("", unknown), *((name, name.replace("_", " ")) for name in names())]


@cache
def is_known(name: str) -> bool:
    """Whether there is a zone of that name, also by one of its older names, which browsers still say."""
    return name == "UTC" or name in available_timezones()


def require_known(name: str) -> None:
    """For fields of models: raises ValidationError for a zone that there is none of."""
    if name and not is_known(name):
        raise ValidationError(
            f"“{name}” is not a time zone. Accepted: a name such as Europe/Berlin, or nothing."
        )


def use(name: str) -> None:
    """From here to the end of this request times are shown in that zone; an empty name changes nothing."""
    if name and is_known(name):
        timezone.activate(ZoneInfo(name))


def in_their_zone(
    get_response: Callable[[HttpRequest], HttpResponse],
) -> Callable[..., HttpResponse]:
    """Middleware: the person's own zone, until a view names that of a shoot."""

    def answer(request: HttpRequest) -> HttpResponse:
        use(str(getattr(request.user, "zone", "")))
        try:
            return get_response(request)
        finally:
            # A thread answers many people one after another.
            timezone.deactivate()

    return answer


def offset_says(at: datetime) -> str:
    """How far the clock there is from UTC at that time: `UTC+1`, `UTC−3:30`, `UTC`."""
    offset = timezone.localtime(at).utcoffset() or timedelta(0)
    minutes = round(offset.total_seconds() / 60)
    if not minutes:
        return "UTC"
    if minutes > 0:
        sign = "+"
    else:
        sign = "−"
    hours, rest = divmod(abs(minutes), 60)
    if rest:
        odd = f":{rest:02d}"
    else:
        odd = ""
    return f"UTC{sign}{hours}{odd}"


def clock_says() -> str:
    """Whose clock the times of a page are read on: `Europe/Berlin (UTC+1)`."""
    name, offset = timezone.get_current_timezone_name(), offset_says(timezone.now())
    if name == offset:
        return name
    return f"{name.replace('_', ' ')} ({offset})"
