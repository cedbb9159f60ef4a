"""./mole serve: the application for a real shop, with accounts, behind your own TLS proxy."""

import argparse
import os
from pathlib import Path

from launch.places import LOOPBACK, free_port, kept_secret, state_directory
from launch.postgres import Cluster
from launch.web import Server, Stopped, environment_for, manage, stop_on_signals

USUAL_PORT = 8780


def shop_environment(cluster: Cluster, home: Path) -> dict[str, str]:
    """The environment of the shop's application."""
    environment = environment_for("bench.settings.production", cluster.url, kept_secret(home / "secret"))
    return {"ALLOWED_HOSTS": LOOPBACK, **environment, "STATIC_ROOT": str(home / "static")}


def main(arguments: list[str]) -> int:
    """Serve until stopped."""
    parser = argparse.ArgumentParser(prog="mole serve", description="Serve a shop (see docs/serving.md).")
    parser.add_argument("--port", type=int, default=USUAL_PORT)
    options = parser.parse_args(arguments)
    stop_on_signals()
    home = state_directory() / "shop"
    cluster, server = Cluster(home / "postgres"), None
    try:
        cluster.start()
        environment = shop_environment(cluster, home)
        manage(environment, "migrate", "--verbosity", "0")
        manage(environment, "collectstatic", "--no-input", "--verbosity", "0")
        server = Server(environment, free_port(options.port), home / "server.log")
        print(
            f"Serving at {server.address} for hosts {environment['ALLOWED_HOSTS']} (process {os.getpid()})", flush=True
        )
        return server.wait()
    except Stopped:
        return 0
    finally:
        if server is not None:
            server.stop()
        cluster.stop()
