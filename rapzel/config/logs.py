"""Logs of a public site: one JSON object a line on standard output, each with its request and its account.

Query strings, bodies, headers and texts of people are never written: an address and a key tell enough.
"""

import json
import logging
import re
import time
import uuid
from collections.abc import Callable
from contextvars import ContextVar
from datetime import UTC, datetime
from typing import Any

from django.http import HttpRequest, HttpResponse

_REQUEST: ContextVar[dict[str, Any]] = ContextVar("request", default={})  # noqa: B039  never changed in place
_USUAL_ID = re.compile(r"[A-Za-z0-9-]{8,64}")
log = logging.getLogger("rapzel.requests")


class JsonLines(logging.Formatter):
    """A record as one line of JSON."""

    def format(self, record: logging.LogRecord) -> str:
        line: dict[str, Any] = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(
                timespec="milliseconds"
            ),
            "level": record.levelname.lower(),
            "logger": record.name,
            "says": record.getMessage(),
            **_REQUEST.get(),
            **getattr(record, "facts", {}),
        }
        if record.exc_info:
            line["trace"] = self.formatException(record.exc_info)
        return json.dumps(line, ensure_ascii=False, default=str)


# whoever reads the log shall not set a password
_SECRET = re.compile(r"^(/account/anew/).+")


def request_log(
    get_response: Callable[[HttpRequest], HttpResponse],
) -> Callable[[HttpRequest], HttpResponse]:
    """Gives each request an id, which its answer and every line logged meanwhile carry, and logs how it ended."""

    def answer(request: HttpRequest) -> HttpResponse:
        given = request.headers.get("X-Request-ID", "")
        if _USUAL_ID.fullmatch(given):
            known = given
        else:
            known = uuid.uuid4().hex
        token = _REQUEST.set({"request": known})
        began = time.perf_counter()
        try:
            response = get_response(request)
            facts = {
                "method": request.method,
                "path": _SECRET.sub(r"\1…", request.path),
                "status": response.status_code,
                "ms": round((time.perf_counter() - began) * 1000, 1),
                "user": getattr(getattr(request, "user", None), "pk", None),
            }
            log.info("answered", extra={"facts": facts})
        finally:
            _REQUEST.reset(token)
        response["X-Request-ID"] = known
        return response

    return answer
