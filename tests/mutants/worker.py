"""One process of a run: its share of the faults, each planted in a fork of its own."""

import functools
import gc
import importlib.abc
import importlib.machinery
import json
import os
import pkgutil
import select
import sys
import time
import types
from collections import defaultdict
from collections.abc import Callable
from functools import partial
from pathlib import Path

import pytest
from _pytest.runner import runtestprotocol

from tests.mutants.plant import CORE, Mutant, sample

LONGEST_S = 12.0
"""Seconds of tests a fault is held against; one that takes longer to be noticed is not."""
HANGS_S = 60.0
MOST_ASKED = 300
"""Tests asked of a fault that acts as the core is read in: so many of those that tell most."""
TESTS = ["tests/core", "tests/outside", "tests/house/test_kinds.py"]
NOT_ASKED = ("tests/outside/test_proof.py",)
"""A proof of hundreds of engines takes too long to be asked of every fault."""
OF_DECLARATIONS = (
    "tests/core/test_kept.py",
    "tests/core/test_ranges.py",
    "tests/core/test_job_file.py::test_the_schema",
    "tests/house/test_kinds.py",
)
QUIET = [
    "-o",
    "addopts=",
    "-p",
    "no:cacheprovider",
    "-p",
    "no:xdist",
    "-p",
    "no:terminal",
    "--continue-on-collection-errors",
]


def code_of(module: types.CodeType, function: str) -> types.CodeType | None:
    """The code of a function in a module's, by its name there."""
    for one in module.co_consts:
        if isinstance(one, types.CodeType):
            if one.co_qualname == function:
                return one
            found = code_of(one, function)
            if found:
                return found
    return None


class Session:
    """The core's tests, with the functions that each goes through and what it costs.

    ``cost``: seconds for each function of the core that a test goes through. The ones that tell most for their time are
    asked first.
    """

    def __init__(self) -> None:
        self.items: dict[str, pytest.Item] = {}
        self.through: dict[tuple[str, str], list[str]] = defaultdict(list)
        self.cost: dict[str, float] = {}

    def pytest_runtestloop(self, session: pytest.Session) -> bool:
        """In place of running the tests: what the run is for."""
        self.items = {one.nodeid: one for one in session.items if not one.nodeid.startswith(NOT_ASKED)}
        self.work()
        return True

    def work(self) -> None:
        """What to do with the tests; of the session itself, nothing."""

    def passes(self, item: pytest.Item) -> bool:
        """Whether one test passes."""
        return not any(report.failed for report in runtestprotocol(item, log=False, nextitem=None))

    def first_to_fail(self, names: list[str]) -> str:
        """The first of some tests that fails, within the time there is; empty for none."""
        began = time.monotonic()
        for name in sorted(names, key=lambda name: self.cost.get(name, 1.0)):
            if name in self.items and not self.passes(self.items[name]):
                return name
            if time.monotonic() - began > LONGEST_S:
                break
        return ""


class Learning(Session):
    """Runs every test once, and notes which functions of the core it goes through."""

    def work(self) -> None:
        """Go through all of them."""
        core = str(CORE.resolve())
        for name, item in self.items.items():
            seen: set[tuple[str, str]] = set()

            def called(frame: types.FrameType, event: str, _arg: object, seen: set[tuple[str, str]] = seen) -> None:
                if event == "call" and frame.f_code.co_filename.startswith(core):
                    seen.add((frame.f_code.co_filename, frame.f_code.co_qualname))

            began = time.monotonic()
            sys.setprofile(called)
            try:
                passed = self.passes(item)
            finally:
                sys.setprofile(None)
            self.cost[name] = (time.monotonic() - began) / (1 + len(seen))
            if passed:
                for one in seen:
                    self.through[one].append(name)


class Planting(Learning):
    """Learn, then plant each fault in a fork, by giving its function other code.

    ``at_import``: functions that were called as the core was read in. What they made then, other code does not unmake.
    """

    def __init__(self, mutants: dict[int, Mutant], at_import: set[tuple[str, str]]) -> None:
        super().__init__()
        self.mutants, self.at_import = mutants, at_import
        self.noticed: dict[int, str] = {}

    def work(self) -> None:
        """Learn, then plant."""
        super().work()
        for at, mutant in self.mutants.items():
            where = (str(mutant.path.resolve()), mutant.function)
            if mutant.function and where not in self.at_import:
                names = self.through.get(where, [])
                self.noticed[at] = in_a_fork(partial(self._with, mutant, names)) if names else ""

    def _with(self, mutant: Mutant, names: list[str]) -> str:
        plant_in(mutant)
        return self.first_to_fail(names)


def plant_in(mutant: Mutant) -> None:
    """Give the function that a fault stands in its faulty code, everywhere in this process."""
    # A function within another is made anew, of the other's code, each time that one is called.
    function = mutant.function.partition(".<locals>")[0]
    other = code_of(compile(mutant.tree, str(mutant.path.resolve()), "exec"), function)
    if other is None:
        raise LookupError(f"No function {function} in {mutant.path}.")
    of = (function, str(mutant.path.resolve()))
    for one in gc.get_objects():
        if isinstance(one, types.FunctionType) and (one.__code__.co_qualname, one.__code__.co_filename) == of:
            one.__code__ = other
    _forget_what_was_kept()


