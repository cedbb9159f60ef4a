"""./mole test: everything that must hold before a change lands, in named steps."""

import contextlib
import json
import subprocess
import sys
import time
from collections.abc import Callable, Mapping
from pathlib import Path

from launch.places import HOME
from launch.postgres import throw_away_cluster
from launch.web import Stopped, environment_for, stop_on_signals

Step = tuple[str, list[str]]
PYTHON = sys.executable


def _tool(name: str, *arguments: str) -> list[str]:
    return [PYTHON, "-m", name, *arguments]


# Two at a time, each with its own database: as many as a small machine has cores. One browser keeps both busy.
BESIDE = ["--numprocesses", "2"]

LINT: list[Step] = [
    ("ruff, rules", _tool("ruff", "check", ".")),
    ("ruff, format", _tool("ruff", "format", "--check", ".")),
    ("templates, format", [str(Path(PYTHON).with_name("djangofmt")), "--check", "src/web"]),
    ("import rules", [PYTHON, "-c", "from importlinter.cli import lint_imports_command; lint_imports_command()"]),
    ("types", _tool("mypy")),
    # The installed packages fit together, without the network; advisories are checked where there is one
    # (docs/security.md).
    ("packages", _tool("pip", "check")),
]
CORE: list[Step] = [("core", _tool("pytest", *BESIDE, "tests/core", "tests/outside", "tests/house"))]
WEB: list[Step] = [
    ("migrations", _tool("django", "makemigrations", "--check", "--dry-run")),
    ("deployment", [PYTHON, "-m", "launch.deployment"]),
    ("web", _tool("pytest", *BESIDE, "tests/web")),
]
BROWSER: list[Step] = [("browser", _tool("pytest", *BESIDE, "tests/browser"))]

GROUPS: Mapping[str, list[Step]] = {
    "lint": LINT,
    "core": CORE,
    "web": WEB,
    "browser": BROWSER,
    "": LINT + CORE + WEB + BROWSER,
    # How many small faults planted in the core the tests notice: fifteen minutes, and not part of the others.
    "mutants": [("mutants", _tool("tests.mutants"))],
    # The same for what the web application writes, assembles and lets in: seven minutes.
    "web-mutants": [("web mutants", _tool("tests.mutants.web"))],
    # Every database state left by a commit, migrated to the present: half an hour, and needs the history (git).
    "upgrades": [("upgrades", _tool("tests.upgrades"))],
}
TIMES = Path(PYTHON).parents[1] / "test-times.json"
SAID_FROM_S = 60.0
NEED_DATABASE = ("", "web", "browser", "upgrades", "web-mutants")


def main(arguments: list[str]) -> int:
    """Run a group of steps, all of them by default; further words go to pytest."""
    group, more = (arguments[0], arguments[1:]) if arguments else ("", [])
    if group not in GROUPS:
        print(f"There is no group “{group}”. There are: {', '.join(filter(None, GROUPS))}.", file=sys.stderr)
        return 2
    stop_on_signals()
    run = _with_database if group in NEED_DATABASE else _without_database
    try:
        return run(lambda url: _steps(GROUPS[group], more, url))
    except Stopped:
        return 130


def _without_database(run: Callable[[str], int]) -> int:
    # Settings need an address; nothing in these steps opens it.
    return run("postgres://nobody@127.0.0.1:1/none")


def _with_database(run: Callable[[str], int]) -> int:
    cluster = throw_away_cluster()
    try:
        cluster.start()
        return run(cluster.url)
    finally:
        cluster.remove()


def _lasted() -> dict[str, float]:
    """Return how long each step took when it last passed completely on this machine [s]."""
    try:
        found: dict[str, float] = json.loads(TIMES.read_text())
    except (OSError, ValueError):
        return {}
    return found


def _keep(lasted: dict[str, float]) -> None:
    with contextlib.suppress(OSError):  # the checkout may be read-only
        TIMES.write_text(json.dumps(lasted))


def _steps(steps: list[Step], more: list[str], database_url: str) -> int:
    environment = environment_for("web.settings.test", database_url, "only-for-tests")
    failed = []
    lasted = _lasted()
    for at, (name, command) in enumerate(steps):
        ahead = sum(lasted.get(later, 0.0) for later, _ in steps[at:])
        left = (
            f"; about {ahead / 60:.0f} min to go, by the last whole runs" if ahead >= SAID_FROM_S and not more else ""
        )
        print(f"\n== {name} ({at + 1} of {len(steps)}{left})", flush=True)
        began = time.monotonic()
        extra = more if {"pytest", "tests.mutants", "tests.mutants.web", "tests.upgrades"} & {*command} else []
        code = subprocess.run([*command, *extra], env=environment, cwd=HOME).returncode
        print(f"== {name}: {'passed' if code == 0 else 'FAILED'} in {time.monotonic() - began:.1f} s", flush=True)
        if code:
            failed.append(name)
        elif not more:
            lasted[name] = round(time.monotonic() - began, 1)
            _keep(lasted)
    print(f"\n{'Failed: ' + ', '.join(failed) if failed else 'Everything passed.'}")
    return 1 if failed else 0
