"""A page as a PDF with the styles and fonts that ship; nothing is fetched."""

import atexit
from functools import cache
from threading import Lock
from typing import Any

from web.drawings.paint import STYLE_FOLDER, painted

PDF_STYLES = ("tones.css", "build_sheet.css", "card.css")
_one_at_a_time = Lock()


def typeset(html: str, paper: str) -> bytes:
    """Return the page as a PDF on ``paper`` ("A4", "letter"), tagged after PDF/UA-1."""
    # Importing WeasyPrint takes as long as all the rest, so only a request for a PDF waits for it.
    from weasyprint import CSS, HTML  # noqa: PLC0415

    # One at a time in a process: the unpacked fonts belong to no thread.
    with _one_at_a_time:
        only_files, fonts, styles = _faces()
        page = HTML(string=painted(html), url_fetcher=only_files)
        sized = [*styles, CSS(string=f"@page {{ size: {paper} }}")]
        made: bytes = page.write_pdf(stylesheets=sized, font_config=fonts, pdf_variant="pdf/ua-1")
    return made


@cache
def _faces() -> tuple[Any, Any, list[Any]]:
    """Return what PDFs share: fonts and styles, a fifth of a short one's work."""
    from weasyprint import CSS  # noqa: PLC0415
    from weasyprint.text.fonts import FontConfiguration  # noqa: PLC0415
    from weasyprint.urls import URLFetcher  # noqa: PLC0415

    # Released while the interpreter is still running.
    atexit.register(_faces.cache_clear)
    # Only the fonts that ship with the application are loaded; pictures are embedded in the page.
    only_files, fonts = URLFetcher(allowed_protocols={"file", "data"}), FontConfiguration()
    return (
        only_files,
        fonts,
        [CSS(filename=STYLE_FOLDER / name, font_config=fonts, url_fetcher=only_files) for name in PDF_STYLES],
    )
