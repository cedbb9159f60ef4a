"""The book under two hands at once: the token's guard shown to be needed, and to hold."""

import uuid

import pytest
from django.db import IntegrityError, transaction
from django_scopes import scope

from bench.builds import services
from bench.builds.models import Entry, MockUp
from mockup.readings.deck import DeckReading
from tests import making_rows as making
from tests.making import thou

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
