"""The changes of a build as rows: who decided each, and who marked it done.

Stack and plan both show them.
"""

from dataclasses import dataclass

from django.http import Http404, HttpRequest

from mockup.base.faults import FaultsError, message_of
from mockup.changes.since import change_words, ratio_at
from web.builds import services
from web.builds.models import Entry
from web.page.build_page import BuildPage
from web.page.read_fields import Wrong, record_line
from web.shops.access import person_of
from web.shops.clock import stamp


@dataclass(frozen=True, slots=True)
class ChangeRow:
    """A change in the log: words, who decided it, whether it is done, what follows."""

    key: str
    words: str
    record: str
    done: bool
    done_key: str
    done_record: str
    again: str
    caution: str


def change_rows(page: BuildPage) -> list[ChangeRow]:
    """Return the decided and done changes, oldest first."""
    finished = {f"change-{row.data['change']}": row for row in page.log if row.kind == "done" and not row.struck_reason}
    entries = {row.key: row for row in page.log if row.kind == "change" and not row.struck_reason}
    job = page.report.job
    found = []
    for change in job.changes:
        row = entries.get(change.key)
        if row is None:
            continue
        mark = finished.get(change.key)
        ratio = job.engine.rocker_ratio if change.order is None else ratio_at(job.engine, job.changes, change.order - 1)
        found.append(
            ChangeRow(
                key=change.key,
                words=change_words(change, page.unit, many_banks=len(job.engine.banks) > 1, ratio=ratio),
                record=record_line(row.by.shown_name, stamp(row.at), ""),
                done=change.order is not None,
                done_key=mark.key if mark else "",
                done_record=record_line(mark.by.shown_name, stamp(mark.at), "") if mark else "",
                again=change.kind.again,
                caution=change.kind.caution(change),
            )
        )
    return found


def mark(request: HttpRequest, page: BuildPage) -> dict[str, Wrong]:
    """Mark the posted change as done; returns what is wrong by the row's key."""
    key = request.POST["done"]
    try:
        services.mark_done(page.build, _decided(page, key), person_of(request))
    except FaultsError as error:
        return {f"done-{key}": Wrong("", message_of(error))}
    return {}


def _decided(page: BuildPage, key: str) -> Entry:
    """Return the entry of a decided change by its key; 404 for any other."""
    for entry in page.log:
        if entry.kind == "change" and entry.key == key:
            return entry
    raise Http404(key)
