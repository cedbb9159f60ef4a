"""One report: every check of a job, the verdict, and what to do next.

Views choose from it and draw.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from mockup.base.stations import Station
from mockup.checks.check import Check, Finding, Kind
from mockup.checks.compression import Volumes
from mockup.checks.running import Budget
from mockup.context import EvaluationContext
from mockup.engine.block import Engine
from mockup.engine.valves import Place
from mockup.fit.cam_report import ArrivedLift, CamReport
from mockup.fit.deck_figures import DeckFigure
from mockup.fit.deck_plane import DeckPlane
from mockup.fit.pushrod_figures import PushrodFigure
from mockup.fit.swept_valve import SweepFigure
from mockup.fit.volume_figures import VolumeFigure
from mockup.job import Job
from mockup.limits.judge import State
from mockup.motion.slider_crank import SliderCrank
from mockup.readings.sweep import SweepReading
from mockup.readings.tdc import TdcFigure
from mockup.readings.volumes import VolumePart

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
    """The verdict on the whole build."""

    CLEAR = "clear"
    SIGNED = "clear or signed off"
    NOT_CLEAR = "not clear"
    UNFINISHED = "unfinished"


@dataclass(frozen=True, slots=True)
class Summary:
    """All checks of one kind in one cell, represented by the tightest of them.

    ``measured`` of ``total`` places have a figure; ``wanted`` more must be measured before the kind is complete.
    ``waiting``: findings that cannot be carried to the running engine yet, smallest first.
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
        """The changes made since the tightest check was read, in words."""
        return self.tightest.carried


@dataclass(frozen=True, slots=True)
class Question:
    """Something surprising that is kept and asked about.

    ``evidence`` is the key of the reading, or empty.

    ``against``: labels of the checks it contradicts; none of them is clear while the question is open.
    """

    text: str
    evidence: str = ""
    against: tuple[str, ...] = ()


def station_read_at(job: Job, finding: Finding) -> Station:
    """Return where a valve finding was read: the indicator station, else the clay station."""
    swept = {reading.key for reading in job.of(SweepReading)}
    return Station.SWEEP if swept & set(finding.evidence) else Station.CLAY


@dataclass(frozen=True, slots=True)
class Step:
    """One thing to do, at one station."""

    station: Station
    text: str
    cylinder: int | None = None


@dataclass(frozen=True, slots=True)
class TdcReport:
    """Where TDC is on the degree wheel, and the error of watching the needle alone.

    ``dwell_deg``: crank degrees over which a needle read to half a thou appears to stand still [deg]. ``companion``:
    the cylinder at overlap TDC while number 1 is at firing TDC, None where the firing order does not tell.
    """

    figure: TdcFigure | None
    dwell_deg: float
    companion: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Report:
    """The result of ``evaluate`` for one job.

    ``context``: what the figures were computed from, used to carry them to changed engines. ``engine``: the job's
    engine with the done changes applied. ``deck``, ``parts``, ``volumes`` and ``budgets`` are keyed by cylinder number
    and hold the known cylinders.
    """

    job: Job
    context: EvaluationContext = field(repr=False, compare=False)
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
        """The checks that decide the verdict: required, failing ones asked for, metal contact."""
        return [check for check in self.checks if check.required or (check.state in FAILING and counts(check))]

    @property
    def verdict(self) -> Verdict:
        """Not clear if anything is short, over or close; unfinished if a reading is missing.

        A required check read before its part of the engine changed still lacks the reading that proves it. A signed-off
        check counts as settled, and the verdict says so.
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
        """Whether the build is ready for final assembly: every check clear or signed off."""
        return self.verdict in (Verdict.CLEAR, Verdict.SIGNED)

    @property
    def as_it_stands(self) -> str:
        """The state of every counting check as one line, which changes with any of them."""
        counting = self.counting
        return ";".join(f"{c.label} {c.state} {'' if c.margin is None else f'{c.margin:.4f}'}" for c in counting)

    @property
    def tightest(self) -> Check | None:
        """The length check with the least margin among the worst state; None before any figure."""
        judged = [check for check in self.checks if check.kind.is_length and check.margin is not None]
        return worst(judged) if judged else None

    def running_mm(self, check: Check) -> float | None:
        """Return a cold clearance less its cylinder's running budget [mm]; None if unknown."""
        known = self.budgets.get(check.cylinder)
        return check.figure.value + known.total_mm if known and check.figure else None

    def hot_mm(self, check: Check) -> float | None:
        """Return a cold quench with the builder's own growth [mm]; None where either is unknown."""
        hot = self.job.hot_growth
        return check.figure.value + hot.hot_mm if hot and check.figure else None

    @property
    def budget_mm(self) -> float | None:
        """The largest running budget of any cylinder along the bore [mm]; None if unknown."""
        return min((one.total_mm for one in self.budgets.values()), default=None)

    def of_kind(self, kind: Kind) -> tuple[Check, ...]:
        """Return all checks of one kind, in cylinder order."""
        return tuple(check for check in self.checks if check.kind is kind)


def counts(check: Check) -> bool:
    """Return whether a failing check blocks the verdict; one that was not asked for does not.

    Parts that may touch always block. A quench blocks only where growth and stretch use it up.
    """
    may_meet = check.kind.meets and check.floor is None and check.state is State.SHORT
    return check.asked or check.is_metal or may_meet


def worst(checks: Sequence[Check]) -> Check:
    """Return the worst of at least one check: by state, then margin, figures first."""

    def rank(check: Check) -> tuple[int, int, float]:
        room = check.margin if check.margin is not None else float("inf")
        return (0 if check.figure else 1, WORST_FIRST.index(check.state), room)

    return min(checks, key=rank)
