"""./mole manage ARGS: one of Django's commands on the shop's database, served or not."""

import subprocess
import sys

from launch.database import shop_database
from launch.serve import shop_environment
from launch.web import manage


def main(arguments: list[str]) -> int:
    """Run the command; a database that is not being served runs for as long as it takes."""
    try:
        with shop_database() as url:
            manage(shop_environment(url), *arguments)
    except subprocess.CalledProcessError as error:
        return int(error.returncode)
    except RuntimeError as error:
        print(error, file=sys.stderr)
        return 1
    return 0
