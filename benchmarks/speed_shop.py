"""A shop of 10,000 builds against one of 100: a saving, a sheet, a search, in floors.

A floor is a bare view that answers with as many bytes, through the same middleware, in the same process; bytes are
those on the wire, packed. All are asked for in turn, round by round, so that a machine that gets busier slows all of
them alike. Processor time of this process; where two sizes of shop are compared, time by the clock, the database's
work with it. The exit code is 1 where a bound is missed.
"""

import gzip
import itertools
import json
import os
import statistics
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any
from uuid import uuid4

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.database import on_a_database

FEW, MANY, LINES, ROUNDS = 100, int(os.environ.get("MOLE_BUILDS", "10000")), 100, 25
FLAT, SAVE_FLOORS, SAVE_BYTES, REMEMBERED_S = 1.2, 8.0, 3_000, 0.3


_fields = itertools.cycle(f"deck-{cylinder}" for cylinder in range(1, 7))


def _next_field() -> str:
    """The field of another cylinder each time: nobody reads one crown fifty times."""
    return next(_fields)


PACKED = {"Accept-Encoding": "gzip"}


def _save_page(client: Any, deck: str) -> Callable[[], int]:
    """A saving by the older way: one field posted, the whole moving part answered."""

    def saved() -> int:
        answer = client.post(deck, {_next_field(): "4 down"}, headers={"HX-Request": "true"} | PACKED)
        assert answer.status_code == 200
        return len(answer.content)

    return saved


def _save_line(client: Any, deck: str, lines: str) -> Callable[[], int]:
    """A saving as pages send it: one entry, answered with the parts the page lacks."""
    has: dict[str, str] = {}

    def saved() -> int:
        line = {"token": str(uuid4()), "page": deck, "field": _next_field(), "text": "4 down", "unit": "in"}
        headers = {"X-Has": " ".join(f"{name}={digest}" for name, digest in has.items())} | PACKED
        sent = {"page": deck, "lines": [line]}
        answer = client.post(lines, sent, content_type="application/json", headers=headers)
        assert answer.status_code == 200
        told = json.loads(gzip.decompress(answer.content))
        assert told["fates"][0]["why"] == ""
        has.update({name: digest for name, (digest, _) in told["page"]["parts"].items()})
        return len(answer.content)

    saved()
    return saved


def _measure() -> int:
    from django.conf import settings
    from django.core.management import call_command
    from django.db import connection
    from django.test import Client
    from django.urls import reverse
    from django_scopes import scope

    from tests import making_rows
    from web.builds.models import Build
    from web.builds.seed import seed

    settings.ROOT_URLCONF = "benchmarks.floor_urls"
    call_command("migrate", verbosity=0)
    clients, builds = {}, {}
    for count in (FEW, MANY):
        person = making_rows.person(f"person-{count}", shop_name=f"shop of {count}")
        began = time.perf_counter()
        with scope(shop=person.shop):
            seed(person, count, LINES)
            builds[count] = Build.objects.filter(name__startswith="Avocet").latest("pk").pk
        print(f"{count:,} builds with {LINES} lines each made in {time.perf_counter() - began:.0f} s")
        clients[count] = Client()
        clients[count].force_login(person)
    with connection.cursor() as cursor:
        cursor.execute("VACUUM ANALYZE")  # as the database does on its own within minutes

    def get(count: int, address: str) -> Callable[[], int]:
        return lambda: len(clients[count].get(address, headers=PACKED).content)

    deck = {count: reverse("deck", args=[pk]) for count, pk in builds.items()}

    works: dict[tuple[str, int], Callable[[], int]] = {}
    for count in (FEW, MANY):
        works |= {
            ("stand", count): get(count, reverse("builds")),
            ("stand, by margin, page 3", count): get(count, reverse("builds") + "?order=tight&page=3"),
            ("stand, searched", count): get(count, reverse("builds") + "?q=inline+six"),
            ("a build page", count): get(count, deck[count]),
            ("a saving", count): _save_line(clients[count], deck[count], reverse("entries", args=[builds[count]])),
            ("a saving, the whole page", count): _save_page(clients[count], deck[count]),
        }
    works |= {
        ("verdict", MANY): get(MANY, reverse("verdict", args=[builds[MANY]])),
        ("export", MANY): get(MANY, reverse("export", args=[builds[MANY]])),
        ("what the shop remembers", MANY): get(MANY, reverse("memory")),
        ("engines like this one", MANY): get(MANY, reverse("alike", args=[builds[MANY]])),
        ("history", MANY): get(MANY, reverse("history", args=[builds[MANY]])),
        ("sheet as a PDF", MANY): get(MANY, reverse("sheet-pdf", args=[builds[MANY]])),
        ("least work", MANY): get(MANY, reverse("remedies", args=[builds[MANY]]) + "?find=1&cam=2"),
    }
    sizes = {key: work() for key, work in works.items()}
    for (name, count), size in sizes.items():
        works[f"floor of {name}", count] = get(count, f"/floor/{size}/")
    return _told(*_interleaved(works), sizes)


Times = dict[tuple[str, int], list[float]]


def _interleaved(works: dict[tuple[str, int], Callable[[], int]]) -> tuple[Times, Times]:
    """Processor time and time by the clock of every round [s]."""
    times: Times = {key: [] for key in works}
    clocks: Times = {key: [] for key in works}
    for turn in range(ROUNDS):
        for key, work in works.items():
            if "PDF" in key[0] and turn % 8:
                continue
            began, from_then = time.process_time(), time.perf_counter()
            work()
            times[key].append(time.process_time() - began)
            clocks[key].append(time.perf_counter() - from_then)
    return times, clocks


def _told(times: Times, clocks: Times, sizes: dict[tuple[str, int], int]) -> int:
    missed = 0
    print(f"{'':<34}{'builds':>8}{'median':>10}{'spread':>16}{'floors':>9}{'kB':>8}")
    for (name, count), found in times.items():
        if name.startswith("floor"):
            continue
        floors = statistics.median(found) / statistics.median(times[f"floor of {name}", count])
        low, _, high = statistics.quantiles(found, n=4)
        ms = statistics.median(found) * 1000
        spread = f"{low * 1000:.1f} to {high * 1000:.1f}"
        print(f"{name:<34}{count:>8,}{ms:>7.1f} ms{spread:>16}{floors:>9.1f}{sizes[name, count] / 1000:>8.1f}")

    def bound(words: str, value: float, most: float) -> None:
        nonlocal missed
        missed += value > most
        print(f"{words:<60}{value:>8.2f}   at most {most:g}: {'MISSED' if value > most else 'kept'}")

    for name in ("stand", "stand, by margin, page 3", "stand, searched", "a build page", "a saving"):
        flat = statistics.median(clocks[name, MANY]) / statistics.median(clocks[name, FEW])
        bound(f"{name}: {MANY:,} builds against {FEW}", flat, FLAT)
    saving = statistics.median(times["a saving", MANY]) / statistics.median(times["floor of a saving", MANY])
    bound("a saving, floors", saving, SAVE_FLOORS)
    for name in ("what the shop remembers", "engines like this one"):
        bound(f"{name}: by the clock [s]", statistics.median(clocks[name, MANY]), REMEMBERED_S)
    whole = statistics.median(times["a saving, the whole page", MANY])
    print(f"a saving by a line takes {statistics.median(times['a saving', MANY]) / whole:.2f} of one by the whole page")
    bound("a saving, bytes on the wire", sizes["a saving", MANY], SAVE_BYTES)
    return min(missed, 1)


if __name__ == "__main__":
    sys.exit(on_a_database(_measure))
