"""How many of how many checks are clear, and what is not known.

"Clear" is never said without the count.

The required checks count, and those that were read anyway.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from mockup.base.topics import Topic
from mockup.checks.check import Check
from mockup.limits.judge import State
from mockup.report import FAILING, Report, Verdict, counts

MOST_NAMED = 4


@dataclass(frozen=True, slots=True)
class Outlook:
    """Labels of the counted checks, grouped by state.

    ``unproved``: their readings prove nothing. ``lost``: they have a figure now and would have none. ``beside``: not
    clear, and not asked for. ``aside``: how many are neither required nor read.
    """

    clear: tuple[str, ...]
    signed: tuple[str, ...]
    failing: tuple[str, ...]
    unread: tuple[str, ...]
    without_limit: tuple[str, ...]
    unproved: tuple[str, ...]
    lost: tuple[str, ...]
    beside: tuple[str, ...]
    aside: int

    @property
    def total(self) -> int:
        """How many checks count."""
        named = (self.clear, self.signed, self.failing, self.unread, self.without_limit, self.unproved, self.lost)
        return sum(len(one) for one in named)

    @property
    def unknown(self) -> tuple[str, ...]:
        """What is not known, in words, one part each."""
        parts = (
            ("not read", self.unread),
            ("no minimum set for", self.without_limit),
            ("read without proof", self.unproved),
            ("without a figure then", self.lost),
            ("not asked for, and not clear", self.beside),
        )
        return tuple(f"{words}: {named(labels)}" for words, labels in parts if labels)


def outlook(report: Report, before: Report | None = None) -> Outlook:
    """Return the outlook of a report; for a what-if compared with the report ``before``."""
    had = {check.label for check in before.checks if check.figure} if before else set()
    names = ("clear", "signed", "failing", "unread", "without_limit", "unproved", "lost", "beside")
    found: dict[str, list[str]] = {name: [] for name in names}
    aside = 0
    for check in report.checks:
        if not check.required and check.figure is None and check.state not in FAILING and check.label not in had:
            aside += 1
        else:
            found[_of(check, had)].append(check.label)
    return Outlook(**{name: tuple(labels) for name, labels in found.items()}, aside=aside)


def _of(check: Check, had: Iterable[str]) -> str:
    if check.state is State.CLEAR:
        return "clear"
    if check.signed:
        return "signed"
    if check.state in FAILING:
        return "failing" if counts(check) else "beside"
    if check.state is State.NO_MINIMUM:
        return "without_limit"
    if check.figure:
        return "unproved"
    return "lost" if check.label in had else "unread"


def named(labels: Sequence[str]) -> str:
    """Return some labels in words: the first few, and how many more."""
    more = len(labels) - MOST_NAMED
    return ", ".join(labels[:MOST_NAMED]) + (f" and {more} more" if more > 0 else "")


def would_be(found: Outlook) -> str:
    """Return the outlook of a what-if in one or two sentences."""
    settled = len(found.clear) + len(found.signed)
    if not found.total:
        return "Nothing is required and nothing is read, so nothing can be said."
    said = f"{settled} of {found.total} checks would be clear"
    if found.failing:
        said = f"{len(found.failing)} of {found.total} checks would not be clear: {named(found.failing)}"
    elif not settled:
        said = f"None of {found.total} checks can be judged"
    return f"{said}. {_not_known(found)}".strip()


def _not_known(found: Outlook) -> str:
    return f"Not known: {'; '.join(found.unknown)}." if found.unknown else ""


def verdict_text(report: Report) -> str:
    """Return the verdict of the whole build with its count, and what is not known."""
    found = outlook(report)
    settled, aside = len(found.clear) + len(found.signed), ""
    left_out = [topic for topic in Topic if topic not in report.job.topics]
    unasked = f" Not asked for: {', '.join(left_out)}." if left_out else ""
    if found.aside:
        aside = f" {found.aside} more are neither required nor read."
    match report.verdict:
        case Verdict.CLEAR | Verdict.SIGNED:
            by_name = " or signed off by name" if report.verdict is Verdict.SIGNED else ""
            required = sum(check.required for check in report.checks)
            said = f"Every required check is clear{by_name}: {required} of {required}.{aside}{unasked}"
            return f"{said} {_not_known(found)}".strip()
        case Verdict.NOT_CLEAR:
            said = f"Not clear: {named(found.failing)}, of {found.total} checks; {settled} clear.{aside}{unasked}"
            return f"{said} {_not_known(found)}".strip()
    stale = [check.label for check in report.checks if check.read_again and (check.required or check.figure)]
    again = f" To be read again: {named(stale)}." if stale else ""
    return f"Unfinished: {settled} of {found.total} checks clear.{again} {_not_known(found)}{unasked}".strip()
