"""./mole demo as a person starts it: it comes up however slow the machine is, and says so when it cannot."""

import os
import re
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.parse
import urllib.request
from pathlib import Path

import pytest

from launch import web
from launch.places import HOME
from launch.postgres import Cluster, PostgresError
from launch.web import Server, ServerError

SLOW = """
import sys, time
if "launch.application" in sys.orig_argv:
    time.sleep(6)
"""


@pytest.fixture
def state():
    """A place for a demo's database that its server's own user can reach."""
    with tempfile.TemporaryDirectory(prefix="astute-mole-", dir="/var/tmp") as place:
        yield Path(place)


def environment(state, **more):
    kept = {name: value for name, value in os.environ.items() if name != "DJANGO_SETTINGS_MODULE"}
    return {**kept, "MOLE_STATE": str(state), **more}


def linked_files(html):
    """Styles, scripts and faces that a page asks for."""
    found = re.findall(r'(?:href|src)="(/static/[^"]+)"', html)
    assert len(found) > 10
    return found


def sheet_set(address):
    """The first build's sheet as a PDF, waited for as a browser waits: as often as it is told to look again."""
    opened = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
    with opened.open(f"{address}sign-in/") as page:
        token = re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', page.read().decode()).group(1)
    form = urllib.parse.urlencode({"csrfmiddlewaretoken": token}).encode()
    with opened.open(f"{address}demo/enter/", form) as stand:
        build = re.search(r"/builds/\d+/", stand.read().decode()).group()
    waited = []
    while True:
        with opened.open(address.rstrip("/") + build + "sheet.pdf") as answer:
            if answer.status == 200:
                assert waited, "it does not hold up who asks"
                return answer.read()
            waited.append(answer.headers["Refresh"])
            time.sleep(float(waited[-1]))


@pytest.mark.parametrize("slow", [False, True], ids=["as it is", "slowed"])
def test_the_demo_answers_with_its_first_page(state, slow):
    (state / "sitecustomize.py").write_text(SLOW if slow else "")
    with subprocess.Popen(
        [str(HOME / "mole"), "demo", "--port", "0"],
        env=environment(state, PYTHONPATH=str(state)),
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
    ) as demo:
        line = demo.stdout.readline()
        try:
            address = line.split(" at ")[1].split()[0]
            with urllib.request.urlopen(address) as page:
                html = page.read().decode()
            assert "Open the demo shop" in html
            linked = linked_files(html)
            assert {asked(address.rstrip("/") + file) for file in linked} == {200}, "on the very first start too"
            assert all(re.search(r"\.[0-9a-f]{12}\.\w+$", file) for file in linked), "named by what is in them"
            assert slow or sheet_set(address).startswith(b"%PDF-"), "by the worker beside it"
        finally:
            demo.send_signal(signal.SIGINT)
            said = demo.stderr.read()
    assert demo.returncode == 0
    assert "Traceback" not in said
    assert not (state / "demo" / "postgres" / "data" / "postmaster.pid").exists(), "the database was stopped too"


def served_by(*command):
    """A server whose process is another command, at an address that nobody answers on."""
    server = Server.__new__(Server)
    server._process = subprocess.Popen(command)
    return server


def test_a_server_that_ends_before_it_answers_is_no_server():
    server = served_by(sys.executable, "-c", "raise SystemExit(7)")
    server.address = "http://127.0.0.1:9/"
    with pytest.raises(ServerError, match="code 7"):
        server.wait_until_up()


def test_a_server_that_is_silent_at_first_is_waited_for(monkeypatch, capfd):
    monkeypatch.setattr(web, "ANSWER_S", 0.2)
    monkeypatch.setattr(web, "TELL_EVERY_S", 0.1)
    with socket.create_server(("127.0.0.1", 0)) as listening:

        def answer_the_third():
            for _ in range(2):
                with listening.accept()[0] as there:
                    while there.recv(1000):
                        pass  # taken, and never answered
            with listening.accept()[0] as there:
                there.recv(1000)
                there.sendall(b"HTTP/1.1 200 OK\r\nContent-Length: 0\r\nConnection: close\r\n\r\n")

        threading.Thread(target=answer_the_third, daemon=True).start()
        server = served_by("sleep", "60")
        server.address = f"http://127.0.0.1:{listening.getsockname()[1]}/"
        server.wait_until_up()
        server.stop()
    assert "Still starting" in capfd.readouterr().err


def asked(address):
    try:
        with urllib.request.urlopen(address, timeout=30) as page:
            return page.status
    except OSError as error:
        return getattr(error, "code", 0)


def test_a_shop_is_served_once_managed_meanwhile_and_outlives_its_database(state):
    """One server for all of it: starting takes longer than asking."""
    here = environment(state)
    for name in ("DATABASE_URL", "SECRET_KEY"):
        here.pop(name, None)
    mole = str(HOME / "mole")
    with subprocess.Popen([mole, "serve", "--port", "0"], env=here, stdout=subprocess.PIPE, text=True) as serving:
        try:
            said = [serving.stdout.readline()]
            while "Serving at" not in said[-1]:
                said.append(serving.stdout.readline())
            assert any("https://127.0.0.1/welcome/" in line for line in said), "how the first shop is made"
            address = said[-1].split(" at ")[1].split()[0]
            again = subprocess.run(
                [mole, "serve", "--port", "0"], env=here, capture_output=True, text=True, check=False
            )
            assert again.returncode == 1
            assert f"runs here already: process {serving.pid}" in again.stderr
            count = "from bench.shops.models import Shop; print('shops', Shop.objects.count())"
            managed = subprocess.run(
                [mole, "manage", "shell", "-c", count], env=here, capture_output=True, text=True, check=False
            )
            assert "shops 0" in managed.stdout
            assert asked(address + "healthy/") == 200, "whoever manages it stops nothing"
            # As the proxy asks, which speaks TLS.
            proxied = {"X-Forwarded-Proto": "https"}
            with urllib.request.urlopen(urllib.request.Request(f"{address}sign-in/", headers=proxied)) as page:
                linked = linked_files(page.read().decode())
            for file in linked:
                request = urllib.request.Request(address.rstrip("/") + file, headers=proxied)
                with urllib.request.urlopen(request) as answer:
                    assert "immutable" in answer.headers["Cache-Control"], file
            postmaster = state / "shop" / "postgres" / "data" / "postmaster.pid"
            before = int(postmaster.read_text().split()[0])
            os.kill(before, signal.SIGKILL)
            while asked(address + "healthy/") != 200 or int(postmaster.read_text().split()[0]) == before:
                assert serving.poll() is None
            assert asked(address + "alive/") == 200
        finally:
            serving.send_signal(signal.SIGINT)
    assert serving.returncode == 0
    assert not postmaster.exists(), "the database was stopped too"


def test_a_taken_port_is_said_in_a_sentence(state):
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = str(taken.getsockname()[1])
        done = subprocess.run(
            [str(HOME / "mole"), "serve", "--port", port],
            env=environment(state),
            capture_output=True,
            text=True,
            check=False,
        )
    assert (done.returncode, f"Port {port} on loopback is taken" in done.stderr) == (1, True)
    assert "Traceback" not in done.stderr


def test_a_database_of_another_version_is_said_in_a_sentence(tmp_path):
    cluster = Cluster(tmp_path)
    cluster.data.mkdir()
    (cluster.data / "PG_VERSION").write_text("9\n")
    with pytest.raises(PostgresError, match="made by PostgreSQL 9; installed is"):
        cluster.start()
