"""The book under two hands at once: the token's guard shown to be needed, and to hold."""

import uuid
from dataclasses import replace

import pytest
from django.db import IntegrityError, transaction
from django_scopes import scope

from mockup.changes.stack import GASKET_CHANGED, SHIMS_CHANGED
from mockup.engine.gasket import BaseShims, FinalGasket
from mockup.readings.deck import DeckReading
from tests import making_rows as making
from tests.making import thou
from web.builds import services
from web.builds.assemble import assemble
from web.builds.models import Entry, MockUp

READING = DeckReading(key="", cylinder=1, clearance_mm=thou(5))


def test_the_database_itself_refuses_a_second_writing_of_one_token(built, member):
    token = uuid.uuid4()
    with scope(shop=built.shop):
        assert services.write(built, READING, member, token=token)
        assert not services.write(built, READING, member, token=token)
        assert Entry.objects.count() == 1
        with pytest.raises(IntegrityError), transaction.atomic():
            Entry.objects.create(build=built, kind="deck", data={}, by=member, token=token)


def test_a_second_striking_out_leaves_the_first_reason(built, member):
    with scope(shop=built.shop):
        entry = services.write(built, READING, member)
        services.strike(entry, member, "crank moved")
        services.strike(entry, member, "thought again")
        entry.refresh_from_db()
    assert entry.struck_reason == "crank moved"


@pytest.mark.parametrize(("latest", "letter"), [(None, "A"), ("A", "B"), ("Z", "AA"), ("AZ", "BA")])
def test_mock_ups_are_lettered_in_order(latest, letter):
    assert services.next_letter(MockUp(letter=latest) if latest else None) == letter


def test_a_build_is_told_apart_by_its_name(built):
    assert str(making.build(built.shop.people.get(), name="Tern", subtitle="hull 2")) == "Tern hull 2"


def test_another_gasket_or_other_shims_written_later_are_changes_with_what_they_raise(member):
    flat = making.build(member, cylinders=4, layout="flat", separate_barrels=True)
    deck = DeckReading(key="", cylinder=3, clearance_mm=thou(5))
    thin, thick = (FinalGasket(name=f"{t}", compressed_mm=thou(t), bore_mm=97.0) for t in (36, 41))
    low, high = (BaseShims(total_mm=mm, cylinder=3) for mm in (0.2, 0.5))
    making.write(flat, member, thin, low, deck, thick, replace(deck, cylinder=4), high, deck, high, thick)
    with scope(shop=flat.shop):
        job = assemble(flat)
    found = [(one.kind, one.order, one.bank) for one in job.changes]
    assert found == [(GASKET_CHANGED, 1, None), (SHIMS_CHANGED, 2, 0)]
    assert [one.front_mm for one in job.changes] == pytest.approx([thou(5), 0.3])
    assert [one.rear_mm for one in job.changes] == pytest.approx([thou(5), 0.3])
    assert [reading.after for reading in job.of(DeckReading)] == [0, 1, 2]
    assert (job.final_gasket, job.final_shims) == (thick, (high,))
