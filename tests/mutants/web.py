"""Plant faults where the web application writes, assembles and admits people.

First the web tests are run once, in shares, on a program whose functions note that they were entered. Then each fault
is planted in a fork, by giving the function other code, and held against the tests that enter it, cheapest first, until
one fails. Each share has a database of its own.
"""

import argparse
import ast
import functools
import importlib.abc
import importlib.machinery
import json
import os
import random
import subprocess
import sys
import tempfile
import time
import types
from collections import Counter, defaultdict
from pathlib import Path
from urllib.parse import urlsplit

import pytest
from _pytest.runner import runtestprotocol

from tests.mutants.plant import Mutant, faults_in, planted
from tests.mutants.worker import in_a_fork, plant_in

SEED, COUNT = 20261130, 120
WEB = Path("src/web")
PLACES = {
    "services": ("builds/services.py", "builds/append_entries.py"),
    "assemble": ("builds/assemble.py", "builds/entry_kinds.py"),
    "entry": ("entry/views.py", "entry/sent_entries.py", "entry/without_script.py", "entry/grouped_fields.py"),
    "access": ("shops/access.py", "shops/scope.py", "shops/passes.py", "shops/program_keys.py", "accounts/services.py"),
}
QUIET = ["-o", "addopts=", "-p", "no:cacheprovider", "-p", "no:xdist", "-qq"]
NOT_ASKED = (
    "test_adding_a_kind", "test_upgrades", "test_restore_whole", "test_start", "test_storm", "test_sheet_is_set",
    "test_drawings_ink",
)  # fmt: skip
"""Test modules that start servers or copy the program: too long to be asked of every fault."""
CONTROLS = 29
"""One in so many tests is run in a fork without a fault, as a control."""
LONGEST_S = 25.0
"""Seconds of tests a fault is held against."""
SEEN: set[tuple[str, str]] = set()
"""The functions that the present test entered: file, and name as code objects have it."""


def place_of(path: Path) -> str:
    """The name of the place a file belongs to."""
    return next(name for name, files in PLACES.items() if str(path.relative_to(WEB)) in files)


