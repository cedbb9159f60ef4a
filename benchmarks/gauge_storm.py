"""Five gauges and five pages while workers die and connections are cut.

``MOLE_STORM=10000 ./mole bench gauge_storm`` is the long one. Each gauge posts readings to one person, and sends each
again until it is answered; each page does what gauge.js and entry_sender.js do: asks for the next, sends it as a line
with the token it had, again until it is answered, and says that it is done. Now and then either hangs up before it
hears the answer. Before the storm the feed is timed while nothing is killed. Exit code 1 where a
reading is missing, doubled or out of its order, or takes longer than 300 ms to its page, at the 95th percentile.
"""

import http.client
import json
import os
import random
import signal
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from urllib.parse import urlencode
from uuid import uuid4

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.database import on_a_database

READINGS = int(os.environ.get("MOLE_STORM", "500"))
GAUGES, OF_A_BUILD, CALM = 5, 80, 60
KILL_EVERY_S, HANGS_UP = (0.6, 2.5), 0.03
POLL_S, MOST_MS = 0.15, 300.0
TOKEN = "c" * 32


@dataclass
class Bench:
    """One person: key, session, the builds their page opens, what was heard of each reading."""

    key: str
    session: str
    builds: list[int]
    chance: random.Random
    posted_at: dict[str, float] = field(default_factory=dict)
    shown_after: list[float] = field(default_factory=list)
    sent: int = 0
    saved: int = 0
    again: int = 0


class HungUpError(Exception):
    """The answer was not waited for, or did not come."""


def _ask(
    port: int, bench: Bench, address: str, body: str, headers: dict[str, str], *, rough: bool
) -> tuple[int, bytes]:
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=20)
    try:
        connection.request("POST", address, body, headers)
        if rough and bench.chance.random() < HANGS_UP:
            raise HungUpError
        answer = connection.getresponse()
        return answer.status, answer.read()
    except (OSError, http.client.HTTPException) as error:
        raise HungUpError from error
    finally:
        connection.close()


def _until_answered(bench: Bench, ask: Callable[[], tuple[int, bytes]]) -> tuple[int, bytes]:
    while True:
        try:
            status, content = ask()
        except HungUpError:
            status, content = 599, b""
        if status < 500:
            return status, content
        bench.again += 1
        time.sleep(0.05)


def _value(number: int) -> str:
    return f"{number % 90 / 10 + 1:.1f}"


def _gauge(port: int, bench: Bench, count: int, every_s: float, *, rough: bool) -> None:
    headers = {"Authorization": f"Bearer {bench.key}", "Content-Type": "application/json"}
    for _ in range(count):
        token = str(uuid4())
        body = json.dumps({"value": f"{_value(bench.sent)} down", "unit": "", "gauge": "bridge", "token": token})
        bench.posted_at[token] = time.perf_counter()
        while True:
            status, content = _until_answered(
                bench, lambda body=body: _ask(port, bench, "/api/gauge", body, headers, rough=rough)
            )
            if status == 201:
                break
            # So many wait already: the page is behind.
            assert b"wait already" in content, content
            time.sleep(0.2)
        bench.sent += 1
        time.sleep(every_s)


