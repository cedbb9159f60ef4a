"""./mole serve: the application for a real shop, with accounts, behind your own TLS proxy."""

import argparse
import os
import sys
from pathlib import Path

from launch.places import LOOPBACK, free_port, kept_secret, state_directory
from launch.postgres import Cluster
from launch.web import Server, ServerError, Stopped, environment_for, started, stop_on_signals

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
    port = free_port(options.port)

    def serve() -> Server:
        return Server(shop_environment(cluster, home), port, home / "server.log", "--collect-static")

    try:
        server = started(cluster, serve)
        hosts = shop_environment(cluster, home)["ALLOWED_HOSTS"]
        print(f"Serving at {server.address} for hosts {hosts} (process {os.getpid()})", flush=True)
        return server.wait()
    except ServerError as error:
        print(f"{error} Its log: {home / 'server.log'}", file=sys.stderr)
        return 1
    except Stopped:
        return 0
    finally:
        if server is not None:
            server.stop()
        cluster.stop()
