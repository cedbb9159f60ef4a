"""One process of a run: its share of the faults, each planted in a fork of its own."""

import functools
import gc
import importlib.abc
import importlib.machinery
import json
import os
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
MOST_ASKED = 150
"""Tests asked of a fault that stands in no function: so many of the quickest that go through its module."""
TESTS = ["tests/core", "tests/outside"]
NOT_ASKED = ("tests/outside/test_proof.py",)
"""A proof of hundreds of engines takes too long to be asked of every fault."""
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
    """The core's tests, read in once, with which of them go through which function, and how long each takes."""

    def __init__(self) -> None:
        self.items: dict[str, pytest.Item] = {}
        self.through: dict[tuple[str, str], list[str]] = defaultdict(list)
        self.seconds: dict[str, float] = {}

    def pytest_runtestloop(self, session: pytest.Session) -> bool:
        """In place of running the tests: what the run is for."""
        self.items = {one.nodeid: one for one in session.items if not one.nodeid.startswith(NOT_ASKED)}
        self.work()
        return True

    def work(self) -> None:
        """What to do with the tests."""
        raise NotImplementedError

    def passes(self, item: pytest.Item) -> bool:
        """Whether one test passes."""
        return not any(report.failed for report in runtestprotocol(item, log=False, nextitem=None))

    def first_to_fail(self, names: list[str]) -> str:
        """The first of some tests that fails, quickest first, within the time there is; empty for none."""
        began = time.monotonic()
        for name in sorted(names, key=lambda name: self.seconds.get(name, 1.0)):
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
            self.seconds[name] = time.monotonic() - began
            if passed:
                for one in seen:
                    self.through[one].append(name)


class Planting(Learning):
    """Learns, then plants each fault that stands in a function in a fork, by giving the function other code."""

    def __init__(self, mutants: dict[int, Mutant]) -> None:
        super().__init__()
        self.mutants = mutants
        self.noticed: dict[int, str] = {}

    def work(self) -> None:
        """Learn, then plant."""
        super().work()
        for at, mutant in self.mutants.items():
            if mutant.function:
                names = self.through.get((str(mutant.path.resolve()), mutant.function), [])
                self.noticed[at] = in_a_fork(partial(self._with, mutant, names)) if names else ""

    def _with(self, mutant: Mutant, names: list[str]) -> str:
        other = code_of(compile(mutant.tree, str(mutant.path.resolve()), "exec"), mutant.function)
        if other is None:
            return ""
        of = (mutant.function, str(mutant.path.resolve()))
        for one in gc.get_objects():
            if isinstance(one, types.FunctionType) and (one.__code__.co_qualname, one.__code__.co_filename) == of:
                one.__code__ = other
        _forget_what_was_kept()
        return self.first_to_fail(names)


def _forget_what_was_kept() -> None:
    for one in gc.get_objects():
        if isinstance(one, functools._lru_cache_wrapper):
            one.cache_clear()


class Asking(Session):
    """The core read in with a fault in it: which of some tests notices."""

    def __init__(self, names: list[str], seconds: dict[str, float]) -> None:
        super().__init__()
        self.names, self.seconds, self.noticed = names, seconds, ""

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
    """What ``work`` gives in a process of its own; what it cannot get through, or hangs in, is noticed too."""
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


def _asked(mutant: Mutant, names: list[str], seconds: dict[str, float]) -> str:
    sys.meta_path.insert(0, _Faulty(mutant))
    quickest = sorted(names, key=lambda name: seconds.get(name, 1.0))[:MOST_ASKED]
    asking = Asking(quickest, seconds)
    pytest.main([*QUIET, *sorted({name.partition("::")[0] for name in quickest})], plugins=[asking])
    return asking.noticed if asking.items else "cannot be read in"


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
        planting = Planting(mine)
        pytest.main([*QUIET, *TESTS], plugins=[planting])
        by_module: dict[str, set[str]] = defaultdict(set)
        for (path, _), names in planting.through.items():
            by_module[path] |= set(names)
        told = {
            "noticed": planting.noticed,
            "seconds": planting.seconds,
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
        if not mutant.function:
            names = told["modules"].get(str(mutant.path.resolve()), [])
            noticed[at] = in_a_fork(partial(_asked, mutant, names, told["seconds"]))
    Path(kept).write_text(json.dumps(noticed))
    return 0


if __name__ == "__main__":
    sys.exit(main())
