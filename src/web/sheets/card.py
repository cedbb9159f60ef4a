"""The reference card: black squares beside cut clay, and bars for the printer's scale."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.views.decorators.http import require_GET

from mockup.base.faults import FaultsError, message_of
from mockup.quantity.shown import plain_mm_text
from mockup.quantity.typed import LengthError, parse_dimension
from mockup.quantity.value import Unit
from web.sheets.pdf import as_pdf
from web.shops.access import person_of

BAR_MM = 100.0
SQUARES_MM = (25.0, 20.0, 15.0, 12.0)
OFF_MM = 5.0
"""A printer is never off by more hundredths of a millimetre; beyond, it was told to fit the page."""
ROWS_MM = (24.0, 68.0)
LEFT_MM, CUT_MM, BETWEEN_MM = 26.0, 4.0, 6.0
LONGEST_TYPED = 20
EDITION = "card 1"


def _squares() -> list[dict[str, Any]]:
    """Return the positions of the squares on the card, with their cutting frames [mm]."""
    found = []
    for y in ROWS_MM:
        x = LEFT_MM
        for side in SQUARES_MM:
            frame = side + 2 * CUT_MM
            found.append({"x": x + CUT_MM, "y": y + CUT_MM, "side": side, "cut_x": x, "cut_y": y, "frame": frame})
            x += frame + BETWEEN_MM
    return found


@require_GET
def reference_card(request: HttpRequest) -> HttpResponse:
    """Show the card to print, and how long its squares are by the measured bars."""
    bars = {name: request.GET.get(name, "")[:LONGEST_TYPED] for name in ("across", "down")}
    wrong: dict[str, str] = {}
    found = {name: _bar(text, name, wrong) for name, text in bars.items() if text.strip()}
    true = []
    if len(found) == 2 and not wrong:
        scales = [found[name] / BAR_MM for name in ("across", "down")]
        true = [(side, [plain_mm_text(side * scale, places=2) for scale in scales]) for side in SQUARES_MM]
    context = {"squares": _squares(), "bars": bars, "wrong": wrong, "true": true}
    return render(request, "sheets/card.html", context, status=422 if wrong else 200)


def _bar(text: str, name: str, wrong: dict[str, str]) -> float:
    try:
        mm = parse_dimension(text, Unit.MILLIMETRE)
    except (LengthError, FaultsError) as error:
        wrong[name] = message_of(error)
        return BAR_MM
    if abs(mm - BAR_MM) > OFF_MM:
        wrong[name] = f"It is drawn {plain_mm_text(BAR_MM)} long: print it at its own size, not fitted to the page."
    return mm


@require_GET
def card_pdf(request: HttpRequest) -> HttpResponse:
    """Return the card as a PDF, at its own size."""
    return as_pdf(
        request,
        "reference-card",
        person_of(request),
        EDITION,
        lambda: render_to_string("sheets/card_pdf.html", {"squares": _squares()}),
    )
