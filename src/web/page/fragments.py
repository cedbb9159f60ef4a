"""The parts of a page that an answer may replace.

No part holds a field, so no answer can touch one.

A template marks them with ``{% part NAME %}``; rows that come and go with ``{% row NAME %}``. While an answer is made,
a ``Collected`` gathers their content, and only what the page does not have yet is sent.
"""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from hashlib import blake2b
from typing import Any

from django.http import HttpRequest

ASKED = "X-Parts"
"""The request header that asks for the changed parts of a page instead of the page."""
HAS = "X-Has"
"""The request header with what the page has: ``name=digest`` of every part and ``row:name=`` of every row."""
_TOKENS = re.compile(r'(name="(?:csrfmiddlewaretoken|once)" value=")[^"]*')


def digest_of(html: str) -> str:
    """Return a short digest of a part, equal for equal content; form tokens aside."""
    return blake2b(_TOKENS.sub(r"\1", html).encode(), digest_size=6).hexdigest()


@dataclass
class Collected:
    """The parts, rows and fields of a page, gathered while its templates are rendered.

    ``has``: digests by name of what the asking page has. Fields are counted and not rendered, except in new rows.
    """

    has: Mapping[str, str] = field(default_factory=dict)
    parts: dict[str, tuple[str, str]] = field(default_factory=dict)
    rows: dict[str, tuple[str, str]] = field(default_factory=dict)
    wants: dict[str, int] = field(default_factory=dict)

    def changed(self) -> dict[str, Any]:
        """Return what the asking page lacks: changed parts, named rows, what fields want."""
        return {
            "parts": {
                name: [digest, html] for name, (digest, html) in self.parts.items() if self.has.get(name) != digest
            },
            "rows": [[name, tone, html] for name, (tone, html) in self.rows.items()],
            "wants": self.wants,
        }

    def has_row(self, name: str) -> bool:
        """Return whether the asking page has a row."""
        return f"row:{name}" in self.has


def has_of(request: HttpRequest) -> dict[str, str]:
    """Return what the asking page has."""
    pairs = (one.partition("=") for one in request.headers.get(HAS, "").split())
    return {name: digest for name, _, digest in pairs}
