"""Whether the site can do its work."""

from django.db import DatabaseError, connection
from django.http import HttpRequest, JsonResponse


def healthz(request: HttpRequest) -> JsonResponse:
    """200 with the database's state, 503 while the database does not answer."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except DatabaseError:
        return JsonResponse({"status": "failing", "database": "does not answer"}, status=503)
    return JsonResponse({"status": "ok", "database": "answers"})
