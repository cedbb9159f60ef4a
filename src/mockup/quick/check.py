"""What every quick check has: limits, a unit, a job, faults under its own field names."""

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import Any

from mockup.base.faults import Fault, FaultsError, refuse
from mockup.base.topics import Topic
from mockup.checks.check import Check, Kind
from mockup.engine.gasket import FinalGasket
from mockup.engine.mockup import MockUp
from mockup.evaluate import evaluate
from mockup.job import Job
from mockup.limits.schools import READY_MADE
from mockup.quantity.value import Unit
from mockup.readings.record import Reading
from mockup.report import Report

Part = tuple[Callable[[], Any], Mapping[str, str]]
"""A record a quick check is made of, and what its fields are called here."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Quick:
    """A few numbers, judged by a ready-made set of limits and read in a unit.

    Raises FaultsError.
    """

    limits: str = "street"
    unit: Unit = Unit.INCH

    def __post_init__(self) -> None:
        known = [] if self.limits in READY_MADE else [Fault("limits", f"One of: {', '.join(READY_MADE)}.")]
        refuse([*known, *self._missing()])
        refuse([fault for part in self.parts() for fault in faults_of(*part)])
        refuse(faults_of(lambda: self.job, {"final_gasket.compressed_mm": "gasket_mm"}))

    def _missing(self) -> Iterable[Fault]:
        """Return the faults of required inputs that are missing."""
        return ()

    def parts(self) -> Iterable[Part]:
        """Return the records it is made of, which refuse impossible values."""
        return ()

    @property
    def kind(self) -> Kind:
        """The kind of check that judges it."""
        raise AttributeError("A quick check says what it judges.")

    @property
    def topic(self) -> Topic:
        """What a build begun from it is checked for first."""
        raise AttributeError("A quick check says what it is about.")

    @property
    def sizes(self) -> Mapping[str, float]:
        """The engine's sizes it states, by field name [mm]."""
        return {}

    @property
    def mockup(self) -> MockUp | None:
        """The conditions it was read under; None where they do not matter."""
        return None

    @property
    def final(self) -> FinalGasket | None:
        """The final gasket, if one was stated."""
        return None

    def kept(self, mockup: str) -> Iterable[tuple[str, Reading]]:  # noqa: ARG002, only some quick checks use it
        """Return its readings as a log stores them, each with the field it was typed in."""
        return ()

    @property
    def job(self) -> Job:
        """Return it as a job of its own."""
        raise AttributeError("A quick check has a job of its own.")

    def report(self) -> Report:
        """Return the report of its job."""
        return evaluate(self.job)

    def answer(self, report: Report) -> Check:
        """Return the check it is asked for, from its report."""
        return report.of_kind(self.kind)[0]


def faults_of(make: Callable[[], Any], names: Mapping[str, str]) -> list[Fault]:
    """Return the faults raised while making something, its fields renamed by ``names``."""
    try:
        make()
    except FaultsError as error:
        return [Fault(names.get(fault.path, fault.path), fault.message) for fault in error.faults]
    return []
