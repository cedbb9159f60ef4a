"""Whether the application is there: asked by whoever watches over it, before hosts, sign-ins and redirects count.

``/alive/``: the process answers. ``/healthy/``: it is ready, its database answers too.
"""

from django.db import DatabaseError, connection
from django.http import HttpRequest, HttpResponse

from bench.shops.scope import GetResponse


class HealthMiddleware:
    """Answers the two addresses whatever host name they are asked under."""

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
        # A connection that died stays dead; the next one is another.
        connection.close()
        return _said("the database does not answer", 503)
    return _said("healthy", 200)


def _said(words: str, status: int) -> HttpResponse:
    return HttpResponse(words, content_type="text/plain", status=status, headers={"Cache-Control": "no-store"})
