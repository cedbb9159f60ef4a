"""Stacks of base shims that can be made from the shelf."""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations_with_replacement

import numpy as np
from numpy.typing import NDArray

from mockup.engine.gasket import MOST_SHIMS_MM
from mockup.quantity.shown import mm_text
from mockup.quantity.typed import LengthError, parse_bench_length
from mockup.quantity.value import Unit

MOST_IN_A_STACK = 6


@dataclass(frozen=True, slots=True)
class ShimKind:
    """One thickness of shim on the shelf [mm], and how many there are."""

    thickness_mm: float
    stock: int


@dataclass(frozen=True, slots=True)
class Stacks:
    """Every stack, thinnest first, among equals the one with the fewest shims.

    ``totals_mm`` shape (n,) [mm]; ``counts`` shape (n, kinds), how many of each kind a stack uses [1].
    """

    kinds: tuple[ShimKind, ...]
    totals_mm: NDArray[np.float64]
    counts: NDArray[np.int64]

    def words(self, at: int) -> tuple[float, ...]:
        """Return the thicknesses of stack ``at`` [mm], thickest first; empty for none."""
        found = [k.thickness_mm for k, count in zip(self.kinds, self.counts[at], strict=True) for _ in range(count)]
        return tuple(sorted(found, reverse=True))


_TIMES = re.compile(r"^(?P<thickness>.+?)\s*(?:[x×*]\s*(?P<count>[0-9]+))?$", re.IGNORECASE)
MOST_KINDS = 6


def parse_shims(text: str, unit: Unit) -> tuple[ShimKind, ...]:
    """Read typed shims: ``0.30 x 2; 0.65``; without a count there are as many as needed.

    Raises LengthError.
    """
    parts = [part.strip() for part in re.split(r"[;\n]|,\s", text) if part.strip()]
    if len(parts) > MOST_KINDS:
        raise LengthError(f"At most {MOST_KINDS} thicknesses.")
    return tuple(_typed_kind(part, unit) for part in parts)


def _typed_kind(part: str, unit: Unit) -> ShimKind:
    found = _TIMES.match(part)
    assert found is not None, "any text matches"
    thickness_mm = parse_bench_length(found["thickness"], unit)
    if not 0 < thickness_mm <= MOST_SHIMS_MM:
        raise LengthError(f"“{part}”: a shim is up to {mm_text(MOST_SHIMS_MM)} thick.")
    return ShimKind(thickness_mm, min(int(found["count"] or MOST_IN_A_STACK), MOST_IN_A_STACK))


def stacks_of(kinds: Sequence[ShimKind], most: int = MOST_IN_A_STACK) -> Stacks:
    """Return all stacks of up to ``most`` shims that the stock allows, including the empty one."""
    rows = [
        np.bincount(chosen, minlength=len(kinds)) if chosen else np.zeros(len(kinds), dtype=np.int64)
        for size in range(most + 1)
        for chosen in combinations_with_replacement(range(len(kinds)), size)
    ]
    counts = np.array(rows, dtype=np.int64).reshape(len(rows), len(kinds))
    counts = counts[(counts <= np.array([kind.stock for kind in kinds], dtype=np.int64)).all(axis=1)]
    totals = counts @ np.array([kind.thickness_mm for kind in kinds], dtype=float)
    # Equal totals made of different shims differ in the last bits; rounded, the fewest shims come first.
    order = np.lexsort((counts.sum(axis=1), np.round(totals, 6)))
    return Stacks(tuple(kinds), totals[order], counts[order])


def alike_under_all(stacks: Stacks, now_mm: Iterable[float]) -> tuple[float, ...]:
    """Return how far all barrels' shims could change alike [mm], smallest first.

    ``now_mm``: the shims under each barrel [mm]. Each barrel's new stack must be possible with the stock alone.
    """
    totals = np.round(stacks.totals_mm, 6)
    possible = [{round(float(total) - now, 6) for total in totals} for now in now_mm]
    return tuple(sorted(set.intersection(*possible) - {0.0}, key=lambda more: (abs(more), more)) if possible else ())
