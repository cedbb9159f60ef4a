"""Run the web application in a process of its own until stopped, and single commands."""

import contextlib
import http.client
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Mapping
from pathlib import Path
from types import FrameType

from launch.places import HOME, LOOPBACK, free_port
from launch.postgres import Cluster

ANSWER_S = 5.0
TELL_EVERY_S = 15.0
LOOK_EVERY_S = 3.0
STOPS_IN_S = 10.0
STOPPING = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)
# Loopback is never behind a proxy, even if the environment names one.
_directly = urllib.request.build_opener(urllib.request.ProxyHandler({}))


class Stopped(Exception):  # noqa: N818, it is not an error
    """Raised when the program is asked to stop."""


def stop_on_signals() -> None:
    """Turn the first stop signal into Stopped, so that everything started is also stopped.

    Further ones are ignored: they would interrupt the stopping and leave processes behind.
    """

    def stop(_number: int, _frame: FrameType | None) -> None:
        for number in STOPPING:
            signal.signal(number, lambda *_: None)
        raise Stopped

    for number in STOPPING:
        signal.signal(number, stop)


def manage(environment: Mapping[str, str], *arguments: str) -> None:
    """Run a Django command. Raises CalledProcessError where it fails."""
    subprocess.run([sys.executable, "-m", "django", *arguments], env=dict(environment), cwd=HOME, check=True)


def environment_for(settings: str, database_url: str, secret: str) -> dict[str, str]:
    """Return the environment that configures the web application."""
    return {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": settings,
        "DATABASE_URL": database_url,
        "SECRET_KEY": secret,
    }


def started(cluster: Cluster | None, serve: Callable[[], "Server"]) -> "Server":
    """Return a server that imported itself while its database started.

    ``cluster`` None: its database is run by others.
    """
    if cluster is None:
        return _up(serve())
    cluster.port = free_port()
    server, promised = serve(), cluster.url
    try:
        cluster.start()
        if cluster.url != promised:  # another process took the port in between
            server.stop()
            server = serve()
    except BaseException:
        server.stop()
        raise
    return _up(server)


def _up(server: "Server") -> "Server":
    try:
        server.go()
        server.wait_until_up()
    except BaseException:
        server.stop()
        raise
    return server


class ServerError(RuntimeError):
    """The server ended before it answered; its log says why."""


class Server:
    """The application on loopback, in a process of its own."""

    def __init__(self, environment: Mapping[str, str], port: int, log: Path, *preparing: str) -> None:
        self.address = f"http://{LOOPBACK}:{port}/"
        # If this program is killed outright, the server goes with it.
        command = ["setpriv", "--pdeathsig", "TERM", sys.executable, "-m", "launch.application"]
        command += ["--bind", f"{LOOPBACK}:{port}", "--log", str(log), *preparing]
        # A session of its own: Ctrl-C reaches only this program, which then stops everything in order.
        self._process = subprocess.Popen(
            command, env=dict(environment), cwd=HOME, start_new_session=True, stdin=subprocess.PIPE
        )

    @property
    def number(self) -> int:
        """Its process number [1]."""
        return self._process.pid

    def go(self) -> None:
        """Tell the server that its database is up."""
        # A server that has already ended is noticed while waiting for its first answer.
        with contextlib.suppress(BrokenPipeError), self._process.stdin or contextlib.nullcontext() as told:
            if told:
                told.write(b"go\n")

    def wait_until_up(self) -> None:
        """Return once a page is answered, however long it takes.

        Raises ServerError where the server ends first.
        """
        began = told = time.monotonic()
        while self._process.poll() is None:
            try:
                with _directly.open(self.address + "healthy/", timeout=ANSWER_S):
                    return
            except urllib.error.HTTPError:
                return  # perhaps refused for its host name, but answered
            except (OSError, http.client.HTTPException):
                # Refused, reset or silent: not up yet. Only its end is a failure.
                time.sleep(0.05)
            if time.monotonic() - told > TELL_EVERY_S:
                told = time.monotonic()
                print(f"Still starting, after {told - began:.0f} s. Ctrl-C gives up.", file=sys.stderr, flush=True)
        raise ServerError(f"The server ended with code {self._process.returncode} before it answered.")

    def wait(self, cluster: Cluster | None = None) -> int:
        """Wait until the server ends; restart a database that dies meanwhile."""
        while True:
            try:
                return self._process.wait(LOOK_EVERY_S)
            except subprocess.TimeoutExpired:
                if cluster is not None and not cluster.is_up:
                    print("The database died; starting it again.", file=sys.stderr, flush=True)
                    cluster.start_again()

    def stop(self) -> None:
        """Stop the server and everything it started, so that nothing uses the database any more."""
        self._process.terminate()
        try:
            self._process.wait(STOPS_IN_S)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()
        # It leads a process group, which includes the workers beside it.
        for number in (signal.SIGTERM, signal.SIGKILL):
            gives_up = time.monotonic() + STOPS_IN_S
            there = _told(self._process.pid, number)
            while there and time.monotonic() < gives_up:
                time.sleep(0.05)
                there = _told(self._process.pid, 0)


def _told(group: int, number: int) -> bool:
    """Send a signal to a process group, 0 only to look. Returns whether there is one."""
    try:
        os.killpg(group, number)
    except ProcessLookupError:
        return False
    return True
