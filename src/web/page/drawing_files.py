"""The drawings of a page one by one, with descriptions, and each as a file."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from html import unescape

from django.http import Http404, HttpRequest, HttpResponse

from web.drawings.paint import painted

ASKED = "svg"
"""The query parameter for one of a page's drawings, counted from 1."""
_DRAWING = re.compile(r'<svg\b(?P<head>[^>]*role="img"[^>]*)>.*?</svg>', re.DOTALL)
_LABEL = re.compile(r'aria-label="([^"]*)"')
_SHORT = 40


@dataclass(frozen=True, slots=True)
class Drawn:
    """One drawing: its number on the page, its name, its description, its SVG."""

    number: int
    name: str
    words: str
    svg: str


def drawings_of(html: str) -> list[Drawn]:
    """Return every drawing of a page that has a description."""
    found = []
    for number, match in enumerate(_DRAWING.finditer(html), start=1):
        label = _LABEL.search(match["head"])
        words = unescape(label[1]).strip() if label else ""
        name = re.split(r"[:;.,]", words)[0].strip() or f"drawing {number}"
        found.append(Drawn(number, name[:_SHORT], words, match[0]))
    return found


def asked_for(request: HttpRequest, drawings: Sequence[Drawn], called: str) -> HttpResponse | None:
    """Return the requested drawing as a file with its colours, or None.

    Raises Http404 where the page has no such drawing.
    """
    if ASKED not in request.GET:
        return None
    one = next((one for one in drawings if str(one.number) == request.GET[ASKED]), None)
    if one is None:
        raise Http404("This page has no such drawing.")
    name = re.sub(r"[^a-z0-9]+", "-", f"{called} {one.name}".lower()).strip("-") or "drawing"
    headers = {"Content-Disposition": f'attachment; filename="{name}.svg"', "Cache-Control": "no-store"}
    return HttpResponse(painted(one.svg), content_type="image/svg+xml", headers=headers)
