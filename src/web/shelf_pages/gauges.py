"""Gauges on a serial cable: how their lines are read, in open and own formats."""

from typing import Any, ClassVar

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render

from mockup.base.faults import FaultsError, message_of
from mockup.quantity.gauge_lines import LONGEST_LINE, READY_MADE, GaugeWay, read_line
from web.builds.assemble import instruments_of_shop
from web.page.record_form import FieldWords, RecordForm
from web.shelf import services
from web.shelf.kept import kept_gauge_way
from web.shelf.models import ShelfGaugeWay
from web.shops.access import member_writes, person_of
from web.shops.once import repeatable

MOST_WAYS = 60
OWN = "own-"


class GaugeWayForm(RecordForm):
    """The format in which a gauge of the shop writes readings."""

    CORE: ClassVar[type[Any]] = GaugeWay
    FIELD_WORDS: ClassVar[dict[str, FieldWords]] = {
        "name": FieldWords(label="Gauge", help_text="as you call it"),
        "shape": FieldWords(label="A line is"),
        "between": FieldWords(label="Between columns", help_text="where it has columns"),
        "value_at": FieldWords(label="The number is", help_text="column 1, 2, …, or its name in JSON"),
        "unit_at": FieldWords(label="The unit is", help_text="as above; empty where the line has none"),
        "unit": FieldWords(label="A bare number is in", help_text="in, mm, thou; empty: as in the build"),
        "baud": FieldWords(label="Speed of its port", help_text="baud, 8 bits, no parity"),
    }

    def __init__(self, data: Any = None) -> None:
        super().__init__(data)
        self.dress()


def way_named(key: str) -> GaugeWay | None:
    """Return the format of a key: a ready-made one or one of the shop's, or None."""
    if key in READY_MADE:
        return READY_MADE[key]
    number = key.removeprefix(OWN)
    if not key.startswith(OWN) or not number.isdecimal() or len(number) > 18:
        return None
    row = ShelfGaugeWay.objects.filter(pk=int(number), off_since=None).first()
    return row.core() if row else None


@member_writes
def gauges(request: HttpRequest) -> HttpResponse:
    """Show the formats; add one, remove one, try a line."""
    form = GaugeWayForm()
    tried: dict[str, str] = {}
    wrong = ""
    if request.method == "POST":
        if "off" in request.POST:
            services.take_off(_asked(request.POST["off"]))
            return redirect("gauges")
        if "try" in request.POST:
            repeatable(request)
            tried = _try(request.POST.get("way", ""), request.POST.get("line", "")[: LONGEST_LINE + 1])
        else:
            form = GaugeWayForm(request.POST)
            wrong = _added(request, form)
            if not form.errors and not wrong:
                return redirect("gauges")
    own = list(ShelfGaugeWay.objects.filter(off_since=None))
    context = {
        "form": form,
        "wrong": wrong,
        "tried": tried,
        "ready": list(READY_MADE.items()),
        "own": [(f"{OWN}{row.pk}", row, row.core()) for row in own],
        "instruments": [(key, one.name) for key, one in instruments_of_shop().items()],
    }
    status = 422 if form.errors or wrong or tried.get("refused") else 200
    return render(request, "shelf_pages/gauges.html", context, status=status)


def _added(request: HttpRequest, form: GaugeWayForm) -> str:
    if not form.is_valid():
        return ""
    if ShelfGaugeWay.objects.filter(off_since=None).count() >= MOST_WAYS:
        return f"There are {MOST_WAYS} already: remove one first."
    services.put_on(ShelfGaugeWay(way_kept=kept_gauge_way(form.record)), person_of(request))
    return ""


def _try(key: str, line: str) -> dict[str, str]:
    """Return the reading of a line in a format, or why it has none."""
    found = {"way": key, "line": line}
    way = way_named(key)
    if way is None:
        return found | {"refused": "There is no such gauge format."}
    try:
        return found | {"says": read_line(line, way)}
    except FaultsError as error:
        return found | {"refused": message_of(error)}


def _asked(key: str) -> ShelfGaugeWay:
    number = key.removeprefix("way-")
    if not number.isdecimal() or len(number) > 18:
        raise Http404(key)
    found: ShelfGaugeWay = get_object_or_404(ShelfGaugeWay, pk=int(number))
    return found
