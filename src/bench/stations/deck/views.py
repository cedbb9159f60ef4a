"""The deck station: the middle of every crown, its edges and rock, and the deck they make."""

from typing import Any

from django.http import HttpRequest, HttpResponse

from bench.drawings.deck_plan import deck_plan
from bench.page.bench import Bench, bench_or_404, cylinder_asked
from bench.page.entering import Wrong
from bench.page.show import answer
from bench.page.taking import take_readings
from bench.shops.access import member_writes
from bench.stations.deck.sheet import COUNTS, HELD, SPOTS, edge_rows, in_hand, instruments, readers, rocked, rows
from mockup.stations import Station


@member_writes
def deck(request: HttpRequest, build_id: int) -> HttpResponse:
    """Show the deck sheet; take readings and strike them out."""
    bench = bench_or_404(build_id)
    wrong: dict[str, Wrong] = {}
    if request.method == "POST":
        wrong = take_readings(request, bench, Station.DECK, readers(bench, in_hand(request)))
    return answer(request, bench, Station.DECK, request.get_full_path(), _parts(request, bench, wrong))


def _parts(request: HttpRequest, bench: Bench, wrong: dict[str, Wrong]) -> dict[str, Any]:
    cylinder = cylinder_asked(request, bench)
    return {
        "folder": "deck",
        "rows": rows(bench, wrong),
        "cylinder": cylinder,
        "edges": edge_rows(bench, cylinder, wrong, wanted="cylinder" in request.GET),
        "rocked": rocked(bench),
        "at_edges": "cylinder" in request.GET or any(name.startswith("edge-") for name in (*request.POST, *wrong)),
        "hand": in_hand(request),
        "instruments": instruments(bench),
        "counts": COUNTS,
        "spots": SPOTS,
        "held": HELD,
        "plan": deck_plan(bench.report),
        "planes": bench.report.planes,
        "wrong": wrong,
    }
