"""The echo: what was understood of typing that is not saved yet, in both units, or what is wrong with it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from mockup.quantity.shown import (
    format_bench,
    format_both,
    format_deck,
    format_degrees,
    format_piston_volume,
    format_volume,
)
from mockup.quantity.typed import (
    LengthError,
    parse_bench_length,
    parse_degrees,
    parse_dimension,
    parse_fine_length,
    parse_piston,
    parse_volume,
)
from mockup.quantity.typed_angle import format_crank_angle, parse_crank_angle
from mockup.quantity.typed_deck import Counts, Tool, dial_reading, parse_deck_reading
from mockup.quantity.typed_train import Checker, parse_clay, parse_pushrod, parse_wipe
from mockup.quantity.value import DeckSign, Unit
from mockup.readings.pushrods import USUAL_PITCH_MM


@dataclass(frozen=True, slots=True)
class Asked:
    """Typing, and what it is to be read by: the build's unit and signs, the tool that the sheet says is in hand."""

    text: str
    unit: Unit
    sign: DeckSign
    tool: Tool
    checker: Checker


def _clay(asked: Asked) -> str:
    typed = parse_clay(asked.text, asked.unit)
    over = "" if typed.touched else "more than "
    return f"{over}{format_both(typed.thickness_mm, asked.unit)} {typed.spot}".strip()


def _sweep(asked: Asked) -> str:
    words, _, length = asked.text.strip().rpartition(" ")
    if not words:
        raise LengthError("Type the angle and then the reading, as in 9 ATDC 94.")
    # Within a quarter turn of TDC neither BDC can be meant.
    angle = format_crank_angle(parse_crank_angle(words, 180.0))
    return f"{angle}: {format_both(parse_bench_length(length, asked.unit), asked.unit)}"


def _pushrod(asked: Asked) -> str:
    typed = parse_pushrod(asked.text, asked.unit, asked.checker)
    return format_both(typed.closed_mm + typed.turns * typed.pitch_mm, asked.unit)


def _wipe(asked: Asked) -> str:
    typed = parse_wipe(asked.text, asked.unit)
    wide, off = typed.end_mm - typed.start_mm, (typed.start_mm + typed.end_mm - typed.tip_mm) / 2
    return f"{format_bench(wide, asked.unit)} wide, {format_bench(abs(off), asked.unit)} off centre"


def _deck(asked: Asked) -> str:
    typed = parse_deck_reading(asked.text, asked.unit, asked.sign, asked.tool)
    way = format_deck(typed.mm, asked.unit).partition(" ")[2]
    either_way = f"±{format_bench(typed.half_width_mm, asked.unit)}" if typed.half_width_mm else ""
    return f"{format_both(abs(typed.mm), asked.unit)} {way} {either_way}".strip()


def _piston(asked: Asked) -> str:
    typed = parse_piston(asked.text, asked.unit)
    if typed.depth_mm:
        return f"{format_volume(typed.cc)} cc over it, {format_both(typed.depth_mm, asked.unit)} down"
    return format_piston_volume(typed.cc)


READERS: dict[str, Callable[[Asked], str]] = {
    "bench": lambda asked: format_both(parse_bench_length(asked.text, asked.unit), asked.unit),
    "fine": lambda asked: format_both(parse_fine_length(asked.text, asked.unit), asked.unit),
    "dimension": lambda asked: format_both(parse_dimension(asked.text.lstrip("-−"), asked.unit), asked.unit),
    "deck": _deck,
    "degrees": lambda asked: format_degrees(parse_degrees(asked.text)),
    "chamber": lambda asked: f"{format_volume(parse_volume(asked.text))} cc",
    "piston": _piston,
    "clay": _clay,
    "sweep": _sweep,
    "crank-intake": lambda asked: format_crank_angle(parse_crank_angle(asked.text, 180.0)),
    "crank-exhaust": lambda asked: format_crank_angle(parse_crank_angle(asked.text, -180.0)),
    "pushrod": _pushrod,
    "wipe": _wipe,
}


def tool_of(query: Mapping[str, str], unit: Unit) -> Tool:
    """The tool a sheet says is in hand. Raises LengthError where its zero is not a length."""
    counts, zero = query.get("counts", ""), query.get("zero", "").strip()
    if counts not in list(Counts) or counts == Counts.WORDS:
        return Tool()
    return Tool(Counts(counts), parse_bench_length(zero, unit) if zero else 0.0)


def checker_of(query: Mapping[str, str], unit: Unit) -> Checker:
    """The checking pushrod a sheet says is in hand. Raises LengthError where its lengths are none."""
    closed, pitch = query.get("closed", "").strip(), query.get("pitch", "").strip()
    return Checker(
        parse_dimension(closed, unit) if closed else None,
        parse_bench_length(pitch, unit) if pitch else USUAL_PITCH_MM,
    )


@require_GET
def understood(request: HttpRequest) -> HttpResponse:
    """A fragment with the echo of ``text``, read ``as`` one of READERS."""
    reader = READERS.get(request.GET.get("as", ""), READERS["bench"])
    unit = Unit(request.GET["unit"]) if request.GET.get("unit") in list(Unit) else Unit.INCH
    sign = DeckSign(request.GET["sign"]) if request.GET.get("sign") in list(DeckSign) else DeckSign.DOWN_POSITIVE
    try:
        query = request.GET.dict()
        asked = Asked(query.get("text", ""), unit, sign, tool_of(query, unit), checker_of(query, unit))
        context = {"echo": reader(asked)}
    except LengthError as error:
        context = {"wrong": str(error)}
    return render(request, "page/_echo.html", context)


@require_GET
def dial(request: HttpRequest) -> HttpResponse:
    """A fragment with what a dial has come to, from where its needle stopped and which way it went."""

    def number(name: str, default: str) -> float:
        typed = request.GET.get(name, "").strip() or default
        try:
            return float(typed) if len(typed) < 12 else -1.0
        except ValueError:
            return -1.0

    backwards = request.GET.get("way") == "back"
    try:
        came_to = dial_reading(
            int(number("divisions", "100")), number("shown", "-1"), int(number("turns", "0")), backwards=backwards
        )
        context = {"echo": f"{came_to:g} divisions", "came_to": f"{came_to:g}"}
    except (LengthError, OverflowError, ValueError) as error:
        words = str(error) if isinstance(error, LengthError) else "Numbers only."
        context = {"wrong": words}
    return render(request, "page/_dial.html", context)
