"""Each request has a number: it stands in the log, in the answer, and on the page that says something broke."""

import json
import logging
import re
import traceback
from contextvars import ContextVar
from datetime import UTC, datetime
from uuid import uuid4

from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string

from bench.shops.scope import GetResponse

_current: ContextVar[str] = ContextVar("request", default="")


class RequestNumberMiddleware:
    """Gives each request its number, the first thing that happens to it."""

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


def server_error(request: HttpRequest) -> HttpResponse:  # noqa: ARG001, as Django calls it
    """The page of a fault of ours, with the number to tell by."""
    return HttpResponse(render_to_string("500.html", {"number": _current.get()}), status=500)


# An address that lets somebody in is as good as a password.
_SECRET = re.compile(r"(/(?:welcome|shown)/)[^/\s\"'?]+")


class JsonLines(logging.Formatter):
    """A line of JSON for each thing that is logged, with the request's number.

    No typed text goes into it: of an exception its kind and where it was raised, and not its words, which often
    hold what was typed. No address by which somebody comes in does either.
    """

    def format(self, record: logging.LogRecord) -> str:
        """The line."""
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
    """The way to an exception, and to those it came of: files, lines and kinds, no values."""
    parts: list[str] = []
    while error is not None:
        parts.append("".join(traceback.format_tb(error.__traceback__)) + type(error).__qualname__)
        error = error.__cause__ or error.__context__
    return "\nwhile handling:\n".join(parts)
