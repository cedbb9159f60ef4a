"""./mole test upgrades: every commit's database is migrated, and every page opened.

For each commit that touched a migration its own program makes a database and loads its demo; today's program brings
it up to date. Its schema must be that of a new database, and every page must answer. It wants the history (git) and
half an hour. ``--keep`` writes the states of edited migrations into tests/upgrades/kept, which the suite tries.
"""

import argparse
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from launch.places import HOME
from tests.upgrades.states import KEPT, database, django, faults_of, keep, refused_in_words, schema_of

FIRST_DAY = ("deed08b", "baf28cd")
"""Kept its readings in other tables: refused in words (web/shops/repair.py)."""
EDITED = ("baf28cd", "e122001", "e58c555", "f09c868", "57d7cd0")
"""The states whose migrations were edited afterwards."""


def main() -> int:
    """Try all of them, or those named. Returns 1 where one failed."""
    parser = argparse.ArgumentParser(prog="mole test upgrades", description=__doc__)
    parser.add_argument("commits", nargs="*", help="of these commits alone")
    parser.add_argument("--keep", action="store_true", help="keep the states of edited migrations")
    options = parser.parse_args()
    server = os.environ["DATABASE_URL"]
    new = database(server, "new")
    django(HOME, new, "migrate", "--verbosity", "0")
    failed = 0
    for commit, subject in _commits():
        if options.commits and commit not in options.commits:
            continue
        began = time.monotonic()
        earlier = database(server, f"of_{commit}")
        has_demo = _make(commit, earlier)
        if options.keep and commit in EDITED:
            keep(earlier, KEPT / f"{commit}.dump")
        new_schema = schema_of(new)
        faults = refused_in_words(earlier) if commit in FIRST_DAY else faults_of(earlier, new_schema, pages=has_demo)
        failed += bool(faults)
        said = "; ".join(faults) or ("as it should be" if has_demo else "its schema is; its program loads no demo")
        print(f"{commit} {time.monotonic() - began:5.1f} s  {said}  ({subject})", flush=True)
    print(f"{failed} states failed." if failed else "Every state was brought up to date.")
    return int(failed > 0)


def _commits() -> list[tuple[str, str]]:
    """Every commit that touched a migration, oldest first: short name and subject."""
    command = ["git", "log", "--reverse", "--abbrev=7", "--format=%h %s", "--"]
    # The package was called bench before it was called web.
    command += ["src/bench/*/migrations/*.py", "src/web/*/migrations/*.py"]
    done = subprocess.run(command, cwd=HOME, capture_output=True, text=True, check=True)
    pairs = (line.partition(" ") for line in done.stdout.splitlines())
    return [(commit, subject) for commit, _, subject in pairs]


def _make(commit: str, url: str) -> bool:
    """A database and its demo by a commit's own program; returns whether it has the demo.

    A few commits were half of a change: their migrations run, and nothing else does.
    """
    with tempfile.TemporaryDirectory(dir="/var/tmp") as place:
        packed = subprocess.run(["git", "archive", commit], cwd=HOME, capture_output=True, check=True)
        subprocess.run(["tar", "-x", "-C", place], input=packed.stdout, check=True)
        django(Path(place), url, "migrate", "--verbosity", "0", "--skip-checks")
        try:
            django(Path(place), url, "load_demo", "--skip-checks")
        except RuntimeError:
            return False
    return True


if __name__ == "__main__":
    sys.exit(main())
