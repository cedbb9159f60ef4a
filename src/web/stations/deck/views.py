"""The deck station: the middle of every crown, its edges and rock, and the deck they make."""

from typing import Any

from django.http import HttpRequest

from mockup.base.stations import Station
from web.drawings.deck_plan import deck_plan
from web.entry.entry_forms import EntryForm, declare, view_of
from web.page.build_page import BuildPage, cylinder_asked
from web.page.read_fields import Wrong
from web.stations.deck.sheet import COUNTS, HELD, SPOTS, edge_rows, in_hand, instruments, readers, rocked, rows


def _parts(request: HttpRequest, page: BuildPage, wrong: dict[str, Wrong]) -> dict[str, Any]:
    cylinder = cylinder_asked(request, page)
    return {
        "folder": "deck",
        "rows": rows(page, wrong),
        "cylinder": cylinder,
        "edges": edge_rows(page, cylinder, wrong, wanted="cylinder" in request.GET),
        "rocked": rocked(page),
        "at_edges": "cylinder" in request.GET or any(name.startswith("edge-") for name in (*request.POST, *wrong)),
        "hand": in_hand(request),
        "instruments": instruments(page),
        "counts": COUNTS,
        "spots": SPOTS,
        "held": HELD,
        "plan": deck_plan(page.report),
        "planes": page.report.planes,
        "wrong": wrong,
    }


deck = view_of(declare(EntryForm(station=Station.DECK, readers=readers, parts=_parts)))
