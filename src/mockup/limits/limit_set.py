"""Sets of limits: the minimums a build is judged against.

The schools disagree, and none is law.

Figures are common practice, no source. The makers' own figures always win: the last set is for them.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from types import MappingProxyType

from mockup.base.faults import Fault, refuse
from mockup.base.registry import Declared
from mockup.limits.judge import Limit
from mockup.quantity.value import MM_PER_INCH


class LimitName(Declared):
    """One limit that a set may contain; lengths [mm], ratios [1].

    The check judged by it declares it.

    ``label``: its name where it is edited. ``is_length``: False for plain numbers. ``low``, ``high``: its range, in its
    own unit. ``usual``: what the ready-made sets ask, by key. ``upper_of``: the limit it may not be below.
    """

    label: str
    is_length: bool = True
    low: float = 0.0
    high: float = 20.0
    usual: Mapping[str, float] = MappingProxyType({})
    upper_of: "LimitName | None" = None


def in_inches(**sheets: float) -> Mapping[str, float]:
    """Return limits in [mm] from inches, by the key of their set with underscores for dashes."""
    return {key.replace("_", "-"): round(inch * MM_PER_INCH, 6) for key, inch in sheets.items()}


class Coverage(StrEnum):
    """How many cylinders must be checked for piston-to-valve before a build may be called clear."""

    EVERY = "every"
    SAMPLE = "sample"


@dataclass(frozen=True, slots=True)
class Edit:
    """One limit changed for one build: the new figure (None removes the limit) and the reason given."""

    value: float | None
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class LimitSet:
    """A named set of limits; each check declares its figures for this set.

    ``judged_loaded``: the figures are meant for readings taken with running springs. ``question``: something about the
    set itself worth asking.
    """

    key: str
    title: str
    says: str
    coverage: Coverage = Coverage.SAMPLE
    judged_loaded: bool = False
    question: str = ""
    edits: Mapping[LimitName, Edit] = field(default_factory=dict)

    def __post_init__(self) -> None:
        found = []
        for name, figure in self.effective.items():
            if not name.low <= figure <= name.high:
                found.append(Fault(name, f"From {name.low:g} to {name.high:g}{' mm' if name.is_length else ''}."))
        refuse(found or self._upside_down())

    def _upside_down(self) -> list[Fault]:
        effective = self.effective
        return [
            Fault(name, "The upper limit is below the lower one.")
            for name, figure in effective.items()
            if name.upper_of in effective and figure < effective[name.upper_of]
        ]

    @property
    def limits(self) -> dict[LimitName, float]:
        """What the set asks, before this build's edits: lengths [mm], ratios [1]; limits not set are left out."""
        return {name: name.usual[self.key] for name in LimitName if self.key in name.usual}

    @property
    def effective(self) -> dict[LimitName, float]:
        """The limits of this build with its edits, [mm] or [1]; limits not set are left out."""
        wanted = {**self.limits, **{name: edit.value for name, edit in self.edits.items()}}
        return {name: figure for name, figure in wanted.items() if figure is not None}

    def edited(self, edits: Mapping[LimitName, Edit]) -> "LimitSet":
        """Return the set with this build's edits."""
        return replace(self, edits=dict(edits))

    def minimum(self, name: LimitName) -> Limit:
        """Return the limit of one clearance."""
        return self._limit(name, None)

    def window(self, low: LimitName, high: LimitName) -> Limit:
        """Return the window between two limits."""
        return self._limit(low, high)

    def _limit(self, low: LimitName, high: LimitName | None) -> Limit:
        names = [name for name in (low, high) if name]
        edited = any(name in self.edits for name in names)
        effective = self.effective
        source = f"{self.title}, edited on this build" if edited else self.title
        return Limit(effective.get(low), effective.get(high) if high else None, source, edited)
