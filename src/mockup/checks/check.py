"""One check of a report: a figure, its limit, its state, its evidence and its corrections."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, Protocol

from mockup.base.registry import Declared
from mockup.base.stations import Station
from mockup.base.topics import EVERYTHING, Topic
from mockup.context import EvaluationContext
from mockup.engine.valves import Side
from mockup.limits.judge import Bound, Limit, State, judge, margin
from mockup.quantity.corrections import Correction, Part, parts_of, running_figure
from mockup.quantity.value import Value
from mockup.readings.record import Record


class Kind(Declared):
    """One kind of check.

    ``label``: above its cell of the strip. ``is_length``: its figures are lengths [mm]; others are plain numbers [1].
    ``make``: yields its checks from the context. ``station``: where it is read, None where its readings decide.
    ``shows_at``: the stations that show its checks. ``of_a_valve``: it belongs to one valve, named in its cell.
    ``only_worse``: it has a cell only where it is worse than the kind before it. ``ask``: what to do where it is
    required and not read, in words followed by a cylinder; empty where a step of its own asks. ``meets``: if short,
    parts may touch as the engine turns, so it comes before everything else. ``topics``: what a build is checked for
    where this is required; if read, it is judged anyway. ``evenly``: the quantity in which its figure grows linearly
    with a cut; for a ratio the remaining volume.
    """

    label: str
    make: "Callable[[EvaluationContext], Iterable[Check]]"
    is_length: bool = True
    station: Station | None = None
    shows_at: frozenset[Station] = frozenset()
    of_a_valve: bool = False
    only_worse: bool = False
    ask: str = ""
    meets: bool = False
    topics: frozenset[Topic] = EVERYTHING
    evenly: Callable[[Any], Any] = staticmethod(lambda figure: figure)

    def refuse_nonsense(self) -> None:
        """Raise ValueError where it asks for a reading without naming the station."""
        if self.ask and self.station is None:
            raise ValueError(f"Kind “{self}” asks to be read: say at which station.")


class Trust(StrEnum):
    """What a reading can prove under its conditions."""

    SOUND = "sound"
    LOADED = "loaded"
    ESTIMATE = "an estimate from the card"
    OPTIMISTIC = "optimistic, not proof"
    VOID = "void"


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """The result of one set of readings for one check, before several are weighed.

    ``figure``: the running figure, None while it is not available. ``corrections``: how it was reached. ``evidence``:
    the keys of its readings. ``cautions``: what a person must know about it. ``carried``: what was changed since it was
    read and is only computed; ``read_again``: the engine itself changed, so arithmetic is no proof. ``contact``: parts
    touched when it was read. ``again``: makes the corrections for another engine or a batch; the corrections here were
    made by it.
    """

    figure: Value | None
    bound: Bound = Bound.EXACT
    trust: Trust = Trust.SOUND
    method: str
    corrections: tuple[Correction, ...] = ()
    evidence: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    carried: tuple[str, ...] = ()
    read_again: bool = False
    contact: bool = False
    again: Callable[[EvaluationContext], tuple[Correction, ...]] | None = field(default=None, repr=False, compare=False)

    @property
    def by_clay(self) -> bool:
        """Whether it was read with clay, whose train is loaded and bends."""
        return self.method.startswith("clay")

    @property
    def parts(self) -> tuple[Part, ...]:
        """The parts of the figure's u, largest first."""
        return parts_of(self.corrections)


class Signature(Protocol):
    """A person's signature for a check that is not clear."""

    @property
    def reason(self) -> str:
        """The reason it may run so."""
        ...

    @property
    def record(self) -> Record:
        """Who signed, and when."""
        ...


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """One check at one place. ``governing`` decides it; ``others`` are shown beside it.

    ``cylinder`` counts from 1; ``side`` and ``number`` of its valve are None and 0 where it has none. ``required``: the
    build is not ready while this is not clear. ``inferred``: what another cylinder's reading and both decks tell of
    this unread one; it never counts as measured. ``signed``: a valid signature; ``lapsed``: a signature for another
    figure. ``asked``: the build is checked for it. ``questioned``: open questions that contradict its figure.
    ``floor``: the clearance below which parts meet under any limits [mm]; None where nothing can.
    """

    kind: Kind
    cylinder: int
    side: Side | None = None
    number: int = 0
    label: str
    limit: Limit
    governing: Finding | None = None
    others: tuple[Finding, ...] = ()
    required: bool = True
    missing: str = ""
    inferred: Finding | None = None
    signed: Signature | None = None
    lapsed: Signature | None = None
    questioned: tuple[str, ...] = ()
    floor: float | None = None
    asked: bool = True

    @property
    def figure(self) -> Value | None:
        """The running figure, [mm] or [1]; None if nothing gives one."""
        return self.governing.figure if self.governing else None

    @property
    def as_mocked_up(self) -> Value | None:
        """The figure as read, where it cannot be carried to the running engine yet; None otherwise.

        In the figure's own unit, [mm] or [1]. It is not judged.
        """
        found = self.governing
        if found is None or found.figure is not None or found.trust is Trust.VOID or not found.corrections:
            return None
        return running_figure(found.corrections)

    @property
    def carried(self) -> tuple[str, ...]:
        """The changes made since the governing readings were taken."""
        return self.governing.carried if self.governing else ()

    @property
    def read_again(self) -> bool:
        """Whether the engine itself changed since, so that the reading must be repeated."""
        return self.governing is not None and self.governing.read_again

    @property
    def touches(self) -> bool:
        """Whether parts touched in any of its readings."""
        return any(finding.contact for finding in (self.governing, *self.others) if finding)

    @property
    def state(self) -> State:
        """The state of the figure against the limit."""
        if self.touches:
            # Metal contact is short of any minimum, whether or not a limit is set.
            return State.SHORT
        bound = self.governing.bound if self.governing else Bound.EXACT
        judged = judge(self.figure, self.limit, bound)
        if self.floor is not None and judged is not State.SHORT and self.is_metal:
            judged = judge(self.figure, Limit(low=self.floor), bound)
        return State.QUESTIONED if judged is State.CLEAR and self.questioned else judged

    @property
    def is_metal(self) -> bool:
        """Whether parts touched when read, or growth and stretch would use up the clearance."""
        if self.touches or self.floor is None:
            return self.touches
        bound = self.governing.bound if self.governing else Bound.EXACT
        return judge(self.figure, Limit(low=self.floor), bound) in (State.SHORT, State.CLOSE)

    @property
    def margin(self) -> float | None:
        """What is left above the minimum, [mm] or [1]."""
        return margin(self.figure, self.limit)

    @property
    def proved(self) -> bool:
        """Whether nothing is left to do: clear by readings of the present engine, or signed off."""
        return self.signed is not None or (self.state is State.CLEAR and not self.read_again)

    @property
    def seems_left(self) -> float | None:
        """What an unread place seems to have above its minimum, U counted [mm]; None if unknown."""
        figure = self.inferred.figure if self.inferred else None
        return None if figure is None else figure.value - figure.expanded - (self.limit.low or 0.0)
