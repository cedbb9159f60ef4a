"""The report of a build as it was last evaluated: what is only looked at again and again is not computed again.

A report follows from the rows alone, so that it is kept by a text that changes as soon as any of them does.
"""

from collections import OrderedDict
from threading import Lock

from bench.builds.assemble import instruments_of_shop
from bench.builds.models import Build
from bench.page.bench import Bench
from bench.page.pulse import seen
from bench.shops.clock import zone_words
from mockup.report import Report

MOST_KEPT = 24

_kept: OrderedDict[tuple[object, ...], Report] = OrderedDict()
_lock = Lock()


def report_of(bench: Bench) -> Report:
    """The report of a build as it stands in its book."""
    # Its lines are dated by the clock of who looks.
    key = (bench.build.pk, seen(bench.build), zone_words(), *sorted(instruments_of_shop().items()))
    with _lock:
        found = _kept.get(key)
        if found is not None:
            _kept.move_to_end(key)
            return found
    made = bench.report
    with _lock:
        _kept[key] = made
        while len(_kept) > MOST_KEPT:
            _kept.popitem(last=False)
    return made


def live_bench(build: Build) -> Bench:
    """A build whose report is the kept one where nothing was written since."""
    bench = Bench(build)
    bench.__dict__["report"] = report_of(bench)
    return bench
