"""What every quick check has: a sheet, a unit, a job of its own, and faults shown under its own names."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from mockup.checks.check import Check, Kind
from mockup.engine.gasket import FinalGasket
from mockup.engine.mockup import MockUp
from mockup.evaluate import evaluate
from mockup.faults import Fault, FaultsError, refuse
from mockup.job import Job
from mockup.limits.sheets import READY_MADE
from mockup.quantity.value import Unit
from mockup.record import Reading
from mockup.report import Report
from mockup.topics import Topic

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
        refuse([fault for part in self.parts() for fault in faults_of(*part)])
        refuse(faults_of(lambda: self.job, {"final_gasket.compressed_mm": "gasket_mm"}))

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
    def topic(self) -> Topic:
        """What a build begun from it is checked for first."""
        raise AttributeError("A quick check says what it is of.")

    @property
    def sizes(self) -> Mapping[str, float]:
        """What it says of an engine, by the names of its fields [mm]."""
        return {}

    @property
    def mockup(self) -> MockUp | None:
        """The conditions it was read under; None where none matter."""
        return None

    @property
    def final(self) -> FinalGasket | None:
        """The gasket it will run, where anybody said."""
        return None

    def kept(self, mockup: str) -> Iterable[tuple[str, Reading]]:  # noqa: ARG002, which of them uses it is theirs
        """Its readings as a book takes them, under the mock-up ``mockup``, each with the field it was typed in."""
        return ()

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


def faults_of(make: Callable[[], Any], names: Mapping[str, str]) -> list[Fault]:
    """What is wrong with something made, its fields called by ``names``."""
    try:
        make()
    except FaultsError as error:
        return [Fault(names.get(fault.path, fault.path), fault.message) for fault in error.faults]
    return []
