"""Whether the site can do its work."""

from django.db import DatabaseError, connection
from django.http import HttpRequest, JsonResponse

from rapzel.bench.keeper import health

WAITED_TOO_LONG_S = 120.0


def healthz(request: HttpRequest) -> JsonResponse:
    """The state of the database and of the queue; 503 while the database does not answer.

    "degraded": pages are answered, but nobody serves the queue, or its oldest job has waited for two minutes.
    """
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
        queue = health()
    except DatabaseError:
        return JsonResponse(
            {"status": "failing", "database": "does not answer"}, status=503
        )
    late = queue["oldest_s"] is not None and queue["oldest_s"] > WAITED_TOO_LONG_S
    if queue["served"] and not late:
        status = "ok"
    else:
        status = "degraded"
    return JsonResponse({"status": status, "database": "answers", "queue": queue})
