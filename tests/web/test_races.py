"""Pairs of writes to one build against each other: nothing breaks or gets lost."""

import threading
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from itertools import combinations_with_replacement

import pytest
from django.db import connection
from django_scopes import scope

from mockup.base.faults import FaultsError
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import MockUp
from mockup.evaluate import evaluate
from mockup.readings.deck import DeckReading
from tests import making_rows as making
from tests.making import cut, thou
from web.builds import services
from web.builds.assemble import assemble
from web.builds.entry_kinds import BuildSigned
from web.builds.models import Build, Entry


def _engine(build, by):
    services.save_build(build, by, engine=replace(build.engine, cylinders=1))


def _struck(build, by):
    services.strike(Entry.objects.filter(build=build, kind="deck").first(), by, "slipped")


WRITES = {
    "reading": lambda build, by: services.write(build, DeckReading(key="", cylinder=2, clearance_mm=thou(5)), by),
    "engine": _engine,
    "mock-up": lambda build, by: services.save_mockup(build, by, MockUp(key="", gasket_state=GasketState.NONE)),
    "strike": _struck,
    "done": lambda build, by: services.mark_done(build, Entry.objects.filter(build=build, kind="change").first(), by),
    "signature": lambda build, by: services.write(build, BuildSigned(standing="as it was", note="mine"), by),
}


def at_once(build, by, names):
    """Both writes begun at the same moment; what each came to: "written", or why it was refused."""
    begin = threading.Barrier(len(names))

    def write(name):
        begin.wait()
        try:
            with scope(shop=by.shop):
                WRITES[name](Build.objects.get(pk=build.pk), by)
        except FaultsError as error:
            return str(error)
        finally:
            connection.close()
        return "written"

    with ThreadPoolExecutor(len(names)) as pool:
        return list(pool.map(write, names))


def lines(build):
    log = Entry.objects.filter(build=build)
    return {
        "reading": log.filter(kind="deck", data__cylinder=2).count(),
        "engine": log.filter(kind="edited", data__changes__0__0="cylinders").count(),
        "mock-up": build.mockups.count(),
        "strike": log.exclude(struck_reason="").count(),
        "done": log.filter(kind="done").count(),
        "signature": log.filter(kind="signature").count(),
    }


@pytest.mark.django_db(transaction=True)
def test_two_writes_at_the_same_moment_leave_a_build_that_can_be_read_and_lose_nothing():
    by = making.person()
    troubles = []
    for names in combinations_with_replacement(WRITES, 2):
        build = making.build(by)
        making.write(build, by, DeckReading(key="", cylinder=1, clearance_mm=thou(4)), cut(5, order=None))
        came_to = at_once(build, by, names)
        with scope(shop=by.shop):
            now = Build.objects.get(pk=build.pk)
            evaluate(assemble(now))
            stands = lines(now)
        for name, what in zip(names, came_to, strict=True):
            if (what == "written") != bool(stands[name]) and not (what != "written" and stands[name]):
                troubles.append((names, name, what, stands))
        # Of a reading and an engine that has no room for it, one is refused, in words.
        if set(names) == {"reading", "engine"} and sorted(what == "written" for what in came_to) != [False, True]:
            troubles.append((names, came_to))
        troubles += [(names, name, stands) for name in {"done", "strike"} & set(names) if stands[name] != 1]
    assert troubles == []
