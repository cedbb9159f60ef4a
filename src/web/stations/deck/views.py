"""The deck station: the middle of every crown, its edges and rock, and the deck they make."""

from typing import Any

from django.http import HttpRequest

from mockup.base.faults import FaultsError, message_of
from mockup.base.stations import Station
from mockup.plans.piston_places import least_spread
from mockup.quantity.typed import LengthError, parse_dimension, split_lengths
from web.drawings.deck_plan import deck_plan
from web.entry.entry_forms import EntryForm, declare, view_of
from web.page.build_page import BuildPage, cylinder_asked
from web.page.read_fields import LONGEST_TYPED, Wrong
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
        **_piston_places(request.GET.get("heights", "")[:LONGEST_TYPED], page),
    }


def _piston_places(typed: str, page: BuildPage) -> dict[str, Any]:
    """Return which piston goes in which bore, from their heights as typed, cylinder 1 first."""
    cylinders, parts = page.report.job.engine.cylinder_numbers, split_lengths(typed)
    if not parts:
        return {"heights": typed}
    if len(parts) != len(cylinders):
        count = f"Type {len(cylinders)} heights, cylinder 1 first; there are {len(parts)}."
        return {"heights": typed, "wrong_heights": count}
    try:
        heights = {one: parse_dimension(part, page.unit) for one, part in zip(cylinders, parts, strict=True)}
        decks = {one: figure.clearance.value for one, figure in page.report.deck.items()}
        places = least_spread(decks, heights, page.report.job.engine.banks)
    except (LengthError, FaultsError) as error:
        message = message_of(error) if isinstance(error, FaultsError) else str(error)
        return {"heights": typed, "wrong_heights": message}
    found = [(bore, piston, places.decks_mm[bore]) for bore, piston in places.moves.items()]
    return {"heights": typed, "places": places, "place_rows": found}


deck = view_of(declare(EntryForm(station=Station.DECK, readers=readers, parts=_parts)))
