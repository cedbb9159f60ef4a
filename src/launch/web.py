"""Running the web application: Django's chores, then gunicorn until somebody stops it."""

import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Mapping
from pathlib import Path
from types import FrameType

from launch.places import HOME, LOOPBACK


class Stopped(Exception):  # noqa: N818, it is not an error
    """Somebody asked the program to stop."""


def stop_on_signals() -> None:
    """Turn the usual signals into Stopped, so that everything started is also stopped."""

    def stop(_number: int, _frame: FrameType | None) -> None:
        raise Stopped

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, stop)


def manage(environment: Mapping[str, str], *arguments: str) -> None:
    """Run one of Django's commands. Raises CalledProcessError where it fails."""
    subprocess.run([sys.executable, "-m", "django", *arguments], env=dict(environment), cwd=HOME, check=True)


def environment_for(settings: str, database_url: str, secret: str) -> dict[str, str]:
    """The environment the web application is configured by."""
    return {
        **os.environ,
        "DJANGO_SETTINGS_MODULE": settings,
        "DATABASE_URL": database_url,
        "SECRET_KEY": secret,
    }


class Server:
    """gunicorn with the application, on loopback."""

    def __init__(self, environment: Mapping[str, str], port: int, log: Path) -> None:
        self.address = f"http://{LOOPBACK}:{port}/"
        # Should this program be killed outright, the server goes with it.
        command = [
            "setpriv",
            "--pdeathsig",
            "TERM",
            sys.executable,
            "-m",
            "gunicorn",
            "bench.wsgi",
            "--bind",
            f"{LOOPBACK}:{port}",
        ]
        command += [
            "--workers",
            "2",
            "--threads",
            "4",
            "--preload",
            "--error-logfile",
            str(log),
            "--log-level",
            "warning",
        ]
        # A session of its own: Ctrl-C reaches this program alone, which then stops everything in order.
        self._process = subprocess.Popen(command, env=dict(environment), cwd=HOME, start_new_session=True)

    def wait_until_up(self, seconds: float = 30.0) -> None:
        """Return once a page is answered. Raises RuntimeError where the server dies or stays silent."""
        until = time.monotonic() + seconds
        while time.monotonic() < until and self._process.poll() is None:
            try:
                with urllib.request.urlopen(self.address + "healthy/", timeout=5):  # noqa: S310, our own address
                    return
            except (urllib.error.URLError, ConnectionError):
                time.sleep(0.05)
        raise RuntimeError("The server did not start; its log says why.")

    def wait(self) -> int:
        """Wait until the server ends by itself."""
        return self._process.wait()

    def stop(self) -> None:
        """Stop the server."""
        self._process.terminate()
        try:
            self._process.wait(10)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()
