"""The rows of a build as a whole: its log and its mock-ups, read once for each request."""

from datetime import datetime
from functools import cached_property

from bench.builds.assemble import book_of
from bench.builds.models import Build, Entry, MockUp
from bench.shops import request_cache


class Rows:
    """The log of a build and its mock-ups, each in the order they were written; read when first asked for."""

    def __init__(self, build: Build) -> None:
        self.build = build

    @cached_property
    def book(self) -> list[Entry]:
        """Every entry of the log; two queries, however much is in it."""
        return request_cache.kept(f"log {self.build.pk}", lambda: list(book_of([self.build])))

    @cached_property
    def mockups(self) -> list[MockUp]:
        """Every mock-up, the latest last."""
        return request_cache.kept(
            f"mock-ups {self.build.pk}", lambda: list(MockUp.objects.filter(build=self.build).select_related("by"))
        )

    def touched(self) -> tuple[datetime, int | None]:
        """Return when something of the build was written last, and by whom: every line, every strike, every mock-up."""
        done: list[tuple[datetime, int | None]] = [(self.build.begun_at, None)]
        done += [(row.at, row.by_id) for row in self.book]
        done += [(row.struck_at, row.struck_by_id) for row in self.book if row.struck_at]
        done += [(row.at, row.by_id) for row in self.mockups]
        return max(done, key=lambda one: one[0])


def forget_rows(build_id: int) -> None:
    """Have a build's rows read again: something of it was written."""
    request_cache.forget(f"log {build_id}")
    request_cache.forget(f"mock-ups {build_id}")