def _page(port: int, bench: Bench, total: int, *, rough: bool) -> None:
    headers = {
        "Cookie": f"sessionid={bench.session}; csrftoken={TOKEN}",
        "X-CSRFToken": TOKEN,
        "HX-Request": "true",
        "Content-Type": "application/x-www-form-urlencoded",
    }

    def ask(address: str, **said: str) -> tuple[int, bytes]:
        return _until_answered(bench, lambda: _ask(port, bench, address, urlencode(said), headers, rough=rough))

    def send(address: str, said: dict[str, object]) -> tuple[int, bytes]:
        sent = headers | {"Content-Type": "application/json"}
        return _until_answered(bench, lambda: _ask(port, bench, address, json.dumps(said), sent, rough=rough))

    while bench.saved < total:
        # A field that has had the cursor all along.
        status, content = ask("/gauge/next/", since_ms="0")
        told = json.loads(content)["reading"] if status == 200 else None
        if told is None:
            time.sleep(POLL_S)
            continue
        bench.shown_after.append(time.perf_counter() - bench.posted_at[told["token"]])
        build = bench.builds[bench.saved // OF_A_BUILD]
        page = f"/builds/{build}/deck/"
        line = {"token": told["token"], "page": page, "field": "deck-1", "text": told["text"], "unit": "in"}
        status, content = send(f"/builds/{build}/entries/", {"page": page, "lines": [line]})
        assert status == 200, (status, content[:300])
        assert json.loads(content)["fates"][0]["why"] == "", content[:300]
        ask("/gauge/done/", number=str(told["number"]))
        bench.saved += 1


def _kill(server: int, over: threading.Event, killed: list[str]) -> None:
    from django.db import DatabaseError, InterfaceError, connection

    chance = random.Random(7)  # noqa: S311, chance is no secret
    while not over.wait(chance.uniform(*KILL_EVERY_S)):
        if chance.random() < 0.5:
            done = subprocess.run(["pgrep", "-P", str(server)], capture_output=True, text=True, check=False)
            found = done.stdout.split()
            # The youngest are gunicorn's workers; the one that sets sheets was forked before them.
            if len(found) > 1:
                os.kill(int(chance.choice(found[-2:])), signal.SIGKILL)
                killed.append("worker")
            continue
        try:
            with connection.cursor() as cursor:
                cursor.execute(
                    "SELECT pg_terminate_backend(pid) FROM pg_stat_activity"
                    " WHERE pid <> pg_backend_pid() AND datname = current_database()"
                )
                killed += ["connection"] * cursor.rowcount
        except (DatabaseError, InterfaceError):
            connection.close()
    connection.close()


def _together(port: int, benches: list[Bench], count: int, every_s: float, *, rough: bool) -> None:
    threads = []
    for bench in benches:
        total = bench.saved + count
        threads.append(threading.Thread(target=_gauge, args=(port, bench, count, every_s), kwargs={"rough": rough}))
        threads.append(threading.Thread(target=_page, args=(port, bench, total), kwargs={"rough": rough}))
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()


def _made(each: int) -> list[Bench]:
    from django.test import Client
    from django_scopes import scope

    from tests import making_rows
    from web.shops.program_keys import make_key

    found = []
    for number in range(GAUGES):
        person = making_rows.person(f"person-{number}")
        client = Client()
        client.force_login(person)
        with scope(shop=person.shop):
            builds = [
                making_rows.build(person, name=f"Tern {number} {at}").pk
                for at in range((each + CALM) // OF_A_BUILD + 1)
            ]
            key = make_key(person, "a gauge", writes=True)
        found.append(Bench(key, client.cookies["sessionid"].value, builds, random.Random(number)))  # noqa: S311
    return found


def _measure() -> int:
    from django.core.management import call_command

    from launch.places import free_port
    from launch.web import Server, environment_for

    call_command("migrate", verbosity=0)
    each = READINGS // GAUGES
    benches = _made(each)
    environment = environment_for("benchmarks.load_settings", os.environ["DATABASE_URL"], os.environ["SECRET_KEY"])
    environment["PYTHONPATH"] = os.pathsep.join([str(Path(__file__).parents[1]), environment.get("PYTHONPATH", "")])
    port = free_port()
    killed: list[str] = []
    with tempfile.TemporaryDirectory() as place:
        server = Server(environment, port, Path(place) / "log")
        server.go()
        server.wait_until_up()
        try:
            _together(port, benches, CALM, 1.0, rough=False)
            calm = [1000 * one for bench in benches for one in bench.shown_after]
            over = threading.Event()
            killing = threading.Thread(target=_kill, args=(server.number, over, killed))
            killing.start()
            began = time.monotonic()
            try:
                _together(port, benches, each, 0.0, rough=True)
            finally:
                over.set()
                killing.join()
        finally:
            server.stop()
    return _told(benches, calm, killed, time.monotonic() - began)


def _told(benches: list[Bench], calm: list[float], killed: list[str], seconds: float) -> int:
    from bench.builds.models import Entry
    from django.db import connection
    from django_scopes import scopes_disabled

    # Cut with the others.
    connection.close()
    p95 = statistics.quantiles(calm, n=20)[-1]
    print(f"calm: {len(calm)} readings, to the page in {statistics.median(calm):.0f} ms, p95 {p95:.0f} ms")
    wrong = 0
    for bench in benches:
        with scopes_disabled():
            found = list(Entry.objects.filter(build__in=bench.builds, kind="deck").values_list("typed", flat=True))
        wanted = [f"{_value(number)} down" for number in range(bench.sent)]
        wrong += found != wanted
        if found != wanted:
            print(f"wrong: {len(found)} of {len(wanted)} in the book")
    workers = killed.count("worker")
    print(
        f"storm: {sum(bench.sent for bench in benches)} readings in all, {seconds:.0f} s; {workers} workers killed, "
        f"{len(killed) - workers} connections cut, {sum(bench.again for bench in benches)} times sent again; "
        f"{'each once, in order' if not wrong else f'{wrong} of {len(benches)} books WRONG'}"
    )
    return int(bool(wrong) or p95 > MOST_MS)


if __name__ == "__main__":
    sys.exit(on_a_database(_measure))
