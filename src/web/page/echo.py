"""The echo: how typing not saved yet was understood, in both units, or what is wrong."""

from collections.abc import Callable, Mapping
from contextlib import suppress

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from mockup.engine.pushrods import USUAL_PITCH_MM
from mockup.quantity.echo import ECHOES, Asked
from mockup.quantity.typed import (
    LengthError,
    parse_bench_length,
    parse_dimension,
)
from mockup.quantity.typed_deck import Counts, Tool, dial_reading
from mockup.quantity.typed_train import Checker
from mockup.quantity.value import DeckSign, Unit
from mockup.readings.kinds import READING_KINDS
from web.page.read_fields import LONGEST_TYPED


def _readers() -> dict[str, Callable[[Asked], str]]:
    """Return how typing is understood by the kind of field, as readings declare."""
    return {**ECHOES, **{name: echo for kind in READING_KINDS for name, echo in kind.echo.items()}}


def is_understood(text: str) -> bool:
    """Return whether any field can read a text, in either unit."""
    for reader in _readers().values():
        for unit in Unit:
            with suppress(LengthError):
                reader(Asked(text, unit, DeckSign.DOWN_POSITIVE, Tool(Counts.DIAL), Checker(150.0, USUAL_PITCH_MM)))
                return True
    return False


def tool_of(query: Mapping[str, str], unit: Unit) -> Tool:
    """Return the tool chosen on a form. Raises LengthError where its zero is not a length."""
    counts, zero = query.get("counts", ""), query.get("zero", "").strip()
    if counts not in list(Counts) or counts == Counts.WORDS:
        return Tool()
    return Tool(Counts(counts), parse_bench_length(zero, unit) if zero else 0.0)


def checker_of(query: Mapping[str, str], unit: Unit) -> Checker:
    """Return the checking pushrod chosen on a form.

    Raises LengthError where its lengths are invalid.
    """
    closed, pitch = query.get("closed", "").strip(), query.get("pitch", "").strip()
    return Checker(
        parse_dimension(closed, unit) if closed else None,
        parse_bench_length(pitch, unit) if pitch else USUAL_PITCH_MM,
    )


@require_GET
def understood(request: HttpRequest) -> HttpResponse:
    """Return a fragment with the echo of ``text``, read ``as`` a field of that kind."""
    reader = _readers().get(request.GET.get("as", ""), ECHOES["bench"])
    unit = Unit(request.GET["unit"]) if request.GET.get("unit") in list(Unit) else Unit.INCH
    sign = DeckSign(request.GET["sign"]) if request.GET.get("sign") in list(DeckSign) else DeckSign.DOWN_POSITIVE
    if len(request.GET.get("text", "")) > LONGEST_TYPED:
        return render(request, "page/_echo.html", {"wrong": f"At most {LONGEST_TYPED} characters."})
    try:
        query = request.GET.dict()
        asked = Asked(query.get("text", ""), unit, sign, tool_of(query, unit), checker_of(query, unit))
        context = {"echo": reader(asked)}
    except LengthError as error:
        context = {"wrong": str(error)}
    return render(request, "page/_echo.html", context)


@require_GET
def dial(request: HttpRequest) -> HttpResponse:
    """Return a fragment with a dial's total reading, from where its needle stopped."""

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
