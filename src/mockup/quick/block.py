"""Quick checks of the short block: quench from deck and gasket, compression ratio from five volumes."""

from dataclasses import dataclass, replace

from mockup.checks.check import Check, Kind
from mockup.engine.block import Engine
from mockup.engine.gasket import FinalGasket
from mockup.evaluate import evaluate
from mockup.faults import Fault, FaultsError, refuse
from mockup.job import Job
from mockup.limits.sheets import READY_MADE
from mockup.quantity.fields import Mm
from mockup.quantity.value import Unit
from mockup.quick.valve import UNASKED
from mockup.readings.deck import DeckReading
from mockup.readings.volumes import VolumePart, VolumeReading
from mockup.record import Reading
from mockup.report import Report

_OWN_NAMES = {"clearance_mm": "deck_mm", "compressed_mm": "gasket_mm", "rod_length_mm": "stroke_mm"}
ONE_MM = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class QuickQuench:
    """One deck clearance, positive in the hole [mm], and the gasket's compressed thickness [mm]. Raises FaultsError."""

    deck_mm: Mm
    gasket_mm: Mm
    sheet: str = "street"
    unit: Unit = Unit.INCH

    def __post_init__(self) -> None:
        refuse([] if self.sheet in READY_MADE else [Fault("sheet", f"One of: {', '.join(READY_MADE)}.")])
        try:
            _ = self.job
        except FaultsError as error:
            refuse(
                Fault(_OWN_NAMES.get(name, name), fault.message)
                for fault in error.faults
                for name in [fault.path.removeprefix("final_gasket.")]
            )

    @property
    def kind(self) -> Kind:
        """What is judged."""
        return Kind.QUENCH

    @property
    def engine(self) -> Engine:
        """What stands where a job has its engine: quench reads nothing of it."""
        return UNASKED

    @property
    def gasket(self) -> FinalGasket:
        """The gasket it will run."""
        return FinalGasket(compressed_mm=self.gasket_mm, bore_mm=self.engine.bore_mm)

    @property
    def readings(self) -> tuple[Reading, ...]:
        """What was read."""
        return (DeckReading(key="deck", cylinder=1, clearance_mm=self.deck_mm),)

    @property
    def job(self) -> Job:
        """It as a job of its own."""
        return Job(
            name="Quick check",
            unit=self.unit,
            engine=self.engine,
            sheet=READY_MADE[self.sheet],
            final_gasket=self.gasket,
            readings=self.readings,
        )

    def report(self) -> Report:
        """What ``evaluate`` makes of it."""
        return evaluate(self.job)

    def answer(self, report: Report) -> Check:
        """The check it is asked for, from its report."""
        return report.of_kind(self.kind)[0]

    def supposed(self) -> tuple[str, ...]:
        """What the answer supposes because nobody said it."""
        return (
            "The deck read once, at the centre, by bridge and indicator; the edge of a rocked piston stands nearer.",
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class QuickRatio(QuickQuench):
    """What else a compression ratio is made of: bore and stroke [mm], volumes of chamber and piston [cm3].

    ``piston_cc`` is positive where it adds room. ``gasket_bore_mm`` None: taken for the cylinder's [mm].
    """

    bore_mm: Mm
    stroke_mm: Mm
    chamber_cc: float
    piston_cc: float
    gasket_bore_mm: Mm | None = None

    @property
    def kind(self) -> Kind:
        """What is judged."""
        return Kind.RATIO

    @property
    def engine(self) -> Engine:
        """The cylinder; a ratio reads nothing of the rod, which is made long enough to turn."""
        rod_mm = min(max(1.8 * self.stroke_mm, 30.0), 800.0)
        return Engine(cylinders=1, bore_mm=self.bore_mm, stroke_mm=self.stroke_mm, rod_length_mm=rod_mm)

    @property
    def gasket(self) -> FinalGasket:
        """The gasket it will run."""
        return FinalGasket(compressed_mm=self.gasket_mm, bore_mm=self.gasket_bore_mm or self.bore_mm)

    @property
    def readings(self) -> tuple[Reading, ...]:
        """What was read."""
        volumes = {VolumePart.CHAMBER: self.chamber_cc, VolumePart.PISTON: self.piston_cc}
        poured = (VolumeReading(key=f"{part}", part=part, cc=cc) for part, cc in volumes.items())
        return (DeckReading(key="deck", cylinder=1, clearance_mm=self.deck_mm), *poured)

    def supposed(self) -> tuple[str, ...]:
        """What the answer supposes because nobody said it, and what that may change."""
        if self.gasket_bore_mm is not None:
            return ()
        wider = replace(self, gasket_bore_mm=self.bore_mm + ONE_MM)
        now, then = (one.answer(one.report()).figure for one in (self, wider))
        worth = f"; 1 mm more would take {now.value - then.value:.3f}" if now and then else ""
        return (f"The gasket’s bore taken for the cylinder’s{worth}.",)
