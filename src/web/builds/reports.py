"""The report of a build from its rows: evaluated once, and cached until one of them changes.

A report depends on the rows alone, so it is cached under a text that changes with any of them. Writing evaluates at its
end, for the summary; the page that answers finds the report here.
"""

from collections import OrderedDict
from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import datetime
from threading import Lock

from mockup.evaluate import evaluate
from mockup.job import Job
from mockup.readings.instruments import Instrument
from mockup.report import Report
from web.builds.models import Build, Entry, MockUp
from web.builds.versions import as_it_is, mockup_as_it_is
from web.shops.clock import zone_words

MOST_KEPT = 24

_kept: OrderedDict[tuple[object, ...], Report] = OrderedDict()
_lock = Lock()


def seen_in(build: Build, log: Sequence[Entry], mockups: Sequence[MockUp]) -> str:
    """Return a short text that changes with anything in a build, from its loaded rows."""
    last = max((row.pk for row in log), default=None)
    at = max((row.at for row in log), default=None)
    struck = max((row.struck_at for row in log if row.struck_at), default=None)
    return _mark(build, last, (at, struck), mockups[-1] if mockups else None)


def _mark(build: Build, last: int | None, moments: Iterable[datetime | None], latest: MockUp | None) -> str:
    # Times and not counts: what was rolled back and what was done instead have different times.
    when = "-".join(f"{at.timestamp():.6f}" if at else "0" for at in moments)
    return f"{last or 0}-{when}-{mockup_as_it_is(latest)}-{as_it_is(build)}"


def report_of(build: Build, mark: str, instruments: Mapping[str, Instrument], job: Callable[[], Job]) -> Report:
    """Return the report of a build in version ``mark``; ``job`` is called if not cached.

    Raises UnreadableError.
    """
    # Its entries are dated by the reader's clock.
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
