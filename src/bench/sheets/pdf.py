"""A page as a PDF: the same styles, fonts that ship with the application, nothing fetched."""

import re

from django.http import HttpResponse

from bench.drawings.paint import SHEETS, painted
from bench.shops.models import Person

PDF_STYLES = ("tones.css", "build_sheet.css")


def as_pdf(html: str, called: str, by: Person) -> HttpResponse:
    """The page as an answer, its file called after ``called``, on the paper of the shop of ``by``.

    It is tagged as PDF/UA-1 asks, so that a screen reader can read it.
    """
    # Setting pages in type takes as long to read in as all the rest: only who asks for a PDF waits for it.
    from weasyprint import CSS, HTML  # noqa: PLC0415
    from weasyprint.text.fonts import FontConfiguration  # noqa: PLC0415
    from weasyprint.urls import URLFetcher  # noqa: PLC0415

    # Nothing is fetched for it but the fonts that ship with the application.
    only_files, fonts = URLFetcher(allowed_protocols={"file"}), FontConfiguration()
    page = HTML(string=painted(html), url_fetcher=only_files)
    styles = [CSS(filename=SHEETS / name, font_config=fonts, url_fetcher=only_files) for name in PDF_STYLES]
    styles.append(CSS(string=f"@page {{ size: {by.shop.paper if by.shop else 'A4'} }}"))
    name = re.sub(r"[^a-z0-9]+", "-", called.lower()).strip("-") or "build"
    headers = {"Content-Disposition": f'inline; filename="{name}.pdf"', "Cache-Control": "no-store"}
    return HttpResponse(
        page.write_pdf(stylesheets=styles, font_config=fonts, pdf_variant="pdf/ua-1"),
        content_type="application/pdf",
        headers=headers,
    )
