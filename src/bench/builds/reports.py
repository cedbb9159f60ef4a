"""The report of a build as it stands in its rows: evaluated once, kept while nothing of them changes.

A report follows from the rows alone, so that it is kept by a text that changes as soon as any of them does. What is
written is evaluated at the end of the writing, for the build's summary; the page that answers finds it here.
"""

from collections import OrderedDict
from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import datetime
from threading import Lock

from bench.builds.marks import as_it_is, mockup_as_it_is
from bench.builds.models import Build, Entry, MockUp
from bench.shops.clock import zone_words
from mockup.evaluate import evaluate
from mockup.instruments import Instrument
from mockup.job import Job
from mockup.report import Report

MOST_KEPT = 24

_kept: OrderedDict[tuple[object, ...], Report] = OrderedDict()
_lock = Lock()


def seen_in(build: Build, book: Sequence[Entry], mockups: Sequence[MockUp]) -> str:
    """Return a short text that differs as soon as anything of a build does, from its loaded rows."""
    last = max((row.pk for row in book), default=None)
    at = max((row.at for row in book), default=None)
    struck = max((row.struck_at for row in book if row.struck_at), default=None)
    return _mark(build, last, (at, struck), mockups[-1] if mockups else None)


def _mark(build: Build, last: int | None, moments: Iterable[datetime | None], latest: MockUp | None) -> str:
    # Moments and not counts: what was rolled back and what was done instead of it happened at different ones.
    when = "-".join(f"{at.timestamp():.6f}" if at else "0" for at in moments)
    return f"{last or 0}-{when}-{mockup_as_it_is(latest)}-{as_it_is(build)}"


def report_of(build: Build, mark: str, instruments: Mapping[str, Instrument], job: Callable[[], Job]) -> Report:
    """Return the report on a build that is as ``mark`` says (``seen_in``); ``job`` is asked where none is kept.

    Raises UnreadableError.
    """
    # Its lines are dated by the clock of who looks.
    key = (build.pk, mark, zone_words(), *sorted(instruments.items()))
    with _lock:
        found = _kept.get(key)
        if found is not None:
            _kept.move_to_end(key)
            return found
    made = evaluate(job())
    with _lock:
        _kept[key] = made
        while len(_kept) > MOST_KEPT:
            _kept.popitem(last=False)
    return made


def forget() -> None:
    """Keep none of the reports: the next one asked for is evaluated."""
    with _lock:
        _kept.clear()
