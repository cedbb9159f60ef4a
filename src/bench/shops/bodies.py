"""How much may be sent by whom: before somebody is signed in, a form and no file."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from bench.shops.scope import GetResponse

MOST_OF_A_STRANGER = 2_000_000
"""Of somebody who is not signed in [bytes]: a whole sheet of readings whose session ended meanwhile, and no picture."""
MOST = 700_000_000
"""Of somebody who is [bytes]: twenty pictures at once, with their form."""


class BodyMiddleware:
    """Refuses (413) a body that is larger than its sender may send, before any of it is read."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        length = request.META.get("CONTENT_LENGTH") or "0"
        most = MOST if request.user.is_authenticated else MOST_OF_A_STRANGER
        if not length.isdecimal() or len(length) > 15 or int(length) > most:
            return render(request, "413.html", status=413)
        return self.get_response(request)
