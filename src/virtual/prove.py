"""The proof: how often the truth is where the program says, over virtual engines."""

from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from mockup.limits.judge import State
from virtual.rows import ROWS, TrialRow
from virtual.trials import Outcome

SEED = 20261126
BATCH = 25


@dataclass(frozen=True, slots=True)
class Shown:
    """The result of a row: number of figures, errors and U in its unit, shares in percent."""

    row: TrialRow
    figures: int
    most: float
    mean: float
    median_u: float
    holds: float
    optimistic: float
    beyond_three: float
    false_clear: float
    false_short: float
    readings: float


def shown(row: TrialRow, outcomes: list[Outcome]) -> Shown:
    """Sum up a row; shares of false states are of all figures."""
    error = np.array([one.error for one in outcomes])
    expanded = np.array([one.expanded for one in outcomes])
    truth_short = np.array([one.truth_short for one in outcomes])
    clear = np.array([one.state is State.CLEAR for one in outcomes])
    short = np.array([one.state is State.SHORT for one in outcomes])
    return Shown(
        row=row,
        figures=len(outcomes),
        most=float(np.quantile(np.abs(error), 0.95)),
        mean=float(error.mean()),
        median_u=float(np.median(expanded)),
        holds=100 * float((np.abs(error) <= expanded).mean()),
        optimistic=100 * float((error > expanded).mean()),
        beyond_three=100 * float((np.abs(error) > 3 * expanded).mean()),
        false_clear=100 * float((clear & truth_short).mean()),
        false_short=100 * float((short & ~truth_short).mean()),
        readings=float(np.mean([one.readings for one in outcomes])),
    )


def chance(holds: float, engines: int) -> float:
    """Return the chance variation of the share that holds, a standard deviation [%]."""
    share = holds / 100
    return 100 * float(np.sqrt(share * (1 - share) / engines))


def run_batch(row: int, seeds: tuple[int, ...]) -> list[Outcome]:
    """Return the outcomes of a row for some engines, each from its own seed."""
    found: list[Outcome] = []
    for seed in seeds:
        found += ROWS[row].trial(np.random.default_rng([SEED, row, seed]))
    return found


def prove(engines: int, *, processes: int = 2, told: Callable[[Shown], None] = lambda _: None) -> list[Shown]:
    """Run every row for some engines, the same in each run; ``told`` hears each row."""
    results = []
    with ProcessPoolExecutor(processes) as pool:
        for at, row in enumerate(ROWS):
            batches = [tuple(range(first, min(first + BATCH, engines))) for first in range(0, engines, BATCH)]
            outcomes = [one for part in pool.map(run_batch, [at] * len(batches), batches) for one in part]
            results.append(shown(row, outcomes))
            told(results[-1])
    return results


HEADINGS = (
    "what is tried", "figures", "95 % of errors", "mean error", "median U", "U holds", "optimistic beyond U",
    "false clear", "false short", "readings",
)  # fmt: skip


def table_line(one: Shown) -> str:
    """Return a row as a line of a Markdown table."""
    unit = "" if one.row.unit == "thou" else f" × {one.row.unit}"
    cells = (
        one.row.words, f"{one.figures:,}", f"{one.most:.2f}{unit}", f"{one.mean:+.2f}", f"{one.median_u:.2f}",
        f"{one.holds:.1f} %", f"{one.optimistic:.1f} %", f"{one.false_clear:.1f} %", f"{one.false_short:.1f} %",
        f"{one.readings:.1f}" if one.readings else "—",
    )  # fmt: skip
    return f"| {' | '.join(cells)} |"
