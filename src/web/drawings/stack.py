"""The gasket between head and deck in the mock-up, beside the final one."""

from dataclasses import dataclass

from mockup.engine.gasket import GasketState
from mockup.quantity.shown import format_bench
from mockup.quantity.value import BENCH_UNIT, Unit
from mockup.report import Report

SCALE = 34.0
"""Drawing units a millimetre."""
THICKEST = 70.0
HEAD = 46.0


@dataclass(frozen=True, slots=True)
class Pile:
    """One pile of head, gasket and block."""

    title: str
    gasket: float
    block_y: float
    words: str
    dashed: bool


@dataclass(frozen=True, slots=True)
class Stack:
    """The mock-up's pile and the final one, drawn side by side."""

    piles: tuple[Pile, ...]


def stack(report: Report) -> Stack:
    """Return the drawing of the latest mock-up beside the final gasket."""
    job = report.job
    piles = []
    if job.mockups:
        latest = job.mockups[-1]
        known = {
            GasketState.FINAL: "the one it will run",
            GasketState.SAME_USED: "the same kind, used",
            GasketState.COMPRESSED: "compressed",
            GasketState.SNUGGED: "free thickness, only snugged" if latest.gasket_mm else "new, only snugged",
            GasketState.NONE: "metal to metal",
            GasketState.UNKNOWN: "not known",
        }[latest.gasket_state]
        amount = f"{_thick(latest.gasket_mm, job.unit)}, " if latest.gasket_mm else ""
        # A mock-up gasket of unknown thickness is drawn as thick as the final one.
        stood = latest.gasket or (job.final_gasket and job.final_gasket.thickness)
        unsure = stood is None or latest.gasket_state is GasketState.UNKNOWN
        piles.append(_pile(f"mock-up {latest.key}", stood.value if stood else 1.0, amount + known, dashed=unsure))
    final = job.final_gasket
    words = f"{_thick(final.compressed_mm, job.unit)}, compressed" if final else "not chosen yet"
    piles.append(_pile("as it will run", final.compressed_mm if final else 0.0, words, dashed=final is None))
    return Stack(tuple(piles))


def _thick(mm: float, unit: Unit) -> str:
    return f"{format_bench(mm, unit)} {BENCH_UNIT[unit]}"


def _pile(title: str, gasket_mm: float, words: str, *, dashed: bool) -> Pile:
    gasket = round(min(gasket_mm * SCALE, THICKEST), 1)
    return Pile(title, gasket, HEAD + gasket, words, dashed)
