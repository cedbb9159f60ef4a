"""Quick checks of the short block: quench from deck and gasket, compression ratio from five volumes."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import partial

from mockup.checks.check import Kind
from mockup.engine.block import Engine
from mockup.engine.gasket import FinalGasket
from mockup.job import Job
from mockup.limits.sheets import READY_MADE
from mockup.quantity.fields import Mm
from mockup.quick.check import Part, Quick
from mockup.quick.valve import UNASKED
from mockup.readings.deck import DeckReading
from mockup.readings.volumes import VolumePart, VolumeReading
from mockup.record import Reading
from mockup.topics import Topic

ONE_MM = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class QuickQuench(Quick):
    """One deck clearance, positive in the hole [mm], and the gasket's compressed thickness [mm]. Raises FaultsError."""

    deck_mm: Mm
    gasket_mm: Mm

    def parts(self) -> Iterable[Part]:
        """The records it is made of."""
        yield lambda: self.engine, {}
        yield lambda: self.final, {"compressed_mm": "gasket_mm", "bore_mm": "gasket_bore_mm"}
        yield lambda: self.deck, {"clearance_mm": "deck_mm"}

    @property
    def kind(self) -> Kind:
        """What is judged."""
        return Kind.QUENCH

    @property
    def engine(self) -> Engine:
        """What stands where a job has its engine: quench reads nothing of it."""
        return UNASKED

    @property
    def topic(self) -> Topic:
        """What a build begun from it is checked for first."""
        return Topic.DECK

    @property
    def final(self) -> FinalGasket:
        """The gasket it will run."""
        return FinalGasket(compressed_mm=self.gasket_mm)

    def kept(self, mockup: str) -> Iterable[tuple[str, Reading]]:  # noqa: ARG002, a deck is read in none
        """Its readings as a book takes them."""
        yield "deck_mm", replace(self.deck, key="")

    @property
    def deck(self) -> DeckReading:
        """The deck as a book takes it."""
        return DeckReading(key="deck", cylinder=1, clearance_mm=self.deck_mm)

    @property
    def readings(self) -> tuple[Reading, ...]:
        """What was read."""
        return (self.deck,)

    @property
    def job(self) -> Job:
        """It as a job of its own."""
        return Job(
            name="Quick check",
            unit=self.unit,
            engine=self.engine,
            sheet=READY_MADE[self.sheet],
            final_gasket=self.final,
            readings=self.readings,
        )

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
        """The cylinder; a ratio reads nothing of the rod."""
        return Engine(cylinders=1, bore_mm=self.bore_mm, stroke_mm=self.stroke_mm)

    @property
    def topic(self) -> Topic:
        """What a build begun from it is checked for first."""
        return Topic.RATIO

    @property
    def sizes(self) -> Mapping[str, float]:
        """What it says of an engine, by the names of its fields [mm]."""
        return {"bore_mm": self.bore_mm, "stroke_mm": self.stroke_mm}

    def kept(self, mockup: str) -> Iterable[tuple[str, Reading]]:
        """Its readings as a book takes them: the volumes are those of cylinder 1."""
        yield from QuickQuench.kept(self, mockup)
        yield "chamber_cc", replace(self.poured(VolumePart.CHAMBER), key="", cylinder=1)
        yield "piston_cc", replace(self.poured(VolumePart.PISTON), key="", cylinder=1)

    @property
    def final(self) -> FinalGasket:
        """The gasket it will run."""
        return FinalGasket(compressed_mm=self.gasket_mm, bore_mm=self.gasket_bore_mm or self.bore_mm)

    @property
    def readings(self) -> tuple[Reading, ...]:
        """What was read."""
        return (self.deck, self.poured(VolumePart.CHAMBER), self.poured(VolumePart.PISTON))

    def poured(self, part: VolumePart) -> VolumeReading:
        """One volume as a book takes it."""
        cc = {VolumePart.CHAMBER: self.chamber_cc, VolumePart.PISTON: self.piston_cc}[part]
        return VolumeReading(key=str(part), part=part, cc=cc)

    def parts(self) -> Iterable[Part]:
        """The records it is made of."""
        yield partial(self.poured, VolumePart.CHAMBER), {"cc": "chamber_cc"}
        yield partial(self.poured, VolumePart.PISTON), {"cc": "piston_cc"}
        yield from QuickQuench.parts(self)

    def supposed(self) -> tuple[str, ...]:
        """What the answer supposes because nobody said it, and what that may change."""
        if self.gasket_bore_mm is not None:
            return ()
        wider = replace(self, gasket_bore_mm=self.bore_mm + ONE_MM)
        now, then = (one.answer(one.report()).figure for one in (self, wider))
        gain = f"; 1 mm more would take {now.value - then.value:.3f}" if now and then else ""
        return (f"The gasket’s bore taken for the cylinder’s{gain}.",)
