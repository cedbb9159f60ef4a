"""Signed-in clients and the builds they look at."""

import os
from urllib.parse import urlsplit, urlunsplit

import pytest
from django.db import connection
from django.test import Client
from django_scopes import scope

from launch.sql import sql
from launch.web import environment_for, manage
from mockup.engine.cam import CamCard, Duration, LobeCard
from mockup.engine.camshaft import Camshaft
from mockup.engine.pushrods import PushrodChoice
from mockup.engine.valves import Place, Side
from mockup.readings.clay import ClayReading
from mockup.readings.pushrods import PushrodReading
from mockup.readings.sweep import SweepReading
from tests import making_rows as making
from tests.making import CARD, OTHER_CAM, thou
from tests.web.asking import post
from web.shelf.models import ShelfGasket
from web.shelf.services import put_cam_on, put_on
from web.shops.models import Person


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


@pytest.fixture
def carded(member):
    """A whole build with one exhaust short by 12 thou, a card, and a thicker gasket."""
    built = making.read_build(member)
    reading = ClayReading(key="", mockup="A", place=Place(2, Side.EXHAUST), thickness_mm=thou(88))
    making.write(built, member, reading, CARD)
    with scope(shop=member.shop):
        put_on(ShelfGasket(name="thick", bore_mm=97.0, compressed_mm=round(thou(38), 6)), member)
        put_on(ShelfGasket(name="for another", bore_mm=120.0, compressed_mm=round(thou(51), 6)), member)
    return built


@pytest.fixture
def rods(bench, carded, member):
    """The short build with a pushrod tried and one of 7.440 in chosen."""
    tried = {
        "mockup": "A",
        "place": Place(1, Side.INTAKE),
        "closed_mm": 6.8 * 25.4,
        "turns": 11.5,
        "pitch_mm": thou(50),
    }
    choice = PushrodChoice(low_mm=thou(45), aim_mm=thou(60), high_mm=thou(90), step_mm=thou(10), chosen_mm=7.44 * 25.4)
    making.write(carded, member, PushrodReading(key="", **tried), choice)
    post(bench, carded, "verdict", change="1", limit="quench_high", length="80", reason="made-up")
    with scope(shop=member.shop):
        put_on(ShelfGasket(name="thickest", bore_mm=97.0, compressed_mm=round(thou(60), 6)), member)
    return carded


@pytest.fixture
def dropped(member):
    """A build with both drops of its first cylinder, a card, a gasket, and two cams."""
    built = making.build(member, rocker_ratio=1.5)
    making.mockup(built, member, bolts="torqued")
    making.write(built, member, making.FinalGasket(compressed_mm=thou(36), bore_mm=97.0), CARD)
    drops = [
        SweepReading(key="", mockup="A", place=Place(1, side), clearance_mm=thou(down), drop=True)
        for side, down in ((Side.INTAKE, 210), (Side.EXHAUST, 235))
    ]
    making.write(built, member, *drops)
    with scope(shop=member.shop):
        put_cam_on(OTHER_CAM, member, price="300")
        mild = LobeCard(lift_mm=thou(250), durations=(Duration(240.0, thou(20)), Duration(200.0, thou(50))))
        card = CamCard(intake=mild, exhaust=mild, icl_deg=108.0, lsa_deg=112.0)
        put_cam_on(Camshaft(name="mild", card=card), member, had=True)
    return built


def _server():
    settings = connection.settings_dict
    netloc = f"{settings['USER']}:{settings['PASSWORD']}@{settings['HOST']}:{settings['PORT']}"
    return urlunsplit(("postgres", netloc, "/postgres", "", ""))


def _database(name, template="template1"):
    # By process too: another worker runs its share of the same test on the same server.
    name = f"{name}_{os.getpid()}".replace("-", "_").lower()[-60:]
    sql(_server(), f"CREATE DATABASE {name} TEMPLATE {template}")
    return name, urlsplit(_server())._replace(path=f"/{name}").geturl()


@pytest.fixture
def another(django_db_blocker, tmp_path):
    """A database of its own beside the tests', empty."""
    name, url = _database(f"kept_{tmp_path.name}")
    yield url
    sql(_server(), f"DROP DATABASE {name} WITH (FORCE)")


@pytest.fixture(scope="session")
def demo_made_url(django_db_blocker):
    """The address of a database that holds the demo, to look at and to make others from."""
    name, url = _database("demo_made")
    for command in (("migrate", "--verbosity", "0"), ("load_demo",)):
        manage(environment_for("web.settings.demo", url, "only-for-tests"), *command)
    yield url
    sql(_server(), f"DROP DATABASE {name} WITH (FORCE)")


@pytest.fixture
def demo_shop(demo_made_url, tmp_path):
    """A database of its own with the demo's shop."""
    name, url = _database(f"kept_{tmp_path.name}", urlsplit(demo_made_url).path[1:])
    yield url
    sql(_server(), f"DROP DATABASE {name} WITH (FORCE)")
