"""The rows of a build: its log and its mock-ups, read once for each request."""

from datetime import datetime
from functools import cached_property

from web.builds.assemble import log_of
from web.builds.models import Build, Entry, MockUp
from web.shops import request_cache


class Rows:
    """The log of a build and its mock-ups, in the order they were written; read when first used."""

    def __init__(self, build: Build) -> None:
        self.build = build

    @cached_property
    def log(self) -> list[Entry]:
        """Every entry of the log; two queries at any length."""
        return request_cache.kept(f"log {self.build.pk}", lambda: list(log_of([self.build])))

    @cached_property
    def mockups(self) -> list[MockUp]:
        """Every mock-up, the latest last."""
        return request_cache.kept(
            f"mock-ups {self.build.pk}", lambda: list(MockUp.objects.filter(build=self.build).select_related("by"))
        )

    def touched(self) -> tuple[datetime, int | None]:
        """Return when and by whom the build was last written; strikes and mock-ups count."""
        done: list[tuple[datetime, int | None]] = [(self.build.begun_at, None)]
        done += [(row.at, row.by_id) for row in self.log]
        done += [(row.struck_at, row.struck_by_id) for row in self.log if row.struck_at]
        done += [(row.at, row.by_id) for row in self.mockups]
        return max(done, key=lambda one: one[0])


def forget_rows(build_id: int) -> None:
    """Forget a build's cached rows after a write."""
    request_cache.forget(f"log {build_id}")
    request_cache.forget(f"mock-ups {build_id}")
