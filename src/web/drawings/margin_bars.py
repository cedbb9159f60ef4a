"""Margins before and after a change, each on a line of its own with its minimum at zero."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from mockup.checks.check import Check
from mockup.limits.judge import State
from mockup.quantity.value import Unit
from mockup.report import FAILING, Report, worst
from mockup.words.report_text import margin_text

MOST_BARS = 4
HALF, ZERO = 68.0, 75.0
"""A bar is drawn 150 wide with zero in its middle; it reaches 68 either way."""
LEAST_REACH = {True: 0.25, False: 0.1}
"""A bar reaches at least so far either way: a length [mm], a ratio [1]."""


@dataclass(frozen=True, slots=True)
class MarginBar:
    """One check on its line: where its margin was and is, with U, and in words.

    ``was``, ``now``: positions on the line, None where not known; ``low``, ``high``: the ends of U about ``now``. What
    is beyond the line is drawn at its end.
    """

    label: str
    words: str
    margin: str
    state: State
    was: float | None
    now: float | None
    low: float
    high: float
    moved: bool


def barred(report: Report) -> list[Check]:
    """Return the checks whose margins are drawn: what is not clear first, then the tightest."""
    judged = [check for check in report.checks if check.margin is not None]
    failing = [check for check in judged if check.state in FAILING]
    found: list[Check] = []
    for group in (failing, judged):
        kinds = dict.fromkeys(check.kind for check in group)
        tightest = [worst([check for check in group if check.kind is kind]) for kind in kinds]
        found += [check for check in tightest if check.kind not in {one.kind for one in found}]
    return found[:MOST_BARS]


def margin_bars(checks: Sequence[Check], after: Report | None, unit: Unit) -> list[MarginBar]:
    """Return the bar of each check; ``after``: the report with the change, None without one."""
    then = {check.label: check for check in after.checks} if after else {}
    return [_bar(check, then.get(check.label, check) if after else check, unit) for check in checks]


def _bar(was: Check, now: Check, unit: Unit) -> MarginBar:
    reach = _reach(was)

    def at(margin: float | None) -> float | None:
        return None if margin is None else round(ZERO + HALF * min(max(margin / reach, -1.0), 1.0), 1)

    margin, expanded = now.margin, now.figure.expanded if now.figure else 0.0
    low, high = (at(None if margin is None else margin + way * expanded) or ZERO for way in (-1, 1))
    before, after = margin_text(was, unit), margin_text(now, unit)
    change = after if before == after else f"{before} becomes {after}"
    return MarginBar(
        label=now.label,
        words=f"{now.label}, margin {change}, {now.state}",
        margin=after,
        state=now.state,
        was=at(was.margin),
        now=at(margin),
        low=low,
        high=high,
        moved=before != after,
    )


def _reach(check: Check) -> float:
    """Return how far a check's line reaches either way [mm] or [1], by its present margin and U."""
    margin = abs(check.margin or 0.0)
    expanded = check.figure.expanded if check.figure else 0.0
    return max(1.6 * margin, 3 * expanded, LEAST_REACH[check.kind.is_length])


def shortest(report: Report, most: int = 3) -> tuple[list[Check], int]:
    """Return the checks that are not clear, worst first, and how many more there are."""
    failing = sorted(_not_clear(report), key=lambda check: (check.state is State.CLOSE, check.margin or 0.0))
    return failing[:most], max(len(failing) - most, 0)


def _not_clear(report: Report) -> Iterable[Check]:
    return (check for check in report.checks if check.state in FAILING and check.margin is not None)
