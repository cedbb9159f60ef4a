"""A page as a PDF: the same styles, fonts that ship with the application, nothing fetched."""

import atexit
from functools import cache
from threading import Lock
from typing import Any

from bench.drawings.paint import SHEETS, painted

PDF_STYLES = ("tones.css", "build_sheet.css", "card.css")
_one_at_a_time = Lock()


def typeset(html: str, paper: str) -> bytes:
    """The page as a PDF on ``paper`` ("A4", "letter"), tagged as PDF/UA-1 asks, so that a screen reader can read it."""
    # Setting pages in type takes as long to read in as all the rest: only who asks for a PDF waits for it.
    from weasyprint import CSS, HTML  # noqa: PLC0415

    # One at a time in a process: its fonts, once unpacked, belong to no thread.
    with _one_at_a_time:
        only_files, fonts, styles = _faces()
        page = HTML(string=painted(html), url_fetcher=only_files)
        sized = [*styles, CSS(string=f"@page {{ size: {paper} }}")]
        made: bytes = page.write_pdf(stylesheets=sized, font_config=fonts, pdf_variant="pdf/ua-1")
    return made


@cache
def _faces() -> tuple[Any, Any, list[Any]]:
    """What all PDFs share: the faces unpacked and the styles read, which is a fifth of the work of a short one."""
    from weasyprint import CSS  # noqa: PLC0415
    from weasyprint.text.fonts import FontConfiguration  # noqa: PLC0415
    from weasyprint.urls import URLFetcher  # noqa: PLC0415

    # Given back while there is still a Python to do it.
    atexit.register(_faces.cache_clear)
    # Nothing is fetched for it but the fonts that ship with the application; pictures are in the page itself.
    only_files, fonts = URLFetcher(allowed_protocols={"file", "data"}), FontConfiguration()
    return (
        only_files,
        fonts,
        [CSS(filename=SHEETS / name, font_config=fonts, url_fetcher=only_files) for name in PDF_STYLES],
    )
