"""The echo: what was understood of typing that is not saved yet, in both units, or what is wrong with it."""

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from mockup.quantity.shown import format_both, format_deck, format_piston_volume, format_volume
from mockup.quantity.typed import (
    LengthError,
    parse_bench_length,
    parse_deck,
    parse_dimension,
    parse_piston_volume,
    parse_volume,
)
from mockup.quantity.value import DeckSign, Unit


def _deck(text: str, unit: Unit, sign: DeckSign) -> str:
    mm = parse_deck(text, unit, sign)
    way = format_deck(mm, unit).partition(" ")[2]
    return f"{format_both(abs(mm), unit)} {way}".strip()


READERS: dict[str, Callable[[str, Unit, DeckSign], str]] = {
    "bench": lambda text, unit, _sign: format_both(parse_bench_length(text, unit), unit),
    "dimension": lambda text, unit, _sign: format_both(parse_dimension(text.lstrip("-−"), unit), unit),
    "deck": _deck,
    "chamber": lambda text, _unit, _sign: f"{format_volume(parse_volume(text))} cc",
    "piston": lambda text, _unit, _sign: format_piston_volume(parse_piston_volume(text)),
}


def _choice(kind: type[Unit] | type[DeckSign], text: str, default: Unit | DeckSign) -> Unit | DeckSign:
    return kind(text) if text in list(kind) else default


@require_GET
def understood(request: HttpRequest) -> HttpResponse:
    """A fragment with the echo of ``text``, read ``as`` one of READERS."""
    reader = READERS.get(request.GET.get("as", ""), READERS["bench"])
    unit = Unit(_choice(Unit, request.GET.get("unit", ""), Unit.INCH))
    sign = DeckSign(_choice(DeckSign, request.GET.get("sign", ""), DeckSign.DOWN_POSITIVE))
    try:
        context = {"echo": reader(request.GET.get("text", ""), unit, sign)}
    except LengthError as error:
        context = {"wrong": str(error)}
    return render(request, "page/_echo.html", context)
