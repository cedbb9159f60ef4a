"""One check of a report: a figure, its limit, its state, where it comes from and how it got there."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any, Protocol

from mockup.declared import Declared
from mockup.engine.valves import Side
from mockup.limits.judge import Bound, Limit, State, daylight, judge
from mockup.quantity.ladder import Part, Rung, parts_of, running_figure
from mockup.quantity.value import Value
from mockup.readings.basis import Basis
from mockup.record import Record
from mockup.stations import Station
from mockup.topics import EVERYTHING, Topic


class Kind(Declared):
    """What is checked.

    ``label``: over its cell of the strip. ``is_length``: its figures are lengths [mm]; others are plain numbers [1].
    ``make``: its checks, from all that was read. ``station``: where it is read, None where its readings say it.
    ``shows_at``: the stations that show its checks. ``of_a_valve``: it is of one valve, whose name its cell says.
    ``only_worse``: it has a cell only where it says something that the kind before it does not. ``ask``: what to do
    where it is required and not read, in words that a cylinder follows; empty where a step of its own says it.
    ``meets``: short of its limit, parts may meet as the engine turns: that is looked at before all else.
    ``topics``: what a build is checked for where this is asked; one that was read is judged all the same.
    ``evenly``: in what its figure grows evenly with a cut; of a ratio that is the volume left.
    """

    label: str
    make: "Callable[[Basis], Iterable[Check]]"
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
        """Raise ValueError where it asks for a reading without saying where."""
        if self.ask and self.station is None:
            raise ValueError(f"Kind {self.name} asks to be read: say at which station.")


class Trust(StrEnum):
    """What a reading's conditions allow it to prove."""

    SOUND = "sound"
    LOADED = "loaded"
    ESTIMATE = "an estimate by the card"
    OPTIMISTIC = "optimistic, not proof"
    VOID = "void"


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What one set of readings says of one check, before several are weighed against each other.

    ``figure`` is the running figure (None where it cannot be had yet), ``ladder`` how it came about,
    ``evidence`` the keys of the readings it rests on, ``cautions`` what a person must know of it.
    ``carried``: what was changed since it was read and only counted in, in words; ``read_again`` where that
    was the engine itself, so that arithmetic is no proof. ``contact``: it was read as touching, as it stood. ``again``:
    its ladder carried to another engine, or to very many; by it the ladder itself was made.
    """

    figure: Value | None
    bound: Bound = Bound.EXACT
    trust: Trust = Trust.SOUND
    method: str
    ladder: tuple[Rung, ...] = ()
    evidence: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    carried: tuple[str, ...] = ()
    read_again: bool = False
    contact: bool = False
    again: Callable[[Basis], tuple[Rung, ...]] | None = field(default=None, repr=False, compare=False)

    @property
    def by_clay(self) -> bool:
        """Whether it was read by clay, whose train is loaded and bends."""
        return self.method.startswith("clay")

    @property
    def parts(self) -> tuple[Part, ...]:
        """What the u of the figure is made of, the largest part first."""
        return parts_of(self.ladder)


class Signature(Protocol):
    """A person's word for a check that is not clear: why, and whose."""

    @property
    def reason(self) -> str:
        """Why it may run so."""
        ...

    @property
    def record(self) -> Record:
        """Who signed, and when."""
        ...


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """One check of one place. ``governing`` is what decides it; ``others`` are shown beside it.

    ``cylinder`` counts from 1; ``side`` and ``number`` are of its valve, None and 0 where the check is not of one.
    ``required``: the build is not ready while this is not clear. ``inferred``: what another cylinder's reading and
    both decks say of this one where nothing was read; it never counts as measured. ``signed``: a person answers for it
    as it stands, though it is not clear; ``lapsed``: somebody did, for another figure than the one it has now.
    ``asked``: the build is checked for it. ``questioned``: the open questions that contradict its figure, in words.
    ``floor``: below it parts meet under any limits [mm]; None where nothing can.
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
        """The running figure, [mm] or [1]; None where there is none."""
        return self.governing.figure if self.governing else None

    @property
    def as_mocked_up(self) -> Value | None:
        """What was read, where it cannot be carried to the running engine yet; None where it can, or says nothing.

        In the figure's own unit, [mm] or [1]. It is judged by nothing.
        """
        found = self.governing
        if found is None or found.figure is not None or found.trust is Trust.VOID or not found.ladder:
            return None
        return running_figure(found.ladder)

    @property
    def carried(self) -> tuple[str, ...]:
        """What was changed since the governing readings were taken."""
        return self.governing.carried if self.governing else ()

    @property
    def read_again(self) -> bool:
        """Whether the engine itself was changed since, so that the reading must be taken again."""
        return self.governing is not None and self.governing.read_again

    @property
    def touches(self) -> bool:
        """Whether any of its readings touched, as it stood."""
        return any(finding.contact for finding in (self.governing, *self.others) if finding)

    @property
    def state(self) -> State:
        """How the figure stands against the limit."""
        if self.touches:
            # Metal on metal is short of any minimum, whether the sheet has one or not.
            return State.SHORT
        bound = self.governing.bound if self.governing else Bound.EXACT
        judged = judge(self.figure, self.limit, bound)
        if self.floor is not None and judged is not State.SHORT and self.is_metal:
            judged = judge(self.figure, Limit(low=self.floor), bound)
        return State.QUESTIONED if judged is State.CLEAR and self.questioned else judged

    @property
    def is_metal(self) -> bool:
        """Whether parts meet, or may: they touched, or what growth and stretch use is not left."""
        if self.touches or self.floor is None:
            return self.touches
        bound = self.governing.bound if self.governing else Bound.EXACT
        return judge(self.figure, Limit(low=self.floor), bound) in (State.SHORT, State.CLOSE)

    @property
    def daylight(self) -> float | None:
        """What is left above the minimum, [mm] or [1]."""
        return daylight(self.figure, self.limit)

    @property
    def proved(self) -> bool:
        """Whether nothing is left to do about it: clear by readings of the engine as it is, or signed off."""
        return self.signed is not None or (self.state is State.CLEAR and not self.read_again)

    @property
    def seems_left(self) -> float | None:
        """What an unread place seems to have left above its minimum, U counted [mm]; None where nothing is inferred."""
        figure = self.inferred.figure if self.inferred else None
        return None if figure is None else figure.value - figure.expanded - (self.limit.low or 0.0)
