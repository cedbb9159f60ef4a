"""The web application: pages, entering, who may see what."""

import re
from typing import Any

STATION_PAGES = [
    "tdc",
    "deck",
    "stack",
    "volumes",
    "quench",
    "mock-up",
    "cam",
    "pushrods",
    "clay",
    "sweep",
    "verdict",
    "put-right",
    "explore",
    "which-cam",
    "to-order",
    "assembly",
    "block",
]
BUILD_PAGES = [*STATION_PAGES, "history", "sheet"]
"""Those, and the pages of a build that are no station's."""


def words(answer: Any) -> str:
    """What a page says to a reader: no tags, one blank between words."""
    text = answer if isinstance(answer, str) else answer.content.decode()
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", " ", text))
