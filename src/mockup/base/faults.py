"""Faults in data, in words for people: where it is wrong, and what would be right."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Fault:
    """One fault: the field's name (dotted where nested) and a message for a person."""

    path: str
    message: str


class FaultsError(ValueError):
    """Unusable data; carries every fault found, not only the first."""

    def __init__(self, faults: Iterable[Fault]) -> None:
        self.faults = tuple(faults)
        super().__init__("; ".join(f"{fault.path}: {fault.message}" for fault in self.faults))


def out_of_range(part: object, ranges: Mapping[str, tuple[float, float]]) -> list[Fault]:
    """Return a fault for every field of ``part`` outside its range; NaN is outside."""
    return [
        Fault(name, f"From {low:g} to {high:g}.")
        for name, (low, high) in ranges.items()
        if not low <= getattr(part, name) <= high
    ]


def refuse(faults: Iterable[Fault]) -> None:
    """Raise FaultsError if there is at least one fault."""
    found = tuple(faults)
    if found:
        raise FaultsError(found)


def message_of(error: ValueError) -> str:
    """Return the message of an error, without the paths that only make sense in a file."""
    if isinstance(error, FaultsError):
        return " ".join(fault.message for fault in error.faults)
    return str(error)
