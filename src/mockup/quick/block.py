"""Quick checks of the short block: quench from deck and gasket, ratio from volumes."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from functools import partial

from mockup.base.topics import Topic
from mockup.checks.check import Kind
from mockup.checks.compression import RATIO_CHECK, WIDER_MM
from mockup.checks.quench import QUENCH_CHECK
from mockup.engine.block import Engine
from mockup.engine.gasket import FinalGasket
from mockup.job import Job
from mockup.limits.schools import READY_MADE
from mockup.quantity.fields import Mm
from mockup.quantity.shown import mm_text
from mockup.quick.check import Part, Quick
from mockup.quick.valve import UNASKED
from mockup.readings.deck import DeckReading
from mockup.readings.instruments import BRIDGE, FEELERS
from mockup.readings.record import Reading
from mockup.readings.volumes import VolumePart, VolumeReading


@dataclass(frozen=True, slots=True, kw_only=True)
class QuickQuench(Quick):
    """One deck clearance, positive in the hole [mm], and the gasket's compressed thickness [mm].

    ``deck_half_mm``: half the step of feelers under a straight edge, 0 for a bridge and indicator [mm]. Raises
    FaultsError.
    """

    deck_mm: Mm
    deck_half_mm: Mm = 0.0
    gasket_mm: Mm

    def parts(self) -> Iterable[Part]:
        """Return the records it is made of."""
        yield lambda: self.engine, {}
        yield lambda: self.final, {"compressed_mm": "gasket_mm", "bore_mm": "gasket_bore_mm"}
        yield lambda: self.deck, {"clearance_mm": "deck_mm", "half_width_mm": "deck_mm"}

    @property
    def kind(self) -> Kind:
        """The kind of check that judges it."""
        return QUENCH_CHECK

    @property
    def engine(self) -> Engine:
        """A stand-in for the job's engine; a quench uses none of its fields."""
        return UNASKED

    @property
    def topic(self) -> Topic:
        """What a build begun from it is checked for first."""
        return Topic.DECK

    @property
    def final(self) -> FinalGasket:
        """The gasket it will run."""
        return FinalGasket(compressed_mm=self.gasket_mm)

    def kept(self, mockup: str) -> Iterable[tuple[str, Reading]]:  # noqa: ARG002, a deck needs no mock-up
        """Return its readings as a log stores them."""
        yield "deck_mm", replace(self.deck, key="")

    @property
    def deck(self) -> DeckReading:
        """Return the deck reading."""
        tool = FEELERS if self.deck_half_mm else BRIDGE
        return DeckReading(
            key="deck", cylinder=1, clearance_mm=self.deck_mm, half_width_mm=self.deck_half_mm, instrument=tool
        )

    @property
    def readings(self) -> tuple[Reading, ...]:
        """Return the readings."""
        return (self.deck,)

    @property
    def job(self) -> Job:
        """Return it as a job of its own."""
        return Job(
            name="Quick check",
            unit=self.unit,
            engine=self.engine,
            limits=READY_MADE[self.limits],
            final_gasket=self.final,
            readings=self.readings,
        )

    def supposed(self) -> tuple[str, ...]:
        """What the answer assumes because it was not stated."""
        tool = "straight edge and feelers" if self.deck_half_mm else "bridge and indicator"
        return (f"The deck was read once, at the centre, by {tool}; the edge of a rocked piston is nearer.",)


@dataclass(frozen=True, slots=True, kw_only=True)
class QuickRatio(QuickQuench):
    """The further inputs of a ratio: bore and stroke [mm], chamber and piston [cm3].

    ``piston_cc`` is positive where it adds volume. ``gasket_bore_mm`` None: not stated [mm].
    """

    bore_mm: Mm
    stroke_mm: Mm
    chamber_cc: float
    piston_cc: float
    gasket_bore_mm: Mm | None = None

    @property
    def kind(self) -> Kind:
        """The kind of check that judges it."""
        return RATIO_CHECK

    @property
    def engine(self) -> Engine:
        """The cylinder; a ratio uses nothing of the rod."""
        return Engine(cylinders=1, bore_mm=self.bore_mm, stroke_mm=self.stroke_mm)

    @property
    def topic(self) -> Topic:
        """What a build begun from it is checked for first."""
        return Topic.RATIO

    @property
    def sizes(self) -> Mapping[str, float]:
        """The engine's sizes it states, by field name [mm]."""
        return {"bore_mm": self.bore_mm, "stroke_mm": self.stroke_mm}

    def kept(self, mockup: str) -> Iterable[tuple[str, Reading]]:
        """Return its readings as a log stores them; the volumes are those of cylinder 1."""
        yield from QuickQuench.kept(self, mockup)
        yield "chamber_cc", replace(self.poured(VolumePart.CHAMBER), key="", cylinder=1)
        yield "piston_cc", replace(self.poured(VolumePart.PISTON), key="", cylinder=1)

    @property
    def final(self) -> FinalGasket:
        """The gasket it will run."""
        return FinalGasket(compressed_mm=self.gasket_mm, bore_mm=self.gasket_bore_mm)

    @property
    def readings(self) -> tuple[Reading, ...]:
        """Return the readings."""
        return (self.deck, self.poured(VolumePart.CHAMBER), self.poured(VolumePart.PISTON))

    def poured(self, part: VolumePart) -> VolumeReading:
        """Return one volume reading."""
        cc = {VolumePart.CHAMBER: self.chamber_cc, VolumePart.PISTON: self.piston_cc}[part]
        return VolumeReading(key=str(part), part=part, cc=cc)

    def parts(self) -> Iterable[Part]:
        """Return the records it is made of."""
        yield partial(self.poured, VolumePart.CHAMBER), {"cc": "chamber_cc"}
        yield partial(self.poured, VolumePart.PISTON), {"cc": "piston_cc"}
        yield from QuickQuench.parts(self)

    def supposed(self) -> tuple[str, ...]:
        """What the answer assumes because it was not stated, and what that may change."""
        if self.gasket_bore_mm is not None:
            return ()
        more = WIDER_MM.value
        usual, wider = (replace(self, gasket_bore_mm=self.bore_mm + times * more) for times in (1, 2))
        now, then = (one.answer(one.report()).figure for one in (usual, wider))
        gain = f"; {mm_text(more)} more would take {now.value - then.value:.3f}" if now and then else ""
        return (f"The gasket’s bore is assumed to be the cylinder’s and {mm_text(more)}{gain}.",)
