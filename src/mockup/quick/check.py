"""What every quick check has: a sheet, a unit, a job of its own, and faults shown under its own names."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from mockup.checks.check import Check, Kind
from mockup.evaluate import evaluate
from mockup.faults import Fault, FaultsError, refuse
from mockup.job import Job
from mockup.limits.sheets import READY_MADE
from mockup.quantity.value import Unit
from mockup.report import Report

Part = tuple[Callable[[], Any], Mapping[str, str]]
"""Something a quick check is made of, and what its fields are called here."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Quick:
    """A few numbers, judged by a ready-made sheet and read in a unit. Raises FaultsError."""

    sheet: str = "street"
    unit: Unit = Unit.INCH

    def __post_init__(self) -> None:
        known = [] if self.sheet in READY_MADE else [Fault("sheet", f"One of: {', '.join(READY_MADE)}.")]
        refuse([*known, *self._missing()])
        refuse([fault for part in self.parts() for fault in _faults_of(*part)])
        refuse(_faults_of(lambda: self.job, {"final_gasket.compressed_mm": "gasket_mm"}))

    def _missing(self) -> Iterable[Fault]:
        """What it cannot do without."""
        return ()

    def parts(self) -> Iterable[Part]:
        """The records it is made of: they refuse what cannot be."""
        return ()

    @property
    def kind(self) -> Kind:
        """What is judged."""
        raise AttributeError("A quick check says what it judges.")

    @property
    def job(self) -> Job:
        """It as a job of its own."""
        raise AttributeError("A quick check has a job of its own.")

    def report(self) -> Report:
        """What ``evaluate`` makes of it."""
        return evaluate(self.job)

    def answer(self, report: Report) -> Check:
        """The check it is asked for, from its report."""
        return report.of_kind(self.kind)[0]


def _faults_of(make: Callable[[], Any], names: Mapping[str, str]) -> list[Fault]:
    try:
        make()
    except FaultsError as error:
        return [Fault(names.get(fault.path, fault.path), fault.message) for fault in error.faults]
    return []
