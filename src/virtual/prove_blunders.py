"""The proof with mistakes: every blunder with 1, 2, 3 and 5 readings, and its outcome."""

from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from virtual.blunder_rows import BLUNDERS
from virtual.blunders import Blunder, Noticed, try_blunder

SEED = 20261130
BATCH = 25
FALSELY_CLEAR, HONEST_ASKED = 2.0, 3.0
"""The aims: falsely clear at most, honest engines asked at most [%]; each row states how often it must be noticed."""
SELDOM = 10.0
"""Where a mistake matters in fewer engines than this, U covers it: one in twenty is beyond U anyway [%]."""


@dataclass(frozen=True, slots=True)
class BlunderShown:
    """A row with a number of readings: shares in percent; ``noticed`` where it matters."""

    blunder: Blunder
    count: int
    engines: int
    moved: float
    matters: float
    noticed: float
    falsely_clear: float
    honest_asked: float


def shown(blunder: Blunder, count: int, found: list[Noticed]) -> BlunderShown:
    """Sum up a row."""
    mattered = [one for one in found if one.matters]

    def share(of: list[Noticed], what: str) -> float:
        return 100 * float(np.mean([getattr(one, what) for one in of])) if of else 100.0

    return BlunderShown(
        blunder=blunder,
        count=count,
        engines=len(found),
        moved=share(found, "moved"),
        matters=share(found, "matters"),
        noticed=share(mattered, "noticed"),
        falsely_clear=share(found, "falsely_clear"),
        honest_asked=share(found, "honest_asked"),
    )


def run_batch(row: int, count: int, seeds: tuple[int, ...]) -> list[Noticed]:
    """Return the outcomes of one blunder, each engine from its own seed."""
    found: list[Noticed] = []
    for seed in seeds:
        found += try_blunder(BLUNDERS[row], np.random.default_rng([SEED, row, count, seed]), count)
    return found


def prove_blunders(
    engines: int, *, processes: int = 2, told: Callable[[BlunderShown], None] = lambda _: None
) -> list[BlunderShown]:
    """Run every row for some engines, the same in each run; ``told`` hears each row."""
    results = []
    with ProcessPoolExecutor(processes) as pool:
        for row, blunder in enumerate(BLUNDERS):
            for count in blunder.counts:
                batches = [tuple(range(first, min(first + BATCH, engines))) for first in range(0, engines, BATCH)]
                parts = pool.map(run_batch, [row] * len(batches), [count] * len(batches), batches)
                results.append(shown(blunder, count, [one for part in parts for one in part]))
                told(results[-1])
    return results


HEADINGS = ("mistake", "readings", "moves the verdict", "matters", "noticed", "falsely clear", "honest ones asked")


def table_line(one: BlunderShown) -> str:
    """Return a row as a line of a Markdown table."""
    words = one.blunder.words if one.blunder.seen else f"{one.blunder.words} *"
    cells = (
        words, f"{one.count}", f"{one.moved:.0f} %", f"{one.matters:.0f} %",
        f"{one.noticed:.0f} %" if one.matters else "—", f"{one.falsely_clear:.1f} %", f"{one.honest_asked:.1f} %",
    )  # fmt: skip
    return f"| {' | '.join(cells)} |"


def missed(one: BlunderShown) -> list[str]:
    """Return a row's missed aims, chance allowed for; none if no reading can show it."""
    if not one.blunder.seen:
        return []
    allowed = 200 * float(np.sqrt(0.02 * 0.98 / one.engines))
    found = []
    if one.falsely_clear > FALSELY_CLEAR + allowed:
        found.append(f"falsely clear {one.falsely_clear:.1f} %")
    mattered = one.engines * one.matters / 100
    chance = 200 * float(np.sqrt(one.blunder.noticed / 100 * (1 - one.blunder.noticed / 100) / max(mattered, 1)))
    if one.matters >= SELDOM and one.noticed < one.blunder.noticed - chance:
        found.append(f"noticed {one.noticed:.0f} %")
    if one.honest_asked > HONEST_ASKED + allowed:
        found.append(f"honest engines asked {one.honest_asked:.1f} %")
    return [f"{one.blunder.words}, {one.count}: {words}" for words in found]
