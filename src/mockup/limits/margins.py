"""Margin sheets: the minimums a build is judged against. The schools disagree; none is law.

Figures are common practice, no source. The makers' own figures always win: the last sheet is for them.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum

from mockup.faults import Fault, refuse
from mockup.limits.judge import Limit


class LimitName(StrEnum):
    """The limits a sheet may set; lengths [mm], ratio [1]."""

    FACE_INTAKE = "face_intake"
    FACE_EXHAUST = "face_exhaust"
    RADIAL = "radial"
    CROWN = "crown"
    QUENCH_LOW = "quench_low"
    QUENCH_HIGH = "quench_high"
    RATIO_LOW = "ratio_low"
    RATIO_HIGH = "ratio_high"

    @property
    def is_length(self) -> bool:
        """Whether the limit is a length [mm]; the others are compression ratios [1]."""
        return self not in (LimitName.RATIO_LOW, LimitName.RATIO_HIGH)


LIMIT_RANGES = {
    **{name: (0.0, 20.0) for name in LimitName if name.is_length},
    LimitName.RATIO_LOW: (2.0, 30.0),
    LimitName.RATIO_HIGH: (2.0, 30.0),
}


class Coverage(StrEnum):
    """How many cylinders must be checked for piston-to-valve before a build may be called clear."""

    EVERY = "every"
    SAMPLE = "sample"


@dataclass(frozen=True, slots=True)
class Edit:
    """One limit changed for one build: the new figure (None takes the limit away) and the reason given."""

    value: float | None
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class MarginSheet:
    """A named set of limits. ``limits`` maps a limit's name to a figure [mm] or ratio [1]; absent: not set.

    ``judged_loaded``: the figures are meant for readings taken with running springs.
    ``question`` is something about the sheet itself worth asking.
    """

    key: str
    title: str
    says: str
    limits: Mapping[LimitName, float]
    coverage: Coverage = Coverage.SAMPLE
    judged_loaded: bool = False
    question: str = ""
    edits: Mapping[LimitName, Edit] = field(default_factory=dict)

    def __post_init__(self) -> None:
        found = []
        for name, figure in self.effective.items():
            low, high = LIMIT_RANGES[name]
            if not low <= figure <= high:
                found.append(Fault(name, f"From {low:g} to {high:g}{' mm' if name.is_length else ''}."))
        refuse(found or self._upside_down())

    def _upside_down(self) -> list[Fault]:
        effective = self.effective
        pairs = ((LimitName.QUENCH_LOW, LimitName.QUENCH_HIGH), (LimitName.RATIO_LOW, LimitName.RATIO_HIGH))
        return [
            Fault(high, "The upper limit lies below the lower one.")
            for low, high in pairs
            if low in effective and high in effective and effective[high] < effective[low]
        ]

    @property
    def effective(self) -> dict[LimitName, float]:
        """The limits that hold on this build, edits included; a limit that is not set is left out."""
        wanted = {**self.limits, **{name: edit.value for name, edit in self.edits.items()}}
        return {name: figure for name, figure in wanted.items() if figure is not None}

    def edited(self, edits: Mapping[LimitName, Edit]) -> "MarginSheet":
        """The same sheet with this build's edits on top."""
        return replace(self, edits=dict(edits))

    def minimum(self, name: LimitName) -> Limit:
        """The limit of one clearance."""
        return self._limit(name, None)

    def window(self, low: LimitName, high: LimitName) -> Limit:
        """The window between two limits."""
        return self._limit(low, high)

    def _limit(self, low: LimitName, high: LimitName | None) -> Limit:
        names = [name for name in (low, high) if name]
        edited = any(name in self.edits for name in names)
        effective = self.effective
        source = f"{self.title}, edited on this build" if edited else self.title
        return Limit(effective.get(low), effective.get(high) if high else None, source, edited)
