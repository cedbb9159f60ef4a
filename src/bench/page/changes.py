"""The changes of a build as lines: who decided each, and who marked it done. Stack and plan both show them."""

from dataclasses import dataclass

from django.http import Http404, HttpRequest

from bench.builds import services
from bench.builds.models import Entry
from bench.page.bench import Bench
from bench.page.entering import Wrong, record_line
from bench.shops.access import person_of
from bench.shops.clock import stamp
from mockup.changes.change import change_words, ratio_at
from mockup.faults import FaultsError, message_of


@dataclass(frozen=True, slots=True)
class ChangeLine:
    """A change in the book: its words, who decided it, whether it is done, and what comes after it."""

    key: str
    words: str
    record: str
    done: bool
    done_key: str
    done_record: str
    again: str
    caution: str


def change_lines(bench: Bench) -> list[ChangeLine]:
    """The changes decided and done, oldest first."""
    finished = {
        f"change-{row.data['change']}": row for row in bench.book if row.kind == "done" and not row.struck_reason
    }
    entries = {row.key: row for row in bench.book if row.kind == "change" and not row.struck_reason}
    job = bench.report.job
    found = []
    for change in job.changes:
        row = entries.get(change.key)
        if row is None:
            continue
        mark = finished.get(change.key)
        ratio = job.engine.rocker_ratio if change.order is None else ratio_at(job.engine, job.changes, change.order - 1)
        found.append(
            ChangeLine(
                key=change.key,
                words=change_words(change, bench.unit, many_banks=len(job.engine.banks) > 1, ratio=ratio),
                record=record_line(row.by.shown_name, stamp(row.at), ""),
                done=change.order is not None,
                done_key=mark.key if mark else "",
                done_record=record_line(mark.by.shown_name, stamp(mark.at), "") if mark else "",
                again=change.kind.again,
                caution=change.kind.caution(change),
            )
        )
    return found


def mark(request: HttpRequest, bench: Bench) -> dict[str, Wrong]:
    """Mark the posted change as done; what is wrong, by the line's key, where it cannot be."""
    key = request.POST["done"]
    try:
        services.mark_done(bench.build, _decided(bench, key), person_of(request))
    except FaultsError as error:
        return {f"done-{key}": Wrong("", message_of(error))}
    return {}


def _decided(bench: Bench, key: str) -> Entry:
    """The entry of a decided change, by its key; 404 for any other."""
    for entry in bench.book:
        if entry.kind == "change" and entry.key == key:
            return entry
    raise Http404(key)
