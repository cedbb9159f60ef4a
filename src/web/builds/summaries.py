"""The summary of a build, computed at the end of every write in its transaction.

The list of builds therefore reads one row for each build, however long the logs. A summary made by other
arithmetic is recomputed by ``manage summarise`` after an update, and when it is shown.
"""

import logging
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from types import MappingProxyType
from typing import Any

from django.db import transaction
from django.db.models import Q, QuerySet
from django_scopes import scopes_disabled

from mockup.limits.judge import State
from mockup.memory.shop_memory import facts_of, part_squares
from mockup.report import WORST_FIRST, Report
from mockup.words.report_text import engine_line, figure_text, limit_text, margin_text
from web.builds.assemble import instruments_of_shop, job_of
from web.builds.models import Build, Summary
from web.builds.models.build import UnreadableError
from web.builds.models.summary import UNREADABLE
from web.builds.reports import report_of, seen_in
from web.builds.rows import Rows, forget_rows
from web.drawings.engine_map import engine_map

logger = logging.getLogger(__name__)

_being_written: ContextVar[Mapping[int, Build]] = ContextVar("_being_written", default=MappingProxyType({}))
_put_off: ContextVar[set[int] | None] = ContextVar("_put_off", default=None)
BETWEEN_STATES = 100_000.0
"""Larger than any margin [mm], so that the state comes first."""


VERSION = "d9a300e8792e092a"
"""The digest of what summaries say of the reference jobs; a summary with another one is outdated.

``tests/web/test_summary_version.py`` compares it, so that a change of the arithmetic changes it, and a corrected
comment re-evaluates nothing.
"""


def being_written(build_id: int) -> Build | None:
    """Return the build whose row is locked here for writing, or None."""
    return _being_written.get().get(build_id)


@contextmanager
def settled(build: Build) -> Iterator[None]:
    """Summarise a build once, at the end of the outermost block that writes it."""
    open_now = _being_written.get()
    if build.pk in open_now:
        yield
        return
    token = _being_written.set({**open_now, build.pk: build})
    try:
        yield
    finally:
        _being_written.reset(token)
    forget_rows(build.pk)
    settle(build)


def settle(build: Build) -> None:
    """Make a build's summary after a write, or with the postponed ones."""
    waiting = _put_off.get()
    if waiting is None:
        _summarise(build)
    else:
        waiting.add(build.pk)


@contextmanager
def put_off() -> Iterator[None]:
    """Postpone summaries: each build written inside is summarised once, at the end."""
    found: set[int] = set()
    token = _put_off.set(found)
    try:
        yield
    finally:
        _put_off.reset(token)
    for build_id in sorted(found):
        summarise(build_id)


def summarise(build_id: int) -> Summary:
    """Recompute a build's summary."""
    return _summarise(Build.objects.get(pk=build_id))


def _summarise(build: Build) -> Summary:
    found = Summary(build=build, **_of(build, Rows(build)))
    found.save()
    return found


def of_another_arithmetic() -> QuerySet[Build]:
    """Return the builds whose summary is outdated or missing."""
    found: QuerySet[Build] = Build.objects.filter(~Q(summary__version=VERSION) | Q(summary=None))
    return found


def any_old() -> bool:
    """Return whether any summary is outdated."""
    return of_another_arithmetic().exists()


def still_old() -> int:
    """Return how many builds of the shop are not re-evaluated yet [1]; asked with every list."""
    with scopes_disabled():
        # Two index ranges; a "not equal" would read the whole index.
        found = any(Summary.objects.filter(**{which: VERSION}).exists() for which in ("version__lt", "version__gt"))
    return of_another_arithmetic().count() if found else 0


def summarise_old(builds: Iterable[Build]) -> int:
    """Recompute the outdated or missing summaries of some builds; returns how many [1]."""
    kept = dict(Summary.objects.filter(build__in=[build.pk for build in builds]).values_list("pk", "version"))
    old = [build.pk for build in builds if kept.get(build.pk) != VERSION]
    for build_id in old:
        with transaction.atomic():
            # Wait for writers: a summary must never be older than its log.
            Build.objects.select_for_update().get(pk=build_id)
            summarise(build_id)
    return len(old)


def _of(build: Build, rows: Rows) -> dict[str, Any]:
    log, mockups = rows.log, rows.mockups
    touched_at, touched_by = rows.touched()
    people = {row.by_id for row in log} | {row.struck_by_id for row in log} | {row.by_id for row in mockups}
    kept = {
        "version": VERSION,
        "people": sorted(by for by in people if by),
        "touched_at": touched_at,
        "touched_by_id": touched_by,
    }
    names = {row.by.shown_name for row in log}
    parts = {str(row.data["name"]) for row in log if row.kind in ("gasket", "change") and row.data.get("name")}
    parts |= {str(row.data["cam"]["name"]) for row in log if isinstance(row.data.get("cam"), dict)}
    try:
        instruments = instruments_of_shop()
        report = report_of(
            build, seen_in(build, log, mockups), instruments, lambda: job_of(build, log, mockups, instruments)
        )
        found = _searched([str(build), engine_line(report.job.engine, report.job.unit), *names, *parts])
        return kept | judged(report) | {"words": found}
    except UnreadableError as error:
        words = [str(build), *names, *parts, UNREADABLE]
        return kept | {"card": {"why": str(error)}, "state": UNREADABLE, "rank": -1.0, "words": _searched(words)}
    except Exception:
        # A reading is worth more than its summary: it is written, and the error is logged.
        logger.exception("no summary of build %s", build.pk)
        return kept | {"card": {"why": ""}, "state": UNREADABLE, "rank": -1.0, "words": _searched([str(build)])}


def judged(report: Report) -> dict[str, Any]:
    """Return what a summary says of a report."""
    return {"card": card_of(report), "state": str(report.verdict), "rank": _rank(report), **_remembered(report)}


def _remembered(report: Report) -> dict[str, Any]:
    engine, parts = report.job.engine, part_squares(report)
    return {
        "cylinders": engine.cylinders,
        "bore_mm": engine.bore_mm,
        "stroke_mm": engine.stroke_mm,
        "part_squares": parts.squares,
        "part_freedom": parts.freedom,
        "facts": facts_of(report),
    }


def _searched(words: Iterable[str]) -> str:
    return " · ".join(words).lower()


def _rank(report: Report) -> float:
    tightest = report.tightest
    if tightest is None or tightest.margin is None:
        return WORST_FIRST.index(State.NOT_MEASURED) * BETWEEN_STATES
    return WORST_FIRST.index(tightest.state) * BETWEEN_STATES + tightest.margin


def card_of(report: Report) -> dict[str, Any]:
    """Return what the list shows of a report, as JSON data."""
    unit, tightest, step = report.job.unit, report.tightest, report.steps[0]
    shown = tightest and {
        "label": tightest.label,
        "state": str(tightest.state),
        "margin": margin_text(tightest, unit),
        "figure": f"{figure_text(tightest, unit)}, wants {limit_text(tightest.limit, tightest.kind, unit)}",
    }
    plan = engine_map(report, width=250.0, most_radius=17.0)
    return {
        "engine_line": engine_line(report.job.engine, unit),
        "unit": str(unit),
        "tightest": shown,
        "step": {"text": step.text, "station": str(step.station), "cylinder": step.cylinder},
        "verdict": str(report.verdict),
        "map": {
            "width": plan.width,
            "height": plan.height,
            "radius": plan.radius,
            "spots": [
                {"cylinder": one.cylinder, "x": one.x, "y": one.y, "state": str(one.state), "label": one.label}
                for one in plan.spots
            ],
        },
    }