def _forget_what_was_kept() -> None:
    for one in gc.get_objects():
        if isinstance(one, functools._lru_cache_wrapper):
            one.cache_clear()


class Asking(Session):
    """The core read in with a fault in it: which of some tests notices."""

    def __init__(self, names: list[str], cost: dict[str, float]) -> None:
        super().__init__()
        self.names, self.cost, self.noticed = names, cost, ""

    def work(self) -> None:
        """Ask them."""
        self.noticed = self.first_to_fail(self.names)


class _Faulty(importlib.abc.MetaPathFinder, importlib.abc.Loader):
    """Reads one module of the core in with a fault in it."""

    def __init__(self, mutant: Mutant) -> None:
        self.mutant = mutant
        self.name = ".".join(mutant.path.relative_to(CORE.parent).with_suffix("").parts).removesuffix(".__init__")

    def find_spec(self, name: str, *_: object) -> importlib.machinery.ModuleSpec | None:
        if name != self.name:
            return None
        is_package = self.mutant.path.name == "__init__.py"
        spec = importlib.machinery.ModuleSpec(name, self, origin=str(self.mutant.path.resolve()), is_package=is_package)
        if is_package:
            spec.submodule_search_locations = [str(self.mutant.path.resolve().parent)]
        return spec

    def exec_module(self, module: types.ModuleType) -> None:
        module.__file__ = str(self.mutant.path.resolve())
        exec(compile(self.mutant.tree, module.__file__, "exec"), module.__dict__)  # noqa: S102, that is what it is for


def in_a_fork(work: Callable[[], str]) -> str:
    """What ``work`` returns in a process of its own; a crash or a hang is noticed too."""
    read, write = os.pipe()
    child = os.fork()
    if not child:
        os.close(read)
        quiet = os.open(os.devnull, os.O_WRONLY)
        os.dup2(quiet, 1)
        os.dup2(quiet, 2)
        try:
            said = work() or "-"
        except BaseException as error:  # noqa: BLE001, whatever the fault brings about
            said = f"raises {type(error).__name__}"
        os.write(write, said.encode()[:500])
        os._exit(0)
    os.close(write)
    ready, _, _ = select.select([read], [], [], HANGS_S)
    said = os.read(read, 1000).decode() if ready else "hangs"
    if not ready:
        os.kill(child, 9)
    os.close(read)
    os.waitpid(child, 0)
    return "" if said == "-" else said or "dies"


def _asked(mutant: Mutant, names: list[str], cost: dict[str, float]) -> str:
    sys.meta_path.insert(0, _Faulty(mutant))
    first = list(dict.fromkeys(names[:MOST_ASKED]))
    asking = Asking(first, cost)
    pytest.main([*QUIET, *sorted({name.partition("::")[0] for name in first})], plugins=[asking])
    return asking.noticed if asking.items else "cannot be read in"


def _planting(mutants: dict[int, Mutant]) -> Planting:
    """Everything planted that acts in a function, and what acts while the core is imported."""
    core, at_import = str(CORE.resolve()), set()

    def called(frame: types.FrameType, event: str, _arg: object) -> None:
        if event == "call" and frame.f_code.co_filename.startswith(core):
            at_import.add((frame.f_code.co_filename, frame.f_code.co_qualname))

    sys.setprofile(called)
    for module in pkgutil.walk_packages([core], "mockup."):
        importlib.import_module(module.name)
    sys.setprofile(None)
    planting = Planting(mutants, at_import)
    pytest.main([*QUIET, *TESTS], plugins=[planting])
    return planting


def main() -> int:
    """One share of the run."""
    each, seed, folder, share, of, kept = sys.argv[1:]
    mutants = dict(enumerate(m for m in sample(int(each), int(seed)) if folder in ("", m.folder)))
    mine = {at: one for at, one in mutants.items() if at % int(of) == int(share)}
    # What takes long to read in and is not the core is read in once, for all the forks.
    for name in (
        "numpy",
        "scipy.optimize",
        "scipy.special",
        "scipy.interpolate",
        "scipy.stats",
    ):
        importlib.import_module(name)
    read, write = os.pipe()
    child = os.fork()
    if not child:
        # The core is read in here, and never in the parent, from which faulty ones are read in afresh.
        os.close(read)
        planting = _planting(mine)
        by_module: dict[str, set[str]] = defaultdict(set)
        for (path, _), names in planting.through.items():
            by_module[path] |= set(names)
        told = {
            "noticed": planting.noticed,
            "cost": planting.cost,
            "modules": {p: sorted(n) for p, n in by_module.items()},
        }
        with os.fdopen(write, "w") as pipe:
            json.dump(told, pipe)
        os._exit(0)
    os.close(write)
    with os.fdopen(read) as pipe:
        told = json.load(pipe)
    os.waitpid(child, 0)
    noticed = {int(at): by for at, by in told["noticed"].items()}
    for at, mutant in mine.items():
        if at not in noticed:
            # What is only declared is gone through by no test: those that read declarations are asked as well.
            first = [name for name in told["cost"] if name.startswith(OF_DECLARATIONS)]
            through = sorted(told["modules"].get(str(mutant.path.resolve()), []), key=lambda name: told["cost"][name])
            names = [*first, *through]
            noticed[at] = in_a_fork(partial(_asked, mutant, names, told["cost"]))
    Path(kept).write_text(json.dumps(noticed))
    return 0


if __name__ == "__main__":
    sys.exit(main())
