"""In which units the person of this request reads and writes lengths and speeds."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar

from django.http import HttpRequest, HttpResponse

_feet: ContextVar[bool] = ContextVar("feet", default=False)


def likes_feet() -> bool:
    """Whether feet, inches and miles are meant; metres where nobody is asked, as in commands."""
    return _feet.get()


@contextmanager
def who_likes(feet: bool) -> Iterator[None]:
    """For as long as it lasts, units are those."""
    before = _feet.set(feet)
    try:
        yield
    finally:
        _feet.reset(before)


def in_their_units(
    get_response: Callable[[HttpRequest], HttpResponse],
) -> Callable[..., HttpResponse]:
    """Middleware: a bare 4 in a length is what the account says, on every page."""

    def answer(request: HttpRequest) -> HttpResponse:
        with who_likes(bool(getattr(request.user, "imperial", False))):
            return get_response(request)

    return answer
