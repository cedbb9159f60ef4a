"""./mole serve: the application for a real shop, with accounts, behind its own TLS proxy."""

import argparse
import os
import sys
from pathlib import Path

from launch.database import HeldError, alone, elsewhere, left_behind, says, shop_home
from launch.places import LOOPBACK, SIGNS_IN_AGAIN, kept_secret, port_or_refuse
from launch.postgres import Cluster
from launch.web import Server, Stopped, environment_for, started, stop_on_signals

USUAL_PORT = 8780
LETS_GO_IN_S = 30.0


def shop_environment(database_url: str) -> dict[str, str]:
    """Return the environment of the shop's application. Raises RuntimeError for an empty secret."""
    home = shop_home()
    environment = environment_for("web.settings.production", database_url, _secret(home))
    return {"ALLOWED_HOSTS": LOOPBACK, **environment, "STATIC_ROOT": str(home / "static")}


def _secret(home: Path) -> str:
    """Return the key that signs sessions: from the environment, else from this place.

    Several hosts may share the one of the environment.
    """
    if "SECRET_KEY" not in os.environ:
        return kept_secret(home / "secret", when_lost=SIGNS_IN_AGAIN)
    if not (given := os.environ["SECRET_KEY"].strip()):
        raise RuntimeError(
            "SECRET_KEY is in the environment, and empty. Give it 50 random letters or more, or take it out."
        )
    return given


def main(arguments: list[str]) -> int:
    """Serve until stopped."""
    parser = argparse.ArgumentParser(prog="mole serve", description="Serve a shop (see docs/serving.md).")
    parser.add_argument("--port", type=int, default=USUAL_PORT)
    options = parser.parse_args(arguments)
    stop_on_signals()
    home = shop_home()
    # A killed server takes a moment to release its port.
    patience_s = LETS_GO_IN_S if left_behind(home) else 0.0
    try:
        with alone(home, "./mole serve") as lock:
            port = port_or_refuse(options.port, patience_s=patience_s)
            says(lock, f"./mole serve runs here already: process {os.getpid()}, at http://{LOOPBACK}:{port}/")
            return _serve(port)
    except HeldError as held:
        print(f"{held}. One place is served once; MOLE_STATE names another place.", file=sys.stderr)
        return 1
    except (RuntimeError, OSError) as error:
        # A taken port, a full disk, a cluster of another version: reported in a sentence. Starting again works.
        print(f"{error} The server's log: {home / 'server.log'}", file=sys.stderr)
        return 1
    except Stopped:
        return 0


def _serve(port: int) -> int:
    home = shop_home()
    cluster = None if elsewhere() else Cluster(home / "postgres")
    server = None

    def serve() -> Server:
        environment = shop_environment(cluster.url if cluster else elsewhere())
        preparing = ("--collect-static", "--backups", str(home / "backups"))
        return Server(environment, port, home / "server.log", *preparing)

    try:
        server = started(cluster, serve)
        hosts = os.environ.get("ALLOWED_HOSTS", LOOPBACK)
        print(f"Serving at {server.address} for hosts {hosts} (process {os.getpid()})", flush=True)
        return server.wait(cluster)
    finally:
        if server is not None:
            server.stop()
        if cluster is not None:
            cluster.stop()
