"""One report: every check of a job, what it adds up to, and what to do next. Views choose from it and draw."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from mockup.checks.check import Check, Finding, Kind
from mockup.checks.compression import Volumes
from mockup.checks.running import Budget
from mockup.engine.block import Engine
from mockup.engine.valves import Place
from mockup.job import Job
from mockup.limits.judge import State
from mockup.motion.slider_crank import SliderCrank
from mockup.readings.basis import Basis
from mockup.readings.cam import ArrivedLift, CamReport
from mockup.readings.deck import DeckFigure
from mockup.readings.deck_plane import DeckPlane
from mockup.readings.pushrods import PushrodFigure
from mockup.readings.sweep import SweepFigure, SweepReading
from mockup.readings.tdc import TdcFigure
from mockup.readings.volumes import VolumeFigure, VolumePart
from mockup.stations import Station

WORST_FIRST = (
    State.SHORT,
    State.OVER,
    State.CLOSE,
    State.QUESTIONED,
    State.NOT_MEASURED,
    State.CLEAR,
    State.NO_MINIMUM,
)
FAILING = (State.SHORT, State.OVER, State.CLOSE, State.QUESTIONED)


class Verdict(StrEnum):
    """What the whole build amounts to."""

    CLEAR = "clear"
    SIGNED = "clear or signed off"
    NOT_CLEAR = "not clear"
    UNFINISHED = "unfinished"


@dataclass(frozen=True, slots=True)
class Summary:
    """All checks of one kind in one cell: the tightest of them speaks for the kind.

    ``measured`` of ``total`` places have a figure; ``wanted`` more must be measured before the kind is done.
    ``waiting``: what was read and cannot be carried to the running engine yet, the smallest first.
    """

    kind: Kind
    tightest: Check
    measured: int
    total: int
    wanted: int
    waiting: tuple[Check, ...] = ()

    @property
    def state(self) -> State:
        """The state of the tightest check."""
        return self.tightest.state

    @property
    def carried(self) -> tuple[str, ...]:
        """What was changed since the tightest check was read."""
        return self.tightest.carried


@dataclass(frozen=True, slots=True)
class Question:
    """Something surprising: kept, but asked about. ``evidence`` is the key of the reading, or empty.

    ``against``: labels of the checks whose figure it contradicts; while it is open none of them is clear.
    """

    text: str
    evidence: str = ""
    against: tuple[str, ...] = ()


def station_read_at(job: Job, finding: Finding) -> Station:
    """Where a piston-to-valve finding was read: the indicator station by its evidence, else the clay station."""
    swept = {reading.key for reading in job.of(SweepReading)}
    return Station.SWEEP if swept & set(finding.evidence) else Station.CLAY


@dataclass(frozen=True, slots=True)
class Step:
    """One thing to do, at one station, in words."""

    station: Station
    text: str
    cylinder: int | None = None


@dataclass(frozen=True, slots=True)
class TdcReport:
    """Where TDC is on the wheel, and what watching a needle alone would have cost on this engine.

    ``dwell_deg``: crank degrees over which a needle read to half a thou seems to stand still [deg].
    ``companion``: the cylinder at overlap while number 1 fires, None where the firing order does not say.
    """

    figure: TdcFigure | None
    dwell_deg: float
    companion: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Report:
    """Everything ``evaluate`` has to say of one job.

    ``basis``: what its figures rest on, to carry them to other engines. ``engine``: the job's with its done changes in
    it. ``deck``, ``parts``, ``volumes`` and ``budgets`` are by cylinder number, for the cylinders where they are known.
    """

    job: Job
    basis: Basis = field(repr=False, compare=False)
    checks: tuple[Check, ...]
    tdc: TdcReport
    deck: Mapping[int, DeckFigure]
    planes: tuple[DeckPlane, ...]
    parts: Mapping[VolumePart, Mapping[int, VolumeFigure]]
    budgets: Mapping[int, Budget]
    engine: Engine
    crank: SliderCrank
    cam: CamReport
    sweeps: tuple[SweepFigure, ...]
    arrived: tuple[ArrivedLift, ...]
    pushrods: Mapping[Place, PushrodFigure]
    volumes: Mapping[int, Volumes]
    summaries: tuple[Summary, ...]
    questions: tuple[Question, ...]
    steps: tuple[Step, ...]

    @property
    def counting(self) -> list[Check]:
        """The checks the verdict rests on: those required, those failing that were asked for, and metal on metal."""
        return [check for check in self.checks if check.required or (check.state in FAILING and counts(check))]

    @property
    def verdict(self) -> Verdict:
        """Not clear where anything is short, over or too close; unfinished where required checks lack a reading.

        A required check that was read before the engine itself was changed still lacks the reading that proves it.
        What somebody has signed off counts as settled, and is said.
        """
        counting = self.counting
        open_states = {check.state for check in counting if not check.signed}
        if open_states & set(FAILING):
            return Verdict.NOT_CLEAR
        if not all(check.proved for check in counting):
            return Verdict.UNFINISHED
        return Verdict.SIGNED if any(check.signed for check in counting) else Verdict.CLEAR

    @property
    def ready(self) -> bool:
        """Whether nothing stands between the build and final assembly: every check clear or signed off."""
        return self.verdict in (Verdict.CLEAR, Verdict.SIGNED)

    @property
    def as_it_stands(self) -> str:
        """How every check that counts stands, in one line of text that changes when any of them does."""
        counting = self.counting
        return ";".join(f"{c.label} {c.state} {'' if c.daylight is None else f'{c.daylight:.4f}'}" for c in counting)

    @property
    def tightest(self) -> Check | None:
        """The check with the least daylight of those that are lengths and worst off; None before any figure."""
        judged = [check for check in self.checks if check.kind.is_length and check.daylight is not None]
        return worst(judged) if judged else None

    def running_mm(self, check: Check) -> float | None:
        """A cold clearance along the bore of one cylinder less its running budget [mm]; None without either."""
        known = self.budgets.get(check.cylinder)
        return check.figure.value + known.total_mm if known and check.figure else None

    @property
    def budget_mm(self) -> float | None:
        """What the running estimate would use along the bore at its worst cylinder [mm]; None where it is not known."""
        return min((one.total_mm for one in self.budgets.values()), default=None)

    def of_kind(self, kind: Kind) -> tuple[Check, ...]:
        """All checks of one kind, cylinder by cylinder."""
        return tuple(check for check in self.checks if check.kind is kind)


def counts(check: Check) -> bool:
    """Return whether a failing check blocks the verdict: one that was not asked for does not.

    What may meet as the engine turns does all the same; a quench does so only where growth and stretch use it up.
    """
    may_meet = check.kind.meets and check.floor is None and check.state is State.SHORT
    return check.asked or check.is_metal or may_meet


def worst(checks: Sequence[Check]) -> Check:
    """The worst-off check: by state, then by daylight; a check with a figure speaks before one without.

    ``checks`` holds at least one.
    """

    def rank(check: Check) -> tuple[int, int, float]:
        room = check.daylight if check.daylight is not None else float("inf")
        return (0 if check.figure else 1, WORST_FIRST.index(check.state), room)

    return min(checks, key=rank)
