"""Each request has a number, in the log, in the answer and on error pages."""

import json
import logging
import re
import traceback
from contextvars import ContextVar
from datetime import UTC, datetime
from uuid import uuid4

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

from web.shops.scope import GetResponse

_current: ContextVar[str] = ContextVar("request", default="")


class RequestNumberMiddleware:
    """Give each request its number before anything else."""

    def __init__(self, get_response: GetResponse) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer the request, with its number in the header."""
        number = uuid4().hex[:12]
        token = _current.set(number)
        try:
            response = self.get_response(request)
        finally:
            _current.reset(token)
        response["X-Request-ID"] = number
        return response


def server_error(request: HttpRequest) -> HttpResponse:  # noqa: ARG001, the signature is Django's
    """Return the page of a server error, with the number to quote."""
    return HttpResponse(render_to_string("500.html", {"number": _current.get()}), status=500)


# A one-time link is as good as a password.
_SECRET = re.compile(r"(/(?:welcome|shown)/)[^/\s\"'?]+")


class JsonLines(logging.Formatter):
    """One line of JSON for each log record, with the request's number.

    Typed text is left out: of an exception only its type and location are logged, since its message often holds what
    was typed. One-time links are left out too.
    """

    def format(self, record: logging.LogRecord) -> str:
        """Return the line."""
        told = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(timespec="milliseconds"),
            "level": record.levelname.lower(),
            "of": record.name,
            "request": _current.get(),
            "says": record.getMessage(),
        }
        asked = getattr(record, "request", None)
        if isinstance(asked, HttpRequest):
            told |= {"method": asked.method or "", "path": asked.path}
        if record.exc_info:
            told["trace"] = _where(record.exc_info[1])
        return _SECRET.sub(r"\1…", json.dumps(told, ensure_ascii=False))


def _where(error: BaseException | None) -> str:
    """Return the traceback of an exception and its causes: files, lines and types, no values."""
    parts: list[str] = []
    while error is not None:
        parts.append("".join(traceback.format_tb(error.__traceback__)) + type(error).__qualname__)
        error = error.__cause__ or error.__context__
    return "\nwhile handling:\n".join(parts)
