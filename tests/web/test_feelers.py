"""Feelers: every field that takes a gap takes the one that goes and the one that does not."""

import re
from dataclasses import fields

import pytest
from django.urls import reverse
from django_scopes import scope

from mockup.readings.instruments import FEELERS
from mockup.readings.kinds import READING_KINDS
from tests import making_rows as making
from tests.making import thou
from web.page.answers import STATION_URLS
from web.page.fields import DeckReadingField, GapField
from web.quick.views import SORTS

BY_FEELERS = [kind for kind in READING_KINDS if any(one.name == "half_width_mm" for one in fields(kind.core))]
FIELD = re.compile(r'<input[^>]*?name="(?P<name>[^"]+)"[^>]*?data-understand="(?P<kind>[^"]+)"', re.DOTALL)
OTHER_LENGTHS = {"zero", "shims", "drift", "tilt"}
"""Lengths of the forms' choices, which are no readings."""


@pytest.fixture
def ready(bench, built, member):
    making.mockup(built, member)
    return built


def entry_fields(page):
    return {found["name"]: found["kind"] for found in FIELD.finditer(page) if found["name"] not in OTHER_LENGTHS}


def offering(bench, built):
    """The addresses of the stations where feelers can be chosen, or are the only instrument."""
    addresses = {station: reverse(name, args=[built.pk]) for station, name in STATION_URLS.items()}
    chosen = {at: bench.get(address).content.decode() for at, address in addresses.items()}
    return {addresses[at]: page for at, page in chosen.items() if f'value="{FEELERS}"' in page}


def test_a_station_where_feelers_can_be_chosen_reads_gaps(bench, ready):
    stations = {reverse(STATION_URLS[kind.station], args=[ready.pk]) for kind in BY_FEELERS}
    assert set(offering(bench, ready)) == stations
    for kind in BY_FEELERS:
        assert kind.has_instrument, kind.name


def test_every_field_of_those_stations_takes_feelers(bench, ready):
    tried = 0
    for address, page in offering(bench, ready).items():
        for name, kind in entry_fields(page).items():
            typed = "9 ATDC goes 130 not 134" if kind == "sweep" else "goes 130 not 134"
            echo = bench.get(reverse("understood"), {"as": kind, "text": typed, "unit": "in"}).content.decode()
            assert "±2" in echo, (name, echo)
            answer = bench.post(address, {name: typed, "instrument": FEELERS}, headers={"HX-Request": "true"})
            assert answer.status_code == 200, name
            tried += 1
    with scope(shop=ready.shop):
        made = [one for kind in BY_FEELERS for one in making.items(ready, kind.name)]
    assert tried > 10
    assert len(made) == tried
    for one in made:
        middle = next(getattr(one, name) for name in ("clearance_mm", "gap_mm") if hasattr(one, name))
        assert (middle, one.half_width_mm) == pytest.approx((thou(132), thou(2)))
        assert one.instrument == FEELERS


GAPS = [
    (sort, name)
    for sort, (_, form) in SORTS.items()
    for name in form.base_fields
    if any(one.name == f"{name.removesuffix('_mm')}_half_mm" for one in fields(form.CORE))
]


def test_the_quick_checks_have_the_fields_of_gaps_where_their_core_has_feelers():
    typed = {(s, n) for s, (_, f) in SORTS.items() for n, one in f.base_fields.items() if
             isinstance(one, GapField | DeckReadingField)}  # fmt: skip
    assert typed == set(GAPS)
    assert {name for _, name in GAPS} == {"read_mm", "deck_mm"}


@pytest.mark.parametrize(("sort", "name"), GAPS)
def test_each_takes_feelers_says_so_and_counts_their_step(bench, sort, name):
    said = {"what": sort, "gasket_mm": "40", "bore_mm": "4", "stroke_mm": "3", "chamber_cc": "60", "piston_cc": "flat"}

    def answered(typed):
        page = bench.get(reverse("quick"), said | {name: typed})
        assert page.context["form"].is_valid(), page.context["form"].errors
        return page.context["check"], page.content.decode()

    wide, page = answered("goes 30 not 38")
    narrow, _ = answered("goes 33 not 35")
    assert sort == "ratio" or "feelers" in page.partition('id="answer"')[2].lower()
    assert wide.figure.value == pytest.approx(narrow.figure.value)
    assert wide.figure.u > narrow.figure.u


def test_a_feeler_that_goes_and_is_thicker_is_refused_at_the_field(bench, ready):
    answer = bench.post(reverse("sweep", args=[ready.pk]), {"sweep-0": "goes 14 not 13", "instrument": FEELERS})
    assert answer.status_code == 422
    assert "The feeler that goes is the thinner one" in answer.content.decode()
    assert "Type both feelers" in bench.get(
        reverse("understood"), {"as": "gap", "text": "goes 14", "unit": "in"}
    ).content.decode()  # fmt: skip
