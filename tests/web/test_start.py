"""./mole demo as a person starts it: it comes up on a slow machine, or says why not."""

import contextlib
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

from launch import demo, web
from launch.places import HOME, free_port, kept_secret
from launch.postgres import Cluster, PostgresError
from launch.serve import shop_environment
from launch.web import Server, ServerError, environment_for

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


def processes_of(state):
    """The command lines of the processes that run for a place."""
    found = []
    for path in Path("/proc").glob("[0-9]*/cmdline"):
        with contextlib.suppress(OSError):
            found.append(path.read_text().replace("\0", " "))
    return [line for line in found if str(state) in line]


def linked_files(html):
    """Styles, scripts and faces that a page asks for."""
    found = re.findall(r'(?:href|src)="(/static/[^"]+)"', html)
    assert len(found) > 10
    return found


def sheet_set(address):
    """The first build's sheet as a PDF, asked for as often as a browser is told to."""
    opened = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
    with opened.open(f"{address}sign-in/") as page:
        token = re.search(r'name="csrfmiddlewaretoken" value="([^"]+)"', page.read().decode()).group(1)
    form = urllib.parse.urlencode({"csrfmiddlewaretoken": token}).encode()
    with opened.open(f"{address}demo/enter/", form) as builds_list:
        build = re.search(r"/builds/\d+/", builds_list.read().decode()).group()
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
        # A proxy that nobody answers at: the start asks for its own page without it.
        env=environment(state, PYTHONPATH=str(state), http_proxy="http://127.0.0.1:9"),
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
            demo.send_signal(signal.SIGTERM)
            said = demo.stderr.read()
    assert demo.returncode == 0
    assert all(word not in said for word in ("Traceback", "FATAL", "terminating connection"))
    assert "gathering styles and scripts" in said, "each step is said"
    assert not processes_of(state), "nothing is left running"
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
            count = "from web.shops.models import Shop; print('shops', Shop.objects.count())"
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


def test_a_server_that_was_killed_is_started_again_on_its_port(state):
    here = environment(state)
    for name in ("DATABASE_URL", "SECRET_KEY"):
        here.pop(name, None)
    port = str(free_port())
    for killed in (True, False):
        command = [str(HOME / "mole"), "serve", "--port", port]
        with subprocess.Popen(command, env=here, stdout=subprocess.PIPE, text=True) as serving:
            said = iter(serving.stdout.readline, "")
            assert any("Serving at" in line for line in said), "it comes up"
            assert asked(f"http://127.0.0.1:{port}/healthy/") == 200
            serving.send_signal(signal.SIGKILL if killed else signal.SIGINT)
    assert serving.returncode == 0
    assert not processes_of(state)


UP_TO_DATE = "import django; django.setup(); from launch.application import _up_to_date; _up_to_date()"


def test_servers_that_start_at_once_on_an_empty_database_do_not_race(another):
    here = environment_for("web.settings.demo", another, "only-for-tests")
    command = [sys.executable, "-c", UP_TO_DATE]
    both = [subprocess.Popen(command, env=here, stderr=subprocess.PIPE, text=True) for _ in range(2)]
    said = [one.communicate()[1] for one in both]
    assert [one.returncode for one in both] == [0, 0], said
    assert sum("bringing the database up to date" in words for words in said) == 1, "one of them did it"
    assert sum("waiting for another server" in words for words in said) == 1


WHEN = "Put it back."


def test_a_secret_is_written_whole_kept_and_refused_when_it_is_empty(tmp_path):
    made = kept_secret(tmp_path / "secret", when_lost=WHEN)
    assert len(made) > 50
    assert kept_secret(tmp_path / "secret", when_lost=WHEN) == made
    assert [path.name for path in tmp_path.iterdir()] == ["secret"]
    assert (tmp_path / "secret").stat().st_mode & 0o777 == 0o600
    (tmp_path / "secret").write_text("\n")
    with pytest.raises(RuntimeError, match="is empty"):
        kept_secret(tmp_path / "secret", when_lost=WHEN)


def test_a_secret_that_cannot_be_written_leaves_none(tmp_path, monkeypatch):
    def full(_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("launch.places.os.fsync", full)
    with pytest.raises(OSError, match="No space"):
        kept_secret(tmp_path / "secret", when_lost=WHEN)
    assert list(tmp_path.iterdir()) == []


def test_of_two_that_make_a_secret_at_once_both_get_the_first(tmp_path, monkeypatch):
    kept_secret(tmp_path / "secret", when_lost=WHEN)
    first = (tmp_path / "secret").read_text()
    monkeypatch.setattr("launch.places.Path.exists", lambda _: False)
    assert kept_secret(tmp_path / "secret", when_lost=WHEN) == first


def test_the_secret_of_the_environment_is_used_and_an_empty_one_is_refused(state, monkeypatch):
    monkeypatch.setenv("MOLE_STATE", str(state))
    monkeypatch.delenv("SECRET_KEY", raising=False)
    own = shop_environment("postgres://nobody@127.0.0.1:1/none")["SECRET_KEY"]
    assert own == (state / "shop" / "secret").read_text()
    monkeypatch.setenv("SECRET_KEY", "shared by several hosts")
    assert shop_environment("postgres://nobody@127.0.0.1:1/none")["SECRET_KEY"] == "shared by several hosts"
    monkeypatch.setenv("SECRET_KEY", " ")
    with pytest.raises(RuntimeError, match="SECRET_KEY is in the environment, and empty"):
        shop_environment("postgres://nobody@127.0.0.1:1/none")


def test_a_demo_whose_port_is_taken_says_which_it_uses(state, monkeypatch, capsys):
    monkeypatch.setenv("MOLE_STATE", str(state))
    used = []
    monkeypatch.setattr(demo, "stop_on_signals", lambda: None)
    monkeypatch.setattr(demo, "_serve", lambda *_, port, **__: used.append(port) or 0)
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
        assert demo.main(["--port", str(port)]) == 0
    assert f"Port {port} is taken. Port {used[0]} is used instead." in capsys.readouterr().err
    assert used != [port]


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
