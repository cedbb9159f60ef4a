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


class LimitUnit(StrEnum):
    """What a limit's figure is: a length [mm], a number [1], or a share of a length [1]."""

    LENGTH = "length"
    NUMBER = "number"
    OF_BORE = "of the bore"
    OF_LIFT = "of the valve lift"

    @property
    def scales(self) -> bool:
        """Whether the limit is a share of a length, so that a larger engine is asked for more."""
        return self in (LimitUnit.OF_BORE, LimitUnit.OF_LIFT)


class LimitName(Declared):
    """One limit that a set may contain; the check judged by it declares it.

    ``label``: its name where it is edited. ``unit``: what its figure is. ``low``, ``high``: its range, in that unit.
    ``usual``: what the ready-made sets ask, by key. ``upper_of``: the limit it may not be below; ``window``: the name
    of both together.
    """

    label: str
    unit: LimitUnit = LimitUnit.LENGTH
    low: float = 0.0
    high: float = 20.0
    usual: Mapping[str, float] = MappingProxyType({})
    upper_of: "LimitName | None" = None
    window: str = ""

    @property
    def is_length(self) -> bool:
        """Whether its figure is a length [mm]."""
        return self.unit is LimitUnit.LENGTH

    @property
    def range_text(self) -> str:
        """Its range in words, in its unit."""
        if self.unit.scales:
            return f"From {100 * self.low:g} to {100 * self.high:g} % {self.unit}."
        return f"From {self.low:g} to {self.high:g}{' mm' if self.is_length else ''}."


def in_inches(**sheets: float) -> Mapping[str, float]:
    """Return limits in [mm] from inches, by the key of their set with underscores for dashes."""
    return {key.replace("_", "-"): round(inch * MM_PER_INCH, 6) for key, inch in sheets.items()}


class Coverage(StrEnum):
    """How many cylinders must be checked for piston-to-valve before a build may be called clear."""

    EVERY = "every"
    SAMPLE = "sample"


@dataclass(frozen=True, slots=True)
class Edit:
    """One limit changed for one build: the new figure, or None for no limit, and the reason."""

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
                found.append(Fault(name, name.range_text))
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
        """What the set asks before this build's edits, in own units; unset limits left out."""
        return {name: name.usual[self.key] for name in LimitName.all() if self.key in name.usual}

    @property
    def effective(self) -> dict[LimitName, float]:
        """The limits of this build with its edits, in own units; unset limits left out."""
        wanted = {**self.limits, **{name: edit.value for name, edit in self.edits.items()}}
        return {name: figure for name, figure in wanted.items() if figure is not None}

    def edited(self, edits: Mapping[LimitName, Edit]) -> "LimitSet":
        """Return the set with this build's edits."""
        return replace(self, edits=dict(edits))

    def minimum(self, name: LimitName) -> Limit:
        """Return the limit of one clearance."""
        return self._limit(name, None)

    def share(self, name: LimitName, of_mm: float) -> Limit:
        """Return a limit that is a share of a length of the engine [mm], as a length [mm].

        ``of_mm``: the bore, or the lift of the valve, as the limit's unit says.
        """
        limit = self._limit(name, None)
        if limit.low is None:
            return limit
        source = f"{limit.source}, {100 * limit.low:g} % {name.unit}"
        return replace(limit, low=limit.low * of_mm, source=source)

    def window(self, low: LimitName, high: LimitName) -> Limit:
        """Return the window between two limits."""
        return self._limit(low, high)

    def _limit(self, low: LimitName, high: LimitName | None) -> Limit:
        names = [name for name in (low, high) if name]
        edited = any(name in self.edits for name in names)
        effective = self.effective
        source = f"{self.title}, edited on this build" if edited else self.title
        return Limit(effective.get(low), effective.get(high) if high else None, source, edited)
