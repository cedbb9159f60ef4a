"""The shop's memory: how instruments and people repeat, how parts differ."""

from typing import Any

from django.db import connection
from django.db.models import Sum
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET

from mockup.base.stations import Station
from mockup.engine.parts import PartsDiffer
from mockup.memory.shop_memory import FEWEST_FREEDOM, FEWEST_REPEATS, PartScatter, Squares, part_scatter, repeats_within
from mockup.quantity.value import Unit
from web.builds import services
from web.builds.assemble import instruments_of_shop
from web.builds.models import Build, Summary
from web.memory.side_by_side import lines_of
from web.page.answers import frame
from web.page.build_page import BuildPage, build_page_or_404
from web.shops.access import member_writes, person_of

ALIKE = 0.01
"""An engine is alike within this share of bore and stroke [1]."""
MOST_ALIKE = 25
_REPEATS = """
    SELECT one->>0, one->>1, SUM((one->>2)::float), SUM((one->>3)::float)
    FROM builds_summary JOIN builds_build ON builds_build.id = builds_summary.build_id,
         jsonb_array_elements(builds_summary.facts->'repeats') one
    WHERE builds_build.shop_id = %s GROUP BY 1, 2 ORDER BY 1, 2
"""


def _repeats(shop_id: int) -> list[dict[str, Any]]:
    """Return how readings repeated by instrument and person, over all the shop's builds."""
    # Summed in the database, so that of ten thousand builds no row is fetched.
    with connection.cursor() as cursor:
        cursor.execute(_REPEATS, [shop_id])
        rows = cursor.fetchall()
    instruments = instruments_of_shop()
    found: dict[str, dict[str, Any]] = {}
    for key, by, squares, freedom in rows:
        of = instruments.get(key)
        one = found.setdefault(
            key,
            {"name": of.name if of else key, "said": of.repeats_mm if of else None, "people": [], "sums": Squares()},
        )
        within = repeats_within(squares, freedom, one["said"])
        one["people"].append({"by": by, "within": within, "freedom": freedom})
        one["sums"] += Squares(squares, freedom)
    for one in found.values():
        one["within"] = repeats_within(one["sums"].squares, one["sums"].freedom, one["said"])
    return list(found.values())


def _scatter(but: Build | None = None) -> tuple[PartScatter | None, Squares]:
    """Return the scatter of parts over the shop's builds, without one of them."""
    summed = Summary.objects.all()
    summed = summed.exclude(build=but) if but else summed
    found = summed.aggregate(squares=Sum("part_squares"), freedom=Sum("part_freedom"))
    sums = Squares(found["squares"] or 0.0, found["freedom"] or 0.0)
    return part_scatter(sums), sums


@require_GET
def memory(request: HttpRequest) -> HttpResponse:
    """Show how well each instrument and person repeats, and how much parts differ."""
    person = person_of(request)
    scatter, sums = _scatter()
    context = {
        "repeats": _repeats(person.shop_id) if person.shop_id else [],
        "scatter": scatter,
        "freedom": sums.freedom,
        "fewest": FEWEST_FREEDOM,
        "fewest_repeats": FEWEST_REPEATS,
        "unit": Unit(person.unit),
    }
    return render(request, "memory/memory.html", context)


@member_writes
def alike(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show engines like this one with results and remedies, and the shop's scatter."""
    page = build_page_or_404(build_id)
    scatter, sums = _scatter(page.build)
    if request.method == "POST":
        if "parts" not in request.POST or scatter is None:
            raise Http404
        said = f"from {sums.freedom:.0f} comparisons in the shop’s other engines"
        services.write(
            page.build, PartsDiffer(u_mm=round(min(max(scatter.u_mm, 0.005), 0.5), 4), said=said), person_of(request)
        )
        return redirect(reverse("alike", args=[build_id]))
    context = frame(page, Station.VERDICT) | {
        "alike": [_line(one) for one in _like(page)],
        "scatter": scatter,
        "freedom": sums.freedom,
        "fewest": FEWEST_FREEDOM,
        "chosen": page.report.job.parts_differ,
    }
    return render(request, "memory/alike.html", context)


def _like(page: BuildPage) -> list[Summary]:
    engine = page.report.job.engine
    found = Summary.objects.filter(cylinders=engine.cylinders, facts__layout=str(engine.layout)).exclude(
        build=page.build
    )
    for name, size in (("bore_mm", engine.bore_mm), ("stroke_mm", engine.stroke_mm)):
        if size is not None:
            found = found.filter(**{f"{name}__range": (size * (1 - ALIKE), size * (1 + ALIKE))})
    return list(found.select_related("build").order_by("-touched_at")[:MOST_ALIKE])


def _line(summary: Summary) -> dict[str, Any]:
    facts = summary.facts
    decks = facts.get("decks") or []
    return {
        "build": summary.build,
        "state": summary.state,
        "decks": (min(decks), max(decks)) if decks else None,
        "drops": facts.get("drops", {}).items(),
        "closest": facts.get("closest", []),
        "changes": facts.get("changes", []),
        "unit": summary.build.unit,
    }


@require_GET
def beside(request: HttpRequest, build_id: int, other_id: int) -> HttpResponse:
    """Show two builds side by side, line by line."""
    one, other = build_page_or_404(build_id), build_page_or_404(other_id)
    context = frame(one, Station.VERDICT) | {"other": other, **lines_of(one.report, other.report)}
    return render(request, "memory/beside.html", context)
