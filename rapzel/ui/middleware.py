"""What holds for every answer: browsers do not keep it, a lost session is said in place, refusals are words."""

import logging
from collections.abc import Callable
from itertools import chain

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import resolve_url
from django.utils.cache import patch_cache_control
from django_htmx.http import reswap

from rapzel.core.shared.errors import CoreError
from rapzel.core.shared.refusals import storable
from rapzel.ui.errors import refused
from rapzel.ui.http import is_htmx

log = logging.getLogger(__name__)
Answer = Callable[[HttpRequest], HttpResponse]


def not_kept(get_response: Answer) -> Answer:
    """Answers that say nothing else are made for one person at one moment: Back asks for them anew."""

    def answer(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        # Pictures and files say for themselves how long they may be kept.
        if not response.has_header("Cache-Control"):
            patch_cache_control(response, private=True, no_store=True)
        return response

    return answer


def door_in_place(get_response: Answer) -> Answer:
    """A part of a page that would be sent to the login page is answered 401 instead; the page says so and waits."""

    def answer(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        door = resolve_url(settings.LOGIN_URL)
        if (
            is_htmx(request)
            and response.status_code == 302
            # htmx would follow it, and put the login page into the middle of a form.
            and response["Location"].startswith(door)
        ):
            return reswap(HttpResponse("Log in again to go on.", status=401), "none")
        return response

    return answer


def storable_only(get_response: Answer) -> Answer:
    """Texts with characters that no database stores (NUL, control characters) are refused in words."""

    def answer(request: HttpRequest) -> HttpResponse:
        texts = chain.from_iterable(
            [key, *values]
            for data in (request.GET, request.POST)
            for key, values in data.lists()
        )
        if all(storable(text) for text in texts if isinstance(text, str)):
            return get_response(request)
        says = "A text that was sent holds a control character, which cannot be stored. Remove it and send it again."
        return refused(request, says, 400)

    return answer


class RefusalMiddleware:
    """What the core or a quota refuses is told in words, wherever it comes up: a refusal is never a broken page."""

    def __init__(self, get_response: Answer) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(
        self, request: HttpRequest, exception: Exception
    ) -> HttpResponse | None:
        # Everything else is a fault of ours, and goes the way of faults.
        if not isinstance(exception, CoreError):
            return None
        log.warning(
            "refused where no view told it: %s",
            type(exception).__name__,
            exc_info=exception,
        )
        return refused(request, str(exception)[:2000], 422)
