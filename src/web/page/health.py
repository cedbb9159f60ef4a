"""Health checks for monitoring, answered before hosts, sign-ins and redirects count.

``/alive/``: the process answers. ``/healthy/``: it is ready, and its database answers too.
"""

from django.db import DatabaseError, connection
from django.http import HttpRequest, HttpResponse

from web.shops.scope import GetResponse


class HealthMiddleware:
    """Answer the two addresses under any host name."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        if request.path == "/alive/":
            return _said("alive", 200)
        if request.path == "/healthy/":
            return _ready()
        return self.get_response(request)


def _ready() -> HttpResponse:
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except DatabaseError:
        # A broken connection stays broken; the next one is new.
        connection.close()
        return _said("the database does not answer", 503)
    return _said("healthy", 200)


def _said(words: str, status: int) -> HttpResponse:
    return HttpResponse(words, content_type="text/plain", status=status, headers={"Cache-Control": "no-store"})
