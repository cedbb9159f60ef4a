"""One check of a report: a figure, its limit, its state, where it comes from and how it got there."""

from dataclasses import dataclass
from enum import StrEnum

from mockup.checks.judge import Bound, Limit, State, daylight, judge
from mockup.quantity.value import Value


class Kind(StrEnum):
    """What is checked."""

    FACE_INTAKE = "intake face"
    FACE_EXHAUST = "exhaust face"
    RADIAL = "radial"
    QUENCH = "quench"
    RATIO = "compression ratio"

    @property
    def is_length(self) -> bool:
        """Whether its figures are lengths [mm]; a compression ratio is a plain number [1]."""
        return self is not Kind.RATIO


class Trust(StrEnum):
    """What a reading's conditions allow it to prove."""

    SOUND = "sound"
    LOADED = "loaded"
    OPTIMISTIC = "optimistic, not proof"
    VOID = "void"


@dataclass(frozen=True, slots=True)
class Rung:
    """One correction, on the way from the figure as read to the figure as it will run.

    ``delta`` is what it adds [mm] with its standard uncertainty; the first rung is the reading itself.
    """

    text: str
    delta: Value


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What one set of readings says of one check, before several are weighed against each other.

    ``figure`` is the running figure (None where it cannot be had yet), ``ladder`` how it came about,
    ``evidence`` the keys of the readings it rests on, ``cautions`` what a person must know of it.
    """

    figure: Value | None
    bound: Bound = Bound.EXACT
    trust: Trust = Trust.SOUND
    method: str
    ladder: tuple[Rung, ...] = ()
    evidence: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """One check of one place. ``governing`` is what decides it; ``others`` are shown beside it.

    ``cylinder`` counts from 1; ``number`` is the valve of that side, 0 where the check is not of a valve.
    ``required``: the build is not ready while this is not clear.
    """

    kind: Kind
    cylinder: int
    number: int = 0
    label: str
    limit: Limit
    governing: Finding | None = None
    others: tuple[Finding, ...] = ()
    required: bool = True
    missing: str = ""

    @property
    def figure(self) -> Value | None:
        """The running figure, [mm] or [1]; None where there is none."""
        return self.governing.figure if self.governing else None

    @property
    def state(self) -> State:
        """How the figure stands against the limit."""
        bound = self.governing.bound if self.governing else Bound.EXACT
        return judge(self.figure, self.limit, bound)

    @property
    def daylight(self) -> float | None:
        """What is left above the minimum, [mm] or [1]."""
        return daylight(self.figure, self.limit)


def running_figure(ladder: tuple[Rung, ...]) -> Value:
    """The sum of a ladder's rungs, their uncertainties independent [mm]."""
    total = Value(0.0)
    for rung in ladder:
        total += rung.delta
    return total
