"""What is wrong with data, said for people: where, and what would be right."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing wrong: the field's name (dotted where nested) and words for a person."""

    path: str
    message: str


class FaultsError(ValueError):
    """Data that cannot be worked with; carries every fault found, not only the first."""

    def __init__(self, faults: Iterable[Fault]) -> None:
        self.faults = tuple(faults)
        super().__init__("; ".join(f"{fault.path}: {fault.message}" for fault in self.faults))


def out_of_range(part: object, ranges: Mapping[str, tuple[float, float]]) -> list[Fault]:
    """A fault for every field of ``part`` that lies outside its range; what is no number lies outside."""
    return [
        Fault(name, f"From {low:g} to {high:g}.")
        for name, (low, high) in ranges.items()
        if not low <= getattr(part, name) <= high
    ]


def refuse(faults: Iterable[Fault]) -> None:
    """Raise FaultsError where there is at least one fault."""
    found = tuple(faults)
    if found:
        raise FaultsError(found)


def message_of(error: ValueError) -> str:
    """Return the words of an error, without the paths that only a file has."""
    if isinstance(error, FaultsError):
        return " ".join(fault.message for fault in error.faults)
    return str(error)