def sample(count: int, seed: int) -> list[Mutant]:
    """So many faults in functions, the same number for each place, by a seed."""
    rng = random.Random(seed)  # noqa: S311, a sample and no secret
    found = []
    for files in PLACES.values():
        every = [fault for name in files for fault in faults_in(WEB / name)]
        rng.shuffle(every)
        # A fault that acts as a module is read in would need a program of its own.
        inside = (mutant for fault in every if (mutant := planted(*fault)).function)
        found += [mutant for mutant, _ in zip(inside, range(count // len(PLACES)), strict=False)]
    return found


class Noting(importlib.abc.MetaPathFinder, importlib.abc.Loader):
    """Reads the modules of the places in with a note at the beginning of each function."""

    def __init__(self) -> None:
        paths = [WEB / name for files in PLACES.values() for name in files]
        self.paths = {".".join(("web", *path.relative_to(WEB).with_suffix("").parts)): path.resolve() for path in paths}

    def find_spec(self, name: str, *_: object) -> importlib.machinery.ModuleSpec | None:
        if name not in self.paths:
            return None
        return importlib.machinery.ModuleSpec(name, self, origin=str(self.paths[name]))

    def exec_module(self, module: types.ModuleType) -> None:
        path = self.paths[module.__name__]
        module.__file__ = str(path)
        tree = ast.parse(path.read_text())
        note(tree, str(path))
        exec(compile(tree, str(path), "exec"), module.__dict__)  # noqa: S102, that is what it is for


def note(node: ast.AST, path: str, where: str = "") -> None:
    """Put a note at the beginning of each function; those within another count as that one."""
    for child in ast.iter_child_nodes(node):
        if isinstance(child, ast.FunctionDef):
            name = f"{where}{child.name}"
            line = f"__import__('tests.mutants.web', fromlist=['SEEN']).SEEN.add(({path!r}, {name!r}))"
            at = 1 if ast.get_docstring(child) else 0
            child.body.insert(at, ast.parse(line).body[0])
            ast.fix_missing_locations(child)
        elif isinstance(child, ast.ClassDef):
            note(child, path, f"{where}{child.name}.")


class Run:
    """The web's tests, read in once, in place of running them all."""

    def __init__(self, work: "functools.partial[None]") -> None:
        self.work = work

    def pytest_runtestloop(self, session: pytest.Session) -> bool:
        """Do the work of this share."""
        self.work([item for item in session.items if item.path.stem not in NOT_ASKED])
        return True


def passes(item: pytest.Item, items: list[pytest.Item]) -> bool:
    """Whether one test passes; what the session made, such as its database, stays."""
    following = next(one for one in items if one.path != item.path)
    return not any(report.failed for report in runtestprotocol(item, log=False, nextitem=following))


def learn(share: int, of: int, out: str, items: list[pytest.Item]) -> None:
    """Run every ``of``-th test, and keep which functions it entered and how long it took."""
    learnt = {}
    for item in items[share::of]:
        SEEN.clear()
        began = time.monotonic()
        if passes(item, items) and SEEN:
            learnt[item.nodeid] = [time.monotonic() - began, sorted(SEEN)]
    Path(out).write_text(json.dumps(learnt))


def hold(share: int, of: int, out: str, mutants: list[Mutant], learnt: str, items: list[pytest.Item]) -> None:
    """Plant every ``of``-th fault, and keep which test noticed it."""
    from django.db import connections

    cost, through = {}, defaultdict(list)
    for name, (seconds, seen) in json.loads(Path(learnt).read_text()).items():
        cost[name] = seconds
        for path, function in seen:
            through[path, function].append(name)
    by_name = {item.nodeid: item for item in items}
    passes(items[0], items)  # makes the database, which the forks share one after another
    noticed = {}
    # The control: the same tests in a fork without any fault must pass, or nothing below means anything.
    some = [by_name[name] for name in sorted(cost, key=cost.__getitem__)[share::CONTROLS] if name in by_name]
    connections.close_all()
    wrongly = in_a_fork(functools.partial(_held, None, some, items))
    if wrongly:
        print(f"Without a fault, this fails in a fork: {wrongly}", file=sys.stderr)
        return
    for at in range(share, len(mutants), of):
        mutant = mutants[at]
        names = through[str(mutant.path.resolve()), mutant.function.partition(".<locals>")[0]]
        ordered = [by_name[name] for name in sorted(names, key=cost.__getitem__) if name in by_name]
        connections.close_all()
        work = functools.partial(_held, mutant, ordered, items)
        noticed[at] = in_a_fork(work) if ordered else ""
    Path(out).write_text(json.dumps(noticed))


def _held(mutant: Mutant | None, ordered: list[pytest.Item], items: list[pytest.Item]) -> str:
    if mutant:
        plant_in(mutant)
    began = time.monotonic()
    for item in ordered:
        if not passes(item, items):
            return item.nodeid
        if time.monotonic() - began > LONGEST_S:
            break
    return ""


def one_share(step: str, share: int, of: int, out: str, count: int, seed: int, learnt: str) -> None:
    """One process of the run."""
    if step == "learn":
        sys.meta_path.insert(0, Noting())
        work = functools.partial(learn, share, of, out)
    else:
        work = functools.partial(hold, share, of, out, sample(count, seed), learnt)
    pytest.main([*QUIET, "tests/web"], plugins=[Run(work)])


def shares(step: str, kept: str, count: int, seed: int, learnt: str = "") -> list[dict[str, object]]:
    """Run one step in as many processes as processors, each with its own database."""
    of = os.cpu_count() or 1
    url = urlsplit(os.environ["DATABASE_URL"])
    running = []
    for share in range(of):
        out = f"{kept}/{step}-{share}.json"
        own = url._replace(path=f"{url.path}_{share}").geturl()
        call = f"one_share({step!r}, {share}, {of}, {out!r}, {count}, {seed}, {learnt!r})"
        command = [sys.executable, "-c", f"from tests.mutants.web import one_share; {call}"]
        running.append(
            (out, subprocess.Popen(command, env=os.environ | {"DATABASE_URL": own}, stdout=subprocess.DEVNULL))
        )
    for _, process in running:
        process.wait()
    if not all(Path(out).exists() for out, _ in running):
        raise SystemExit("A share of the run failed; see above.")
    return [json.loads(Path(out).read_text()) for out, _ in running]


def main() -> int:
    """Learn, plant, count, and print what went unnoticed."""
    parser = argparse.ArgumentParser(prog="mole test web-mutants", description=__doc__)
    parser.add_argument("count", nargs="?", type=int, default=COUNT)
    parser.add_argument("--seed", type=int, default=SEED)
    options = parser.parse_args()
    began = time.monotonic()
    with tempfile.TemporaryDirectory() as kept:
        learnt = {
            name: one for found in shares("learn", kept, options.count, options.seed) for name, one in found.items()
        }
        Path(kept, "learnt.json").write_text(json.dumps(learnt))
        found = shares("hold", kept, options.count, options.seed, f"{kept}/learnt.json")
    noticed = {int(at): by for one in found for at, by in one.items()}
    mutants = sample(options.count, options.seed)
    total, seen = Counter(map(place_of, (one.path for one in mutants))), Counter()
    for at, mutant in enumerate(mutants):
        if noticed[at]:
            seen[place_of(mutant.path)] += 1
        else:
            print(f"unnoticed  {mutant}")
    for name, count in [*total.items(), ("all", sum(total.values()))]:
        mine = seen[name] if name != "all" else sum(seen.values())
        print(f"{name:<10} {mine:>3} of {count:>3} noticed  {100 * mine / count:5.1f} %")
    print(f"in {time.monotonic() - began:.0f} s")
    return 0


if __name__ == "__main__":
    sys.exit(main())
