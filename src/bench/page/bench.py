"""One build page: finding the build, evaluating it, and answering with the page or its moving part."""

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cached_property
from typing import Any, Protocol
from uuid import UUID

from django.contrib.postgres.aggregates import ArrayAgg
from django.db.models import Q
from django.http import HttpRequest
from django.shortcuts import get_object_or_404

from bench.builds.assemble import instruments_of_shop, job_of
from bench.builds.models import Build, Entry, MockUp
from bench.builds.reports import report_of, seen_in
from bench.builds.rows import Rows
from bench.pictures.models import Picture
from mockup.engine.block import valve_places
from mockup.engine.valves import Place
from mockup.faults import Fault, FaultsError
from mockup.instruments import Instrument
from mockup.quantity.value import DeckSign, Unit
from mockup.report import Report


class Asked(Protocol):
    """What a page was asked for and told: a request, or a line that brings both with it."""

    @property
    def GET(self) -> Any:  # noqa: N802, Django's name
        """What the address asks for, a QueryDict."""

    @property
    def POST(self) -> Any:  # noqa: N802, Django's name
        """What the sheet says beside its fields, a QueryDict."""


class Bench:
    """A build on the bench: its row, its book, and its report evaluated when it is first asked for."""

    def __init__(self, build: Build) -> None:
        self.build = build
        self._typed_as: tuple[Unit, DeckSign] | None = None

    @contextmanager
    def typed_as(self, unit: Unit, sign: DeckSign) -> Iterator[None]:
        """Read typing by the unit and the signs of the page it was typed on; the build may have others by now."""
        self._typed_as = (unit, sign)
        try:
            yield
        finally:
            self._typed_as = None

    @cached_property
    def rows(self) -> Rows:
        """The build's rows, each read when it is first asked for."""
        return Rows(self.build)

    @property
    def book(self) -> list[Entry]:
        """Everything written of the build, in its order."""
        return self.rows.book

    @property
    def mockups(self) -> list[MockUp]:
        """The build's mock-ups, the latest last."""
        return self.rows.mockups

    @cached_property
    def instruments(self) -> dict[str, Instrument]:
        """The instruments that may be read with, by key."""
        return instruments_of_shop()

    @cached_property
    def pictures(self) -> list[tuple[Picture, list[int]]]:
        """The build's pictures, those removed too, each with the numbers of the lines of the book it shows."""
        shown = ArrayAgg("evidence__entry", filter=Q(evidence__isnull=False), order_by="evidence__pk", default=[])
        every = Picture.objects.filter(build=self.build).annotate(entries=shown)
        return [(row, row.entries) for row in every.select_related("by", "removed_by")]

    @cached_property
    def report(self) -> Report:
        """The report on the build as it stands in the book."""
        return report_of(
            self.build,
            seen_in(self.build, self.book, self.mockups),
            self.instruments,
            lambda: job_of(self.build, self.book, self.mockups, self.instruments),
        )

    @property
    def touched(self) -> str:
        """When something of the build was written last, for the page to notice what somebody else writes."""
        return self.rows.touched()[0].isoformat()

    def refresh(self) -> None:
        """Read the book and evaluate again when next asked: something was written."""
        for name in ("report", "rows", "pictures"):
            self.__dict__.pop(name, None)

    def valves_of(self, cylinder: int) -> list[Place]:
        """Every valve of one cylinder; asks the block alone, so that taking a reading need not evaluate first."""
        return valve_places(self.build.engine, cylinder)

    @property
    def unit(self) -> Unit:
        """The unit the build is kept in."""
        return self._typed_as[0] if self._typed_as else Unit(self.build.unit)

    @property
    def deck_sign(self) -> DeckSign:
        """The build's sign school."""
        return self._typed_as[1] if self._typed_as else DeckSign(self.build.deck_sign)


def bench_or_404(build_id: int) -> Bench:
    """The build of the signed-in person's shop; another shop's does not exist here."""
    return Bench(get_object_or_404(Build, pk=build_id))


def cylinder_asked(asked: Asked, bench: Bench) -> int:
    """The cylinder in the address; the first where none, or one this engine does not have, is asked for."""
    known = {str(number): number for number in range(1, bench.build.engine.cylinders + 1)}
    return known.get(asked.GET.get("cylinder", ""), 1)


def mockup_in_hand(asked: Asked, bench: Bench, kind: str) -> MockUp | None:
    """The mock-up that readings of ``kind`` go to: the one asked for, else the newest that is free for them.

    A mock-up that only readings of another kind were taken under is taken for that other kind's own.
    """
    named = mockup_named(asked, bench)
    if named:
        return named
    used = {row.data.get("mockup"): set[str]() for row in bench.book}
    for row in bench.book:
        used[row.data.get("mockup")].add(row.kind)
    clearances = {"clay", "sweep", "head"}
    for mockup in reversed(bench.mockups):
        here = used.get(mockup.letter, set()) & clearances
        if kind in here or not here:
            return mockup
    return bench.mockups[-1] if bench.mockups else None


def mockup_named(asked: Asked, bench: Bench) -> MockUp | None:
    """The mock-up whose letter was asked for, None where none was."""
    return next((mockup for mockup in bench.mockups if mockup.letter == asked.GET.get("mockup")), None)


def newest_mockup(asked: Asked, bench: Bench) -> MockUp | None:
    """The mock-up asked for, else the newest; None while there is none."""
    return mockup_named(asked, bench) or (bench.mockups[-1] if bench.mockups else None)


def letter_or_refuse(mockup: MockUp | None, why: str) -> str:
    """The letter of the mock-up a reading goes to; refused while there is none, for a reading needs its conditions."""
    if mockup is None:
        raise FaultsError([Fault("mockup", f"Set down the mock-up first: {why}.")])
    return mockup.letter


def token_of(request: HttpRequest) -> UUID | None:
    """The browser's token for this saving, where it sent a sensible one."""
    try:
        return UUID(request.POST.get("token", ""))
    except ValueError:
        return None
