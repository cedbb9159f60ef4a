"""Twenty people typing at once: how long a saving takes, and what one person's PDFs cost.

The application as it is served (two workers of four threads, and the one that sets sheets), on this machine, beside
those who ask. Everybody saves a reading in one of the builds, looks at it for a second or two, and saves the next.
A floor is a bare view of the same size, asked for by the same people among their savings. Rounds with and
without somebody who asks for one sheet after another take turns. The exit code is 1 where a bound is missed.
"""

import http.client
import os
import random
import statistics
import sys
import tempfile
import threading
import time
from dataclasses import dataclass, field
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.database import on_a_database

PEOPLE, BUILDS, LINES, ROUND_S, ROUNDS = 20, 60, 100, 15.0, 3
LOOKS_S = (0.8, 2.2)
FLOORS, MOVED = 10.0, 1.15
TOKEN = "b" * 32


@dataclass
class Times:
    """What was measured, by the clock [s], and what went wrong."""

    savings: list[float] = field(default_factory=list)
    floors: list[float] = field(default_factory=list)
    sheets: list[float] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)
    bytes: int = 6000


def _ask(port: int, session: str, address: str, form: str | None = None) -> tuple[int, bytes, float]:
    headers = {"Cookie": f"sessionid={session}; csrftoken={TOKEN}", "Accept-Encoding": "gzip"}
    if form is not None:
        headers |= {"X-CSRFToken": TOKEN, "HX-Request": "true", "Content-Type": "application/x-www-form-urlencoded"}
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
    began = time.perf_counter()
    connection.request("POST" if form is not None else "GET", address, form, headers)
    answer = connection.getresponse()
    content = answer.read()
    took = time.perf_counter() - began
    connection.close()
    return answer.status, content, took


def _types(port: int, session: str, builds: list[int], seed: int, until: float, times: Times) -> None:
    chance = random.Random(seed)  # noqa: S311, a crowd is no secret
    time.sleep(chance.uniform(0, LOOKS_S[1]))
    while time.monotonic() < until:
        form = f"deck-{chance.randint(1, 6)}={chance.randint(0, 15)}+down"
        status, content, took = _ask(port, session, f"/builds/{chance.choice(builds)}/deck/", form)
        times.savings.append(took)
        if status != 200:
            times.wrong.append(f"{status} for {form}: {content[:200]!r}")
        times.bytes = len(content)
        time.sleep(chance.uniform(*LOOKS_S) / 2)
        status, _, took = _ask(port, session, f"/floor/{times.bytes}/")
        times.floors.append(took)
        if status != 200:
            times.wrong.append(f"{status} for a floor")
        time.sleep(chance.uniform(*LOOKS_S) / 2)


def _prints(port: int, session: str, builds: list[int], until: float, times: Times) -> None:
    at = 0
    while time.monotonic() < until:
        began, status = time.perf_counter(), 0
        while status != 200 and time.monotonic() < until:
            # Another address each time, so that nothing comes from the last sheet.
            status, _, _ = _ask(port, session, f"/builds/{builds[at % len(builds)]}/sheet.pdf?{at}")
            if status not in (200, 202):
                times.wrong.append(f"{status} for a sheet")
            if status != 200:
                time.sleep(1)
        times.sheets.append(time.perf_counter() - began)
        at += 1


def _round(port: int, sessions: list[str], builds: list[int], times: Times, seed: int, *, printing: bool) -> None:
    until = time.monotonic() + ROUND_S
    threads = [
        threading.Thread(
            target=_types,
            args=(port, session, builds, 1000 * seed + at, until, times),
        )
        for at, session in enumerate(sessions)
    ]
    if printing:
        threads.append(threading.Thread(target=_prints, args=(port, sessions[0], builds, until, times)))
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


def _p95(found: list[float]) -> float:
    return statistics.quantiles(found, n=20)[-1]


def _measure() -> int:
    from django.core.management import call_command
    from django.test import Client
    from django_scopes import scope

    from launch.places import free_port
    from launch.web import Server, environment_for
    from tests import making_rows
    from web.builds.models import Build
    from web.builds.seed import seed

    call_command("migrate", verbosity=0)
    owner = making_rows.person("person-0")
    with scope(shop=owner.shop):
        seed(owner, BUILDS, LINES)
        builds = list(Build.objects.values_list("pk", flat=True))
    sessions = []
    for number in range(PEOPLE):
        client = Client()
        client.force_login(making_rows.person(f"person-{number}") if number else owner)
        sessions.append(client.cookies["sessionid"].value)
    environment = environment_for("benchmarks.load_settings", os.environ["DATABASE_URL"], os.environ["SECRET_KEY"])
    environment["PYTHONPATH"] = os.pathsep.join([str(Path(__file__).parents[1]), environment.get("PYTHONPATH", "")])
    port = free_port()
    with tempfile.TemporaryDirectory() as place:
        server = Server(environment, port, Path(place) / "log")
        server.go()
        server.wait_until_up()
        try:
            alone, beside = Times(), Times()
            _round(port, sessions, builds, Times(), 0, printing=True)  # warm
            for turn in range(1, ROUNDS + 1):
                _round(port, sessions, builds, alone, turn, printing=False)
                _round(port, sessions, builds, beside, turn, printing=True)
        finally:
            server.stop()
    return _told(alone, beside)


def _told(alone: Times, beside: Times) -> int:
    missed = 0

    def bound(words: str, value: float, most: float) -> None:
        nonlocal missed
        missed += value > most
        print(f"{words:<60}{value:>8.2f}   at most {most:g}: {'MISSED' if value > most else 'kept'}")

    for words, times in (("20 people typing", alone), ("the same, and sheets one after another", beside)):
        savings = [1000 * one for one in times.savings]
        print(
            f"{words:<42}{len(savings)} savings, median {statistics.median(savings):.0f}, p95 {_p95(savings):.0f} ms;"
            f" floor {1000 * statistics.median(times.floors):.1f} ms, p95 {1000 * _p95(times.floors):.1f} ms"
        )
    if beside.sheets:
        print(f"{len(beside.sheets)} sheets, each after {statistics.median(beside.sheets):.1f} s")
    for words in (alone.wrong + beside.wrong)[:5]:
        print(words)
    bound(
        "p95 of a saving, in medians of a floor under this load",
        _p95(alone.savings) / statistics.median(alone.floors),
        FLOORS,
    )
    bound("p95 of a saving beside sheets, against without", _p95(beside.savings) / _p95(alone.savings), MOVED)
    bound("errors", len(alone.wrong) + len(beside.wrong), 0)
    return min(missed, 1)


if __name__ == "__main__":
    sys.exit(on_a_database(_measure))
