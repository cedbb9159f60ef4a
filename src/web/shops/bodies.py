"""The largest request body by sender: before signing in, a form without files."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from web.shops.scope import GetResponse

MOST_OF_A_STRANGER = 2_000_000
"""For a person not signed in [bytes]: a whole form of readings after the session ended, but no picture."""
MOST = 700_000_000
"""For a signed-in person [bytes]: twenty pictures at once, with their form."""


class BodyMiddleware:
    """Refuse (413) a body larger than its sender may send, before reading it."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        length = request.META.get("CONTENT_LENGTH") or "0"
        most = MOST if request.user.is_authenticated else MOST_OF_A_STRANGER
        if not length.isdecimal() or len(length) > 15 or int(length) > most:
            return render(request, "413.html", status=413)
        return self.get_response(request)
