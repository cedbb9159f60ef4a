"""./mole manage ARGS: one of Django's commands on the shop's database."""

import subprocess

from launch.places import state_directory
from launch.postgres import Cluster
from launch.serve import shop_environment
from launch.web import manage


def main(arguments: list[str]) -> int:
    """Run the command; the database runs for as long as it takes."""
    home = state_directory() / "shop"
    cluster = Cluster(home / "postgres")
    try:
        cluster.start()
        manage(shop_environment(cluster, home), *arguments)
    except subprocess.CalledProcessError as error:
        return int(error.returncode)
    finally:
        cluster.stop()
    return 0
