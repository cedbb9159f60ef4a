"""One build page: its rows, its report, and what its address asks for."""

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cached_property
from typing import Any, Protocol
from uuid import UUID

from django.contrib.postgres.aggregates import ArrayAgg
from django.db.models import Q
from django.http import HttpRequest
from django.shortcuts import get_object_or_404

from mockup.base.faults import Fault, FaultsError
from mockup.engine.block import valve_places
from mockup.engine.valves import Place
from mockup.quantity.value import DeckSign, Unit
from mockup.readings.instruments import Instrument
from mockup.report import Report
from web.builds.assemble import instruments_of_shop, job_of
from web.builds.models import Build, Entry, MockUp
from web.builds.reports import report_of, seen_in
from web.builds.rows import Rows
from web.pictures.models import Picture


class Asked(Protocol):
    """Query and form data of a page: a request, or an entry that carries both."""

    @property
    def GET(self) -> Any:  # noqa: N802, Django's name
        """The query of the address, a QueryDict."""

    @property
    def POST(self) -> Any:  # noqa: N802, Django's name
        """The form's values besides its fields, a QueryDict."""


class BuildPage:
    """A build for one page: its row, its log, and its report, evaluated when first used."""

    def __init__(self, build: Build) -> None:
        self.build = build
        self._typed_as: tuple[Unit, DeckSign] | None = None

    @contextmanager
    def typed_as(self, unit: Unit, sign: DeckSign) -> Iterator[None]:
        """Read typing in the unit and signs of the page it was typed on, not of the build."""
        self._typed_as = (unit, sign)
        try:
            yield
        finally:
            self._typed_as = None

    @cached_property
    def rows(self) -> Rows:
        """The build's rows, each read when first used."""
        return Rows(self.build)

    @property
    def log(self) -> list[Entry]:
        """Every entry of the build, in order."""
        return self.rows.log

    @property
    def mockups(self) -> list[MockUp]:
        """The build's mock-ups, the latest last."""
        return self.rows.mockups

    @cached_property
    def instruments(self) -> dict[str, Instrument]:
        """The instruments to choose from, by key."""
        return instruments_of_shop()

    @cached_property
    def pictures(self) -> list[tuple[Picture, list[int]]]:
        """The build's pictures, removed ones included, each with the log entries it shows."""
        shown = ArrayAgg("evidence__entry", filter=Q(evidence__isnull=False), order_by="evidence__pk", default=[])
        every = Picture.objects.filter(build=self.build).annotate(entries=shown)
        return [(row, row.entries) for row in every.select_related("by", "removed_by")]

    @cached_property
    def report(self) -> Report:
        """The report on the build."""
        return report_of(
            self.build,
            seen_in(self.build, self.log, self.mockups),
            self.instruments,
            lambda: job_of(self.build, self.log, self.mockups, self.instruments),
        )

    @property
    def touched(self) -> str:
        """When the build was last written to, so that the page notices the writes of others."""
        return self.rows.touched()[0].isoformat()

    def refresh(self) -> None:
        """Reload the log and evaluate again when next used, after a write."""
        for name in ("report", "rows", "pictures"):
            self.__dict__.pop(name, None)

    def valves_of(self, cylinder: int) -> list[Place]:
        """Return every valve of a cylinder, from the block alone, without evaluating."""
        return valve_places(self.build.engine, cylinder)

    @property
    def unit(self) -> Unit:
        """The build's unit."""
        return self._typed_as[0] if self._typed_as else Unit(self.build.unit)

    @property
    def deck_sign(self) -> DeckSign:
        """The build's sign convention."""
        return self._typed_as[1] if self._typed_as else DeckSign(self.build.deck_sign)


def build_page_or_404(build_id: int) -> BuildPage:
    """Return the build of the signed-in person's shop; 404 for another shop's."""
    return BuildPage(get_object_or_404(Build, pk=build_id))


def cylinder_asked(asked: Asked, page: BuildPage) -> int:
    """Return the cylinder in the address; the first where it is missing or invalid."""
    known = {str(number): number for number in range(1, page.build.engine.cylinders + 1)}
    return known.get(asked.GET.get("cylinder", ""), 1)


def mockup_in_hand(asked: Asked, page: BuildPage, kind: str) -> MockUp | None:
    """Return the mock-up that readings of ``kind`` go to: as asked, else the newest.

    A mock-up with readings of another kind only is reserved for that kind.
    """
    named = mockup_named(asked, page)
    if named:
        return named
    used = {row.data.get("mockup"): set[str]() for row in page.log}
    for row in page.log:
        used[row.data.get("mockup")].add(row.kind)
    clearances = {"clay", "sweep", "head"}
    for mockup in reversed(page.mockups):
        here = used.get(mockup.letter, set()) & clearances
        if kind in here or not here:
            return mockup
    return page.mockups[-1] if page.mockups else None


def mockup_named(asked: Asked, page: BuildPage) -> MockUp | None:
    """Return the mock-up whose letter was asked for, or None."""
    return next((mockup for mockup in page.mockups if mockup.letter == asked.GET.get("mockup")), None)


def newest_mockup(asked: Asked, page: BuildPage) -> MockUp | None:
    """Return the mock-up asked for, else the newest, or None."""
    return mockup_named(asked, page) or (page.mockups[-1] if page.mockups else None)


def letter_or_refuse(mockup: MockUp | None, why: str) -> str:
    """Return the letter of the mock-up a reading goes to.

    Raises FaultsError without one, since a reading needs its conditions.
    """
    if mockup is None:
        raise FaultsError([Fault("mockup", f"Save the mock-up first: {why}.")])
    return mockup.letter


def token_of(request: HttpRequest) -> UUID | None:
    """Return the browser's token for this saving, if valid."""
    try:
        return UUID(request.POST.get("token", ""))
    except ValueError:
        return None
