"""./mole demo: the application with demo data, on this machine only, until Ctrl-C."""

import argparse
import fcntl
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from launch.places import SIGNS_IN_AGAIN, free_port, kept_secret, state_directory
from launch.postgres import Cluster
from launch.web import Server, Stopped, environment_for, started, stop_on_signals

USUAL_PORT = 8765


class AlreadyRunning(Exception):  # noqa: N818
    """Another demo is running in the same place; its address is the message."""


@contextmanager
def _alone(home: Path) -> Iterator[Path]:
    """Hold the demo's lock. Yields the file that tells others the address."""
    home.mkdir(parents=True, exist_ok=True)
    address = home / "address"
    with (home / "lock").open("w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise AlreadyRunning(address.read_text() if address.exists() else "") from None
        try:
            yield address
        finally:
            address.unlink(missing_ok=True)


def main(arguments: list[str]) -> int:
    """Start the demo and serve it until stopped."""
    parser = argparse.ArgumentParser(prog="mole demo", description="Start the application with demo data.")
    parser.add_argument("--reset", action="store_true", help="start the demo data afresh")
    parser.add_argument("--port", type=int, default=USUAL_PORT, help="port wanted on loopback")
    options = parser.parse_args(arguments)
    stop_on_signals()
    home = state_directory() / "demo"
    try:
        with _alone(home) as address:
            port = free_port(options.port)
            if options.port and port != options.port:
                print(f"Port {options.port} is taken. Port {port} is used instead.", file=sys.stderr, flush=True)
            return _serve(home, address, reset=options.reset, port=port)
    except AlreadyRunning as running:
        print(f"A demo is already running: {running}")
        return 0 if not options.reset else 1
    except Stopped:
        print("\nStopped.")
        return 0


def _serve(home: Path, address: Path, *, reset: bool, port: int) -> int:
    cluster = Cluster(home / "postgres")
    if reset:
        cluster.remove()
    server = None

    def serve() -> Server:
        environment = environment_for(
            "web.settings.demo", cluster.url, kept_secret(home / "secret", when_lost=SIGNS_IN_AGAIN)
        )
        environment["STATIC_ROOT"] = str(home / "static")
        return Server(environment, port, home / "server.log", "--demo", "--collect-static")

    try:
        print("Starting the database, then the application.", file=sys.stderr, flush=True)
        server = started(cluster, serve)
        address.write_text(server.address)
        print(f"Astute Mole is at {server.address}   (Ctrl-C stops it; what you enter is kept)", flush=True)
        return server.wait(cluster)
    except RuntimeError as error:
        print(f"{error} Its log: {home / 'server.log'}", file=sys.stderr)
        return 1
    finally:
        if server is not None:
            server.stop()
        cluster.stop()
