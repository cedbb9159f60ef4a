"""Signed-in clients and the builds they look at."""

import pytest
from django.test import Client

from bench.shops.models import Person
from tests import making_rows as making


@pytest.fixture
def member(db):
    return making.person()


@pytest.fixture
def bench(member):
    """A client signed in as a member of the shop."""
    client = Client()
    client.force_login(member)
    return client


@pytest.fixture
def viewer(member):
    client = Client()
    client.force_login(making.person("wilfred", role=Person.Role.VIEWER))
    return client


@pytest.fixture
def stranger(db):
    """A client signed in to another shop."""
    client = Client()
    client.force_login(making.person("stranger", shop_name="Elsewhere"))
    return client


@pytest.fixture
def built(member):
    """A bare build of the member's shop."""
    return making.build(member)


@pytest.fixture
def whole(member):
    """A build with everything read."""
    return making.read_build(member)
