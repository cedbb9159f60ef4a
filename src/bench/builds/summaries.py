"""The summary of a build: made of its rows at the end of everything that writes them, in the same transaction.

So the stand reads one row a build, whatever is in the books. A summary is made anew when the arithmetic is another
one than it was made by: by ``manage summarise`` after an update, and of what is shown, when it is shown.
"""

import logging
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache
from hashlib import sha256
from pathlib import Path
from types import MappingProxyType
from typing import Any

from django.db import transaction
from django.db.models import Q, QuerySet
from django_scopes import scopes_disabled

import mockup
from bench.builds.assemble import instruments_of_shop, job_of
from bench.builds.models import Build, Summary
from bench.builds.models.build import UnreadableError
from bench.builds.models.summary import UNREADABLE
from bench.builds.reports import report_of, seen_in
from bench.builds.rows import Rows, forget_rows
from bench.drawings.engine_map import engine_map
from mockup.limits.judge import State
from mockup.memory import facts_of, part_squares
from mockup.report import WORST_FIRST, Report
from mockup.words import daylight_text, engine_line, figure_text, limit_text

log = logging.getLogger(__name__)

_being_written: ContextVar[Mapping[int, Build]] = ContextVar("_being_written", default=MappingProxyType({}))
_put_off: ContextVar[set[int] | None] = ContextVar("_put_off", default=None)
BETWEEN_STATES = 100_000.0
"""More than any daylight [mm]: the state comes first."""


@cache
def version() -> str:
    """The arithmetic as it is: another text as soon as a line of the core's source is."""
    found = sha256()
    for path in sorted(Path(mockup.__file__).parent.rglob("*.py")):
        found.update(path.read_bytes())
    # What a summary holds belongs to it too.
    found.update(Path(__file__).read_bytes())
    return found.hexdigest()[:16]


def being_written(build_id: int) -> Build | None:
    """Return the build whose row is locked here for writing; None where it is not."""
    return _being_written.get().get(build_id)


@contextmanager
def settled(build: Build) -> Iterator[None]:
    """Whatever is written of a build in here, its summary is made once, at the end of the outermost."""
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
    """Everything of a build is written: make its summary, or have it made with those that were put off."""
    waiting = _put_off.get()
    if waiting is None:
        _summarise(build)
    else:
        waiting.add(build.pk)


@contextmanager
def put_off() -> Iterator[None]:
    """However many builds are written in here, and however often, each is summarised once, at the end."""
    found: set[int] = set()
    token = _put_off.set(found)
    try:
        yield
    finally:
        _put_off.reset(token)
    for build_id in sorted(found):
        summarise(build_id)


def summarise(build_id: int) -> Summary:
    """Make a build's summary anew."""
    return _summarise(Build.objects.get(pk=build_id))


def _summarise(build: Build) -> Summary:
    found = Summary(build=build, **_of(build, Rows(build)))
    found.save()
    return found


def of_another_arithmetic() -> QuerySet[Build]:
    """The builds whose summary is an old one, or missing."""
    found: QuerySet[Build] = Build.objects.filter(~Q(summary__version=version()) | Q(summary=None))
    return found


def any_old() -> bool:
    """Whether there is such a build."""
    return of_another_arithmetic().exists()


def still_old() -> int:
    """How many builds of the shop still stand as another arithmetic judged them [1]; asked with every stand."""
    now = version()
    with scopes_disabled():
        # Two ends of an index, where "another than" would be read through.
        found = any(Summary.objects.filter(**{which: now}).exists() for which in ("version__lt", "version__gt"))
    return of_another_arithmetic().count() if found else 0


def summarise_old(builds: Iterable[Build]) -> int:
    """Make anew the summaries of those of some builds that another arithmetic made, or none; returns how many [1]."""
    now = version()
    kept = dict(Summary.objects.filter(build__in=[build.pk for build in builds]).values_list("pk", "version"))
    old = [build.pk for build in builds if kept.get(build.pk) != now]
    for build_id in old:
        with transaction.atomic():
            # Whoever writes meanwhile is waited for: a summary never lies behind its book.
            Build.objects.select_for_update().get(pk=build_id)
            summarise(build_id)
    return len(old)


def _of(build: Build, rows: Rows) -> dict[str, Any]:
    book, mockups = rows.book, rows.mockups
    touched_at, touched_by = rows.touched()
    people = {row.by_id for row in book} | {row.struck_by_id for row in book} | {row.by_id for row in mockups}
    kept = {
        "version": version(),
        "people": sorted(by for by in people if by),
        "touched_at": touched_at,
        "touched_by_id": touched_by,
    }
    names = {row.by.shown_name for row in book}
    parts = {str(row.data["name"]) for row in book if row.kind in ("gasket", "change") and row.data.get("name")}
    parts |= {str(row.data["cam"]["name"]) for row in book if isinstance(row.data.get("cam"), dict)}
    try:
        instruments = instruments_of_shop()
        report = report_of(
            build, seen_in(build, book, mockups), instruments, lambda: job_of(build, book, mockups, instruments)
        )
        judged = {
            "card": card_of(report),
            "state": str(report.verdict),
            "rank": _rank(report),
            **_remembered(report),
            "words": _searched([str(build), engine_line(report.job.engine, report.job.unit), *names, *parts]),
        }
    except UnreadableError as error:
        words = [str(build), *names, *parts, UNREADABLE]
        return kept | {"card": {"why": str(error)}, "state": UNREADABLE, "rank": -1.0, "words": _searched(words)}
    except Exception:
        # What was read at the bench is worth more than its summary: it is written, and the fault is looked for.
        log.exception("no summary of build %s", build.pk)
        return kept | {"card": {"why": ""}, "state": UNREADABLE, "rank": -1.0, "words": _searched([str(build)])}
    return kept | judged


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
    if tightest is None or tightest.daylight is None:
        return WORST_FIRST.index(State.NOT_MEASURED) * BETWEEN_STATES
    return WORST_FIRST.index(tightest.state) * BETWEEN_STATES + tightest.daylight


def card_of(report: Report) -> dict[str, Any]:
    """What the stand shows of a report, in words and places, as JSON holds it."""
    unit, tightest, step = report.job.unit, report.tightest, report.steps[0]
    shown = tightest and {
        "label": tightest.label,
        "state": str(tightest.state),
        "daylight": daylight_text(tightest, unit),
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
