"""Remove NULs before anything reads a text: no database keeps them.

Cookies and headers with characters that no browser sends are removed too, since the database is queried by them.
"""

from django.http import HttpRequest, HttpResponse, QueryDict

from web.shops.scope import GetResponse

NUL = "\x00"


class HeadersMiddleware:
    """Remove cookies and headers with unprintable characters before anything reads them."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        # The cookies are parsed here; their header is not read again.
        for name in [name for name, value in request.COOKIES.items() if not value.isprintable()]:
            del request.COOKIES[name]
        headers = {name: value for name, value in request.META.items() if name.startswith("HTTP_")}
        for name in [name for name, value in headers.items() if not value.isprintable() and name != "HTTP_COOKIE"]:
            del request.META[name]
        return self.get_response(request)


class NoNulMiddleware:
    """Remove NULs from everything typed or queried."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request."""
        if "%00" in request.META.get("QUERY_STRING", ""):
            request.GET = without_nul(request.GET)  # type: ignore[assignment]
        if request.method == "POST" and any(NUL in text for _, texts in request.POST.lists() for text in texts):
            request.POST = without_nul(request.POST)  # type: ignore[assignment]
        return self.get_response(request)


def without_nul(query: QueryDict) -> QueryDict:
    """Return the same fields without their NULs."""
    cleaned = QueryDict(mutable=True)
    for name, texts in query.lists():
        cleaned.setlist(name.replace(NUL, ""), [text.replace(NUL, "") for text in texts])
    cleaned._mutable = False  # noqa: SLF001, as Django makes them
    return cleaned
