"""The deck station: the middle of every crown, its edges and rock, and the deck they make."""

from typing import Any

from django.http import HttpRequest

from bench.drawings.deck_plan import deck_plan
from bench.entry.sheets import Sheet, declare, view_of
from bench.page.bench import Bench, cylinder_asked
from bench.page.entering import Wrong
from bench.stations.deck.sheet import COUNTS, HELD, SPOTS, edge_rows, in_hand, instruments, readers, rocked, rows
from mockup.stations import Station


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


deck = view_of(declare(Sheet(station=Station.DECK, readers=readers, parts=_parts)))
