"""The running budget as bars about zero: growth gives, stretch and bearings take."""

from collections.abc import Sequence
from dataclasses import dataclass

from mockup.quantity.corrections import Correction, running_figure
from mockup.quantity.shown import format_bench
from mockup.quantity.value import Unit

LEFT, RIGHT = 210.0, 520.0
ROW = 26.0


@dataclass(frozen=True, slots=True)
class Term:
    """One term of the budget."""

    words: str
    amount: str
    y: float
    x: float
    width: float
    total: bool


@dataclass(frozen=True, slots=True)
class BudgetBars:
    """The whole drawing."""

    height: float
    zero_x: float
    bars: tuple[Term, ...]


def budget_bars(corrections: Sequence[Correction], unit: Unit) -> BudgetBars | None:
    """Return the drawing of a budget and its sum on one scale; None without any."""
    if not corrections:
        return None
    lines = [(correction.text, correction.delta.value) for correction in corrections]
    lines.append(("together", running_figure(corrections).value))
    low, high = min(0.0, *(mm for _, mm in lines)), max(0.0, *(mm for _, mm in lines))
    scale = (RIGHT - LEFT) / ((high - low) or 1.0)
    zero_x = LEFT - low * scale

    def term(at: int, words: str, mm: float) -> Term:
        shown = format_bench(mm, unit)
        return Term(
            words=words,
            amount=shown if mm < 0 or not float(shown) else f"+{shown}",
            y=ROW * (at + 0.5) + 6,
            x=round(min(zero_x, zero_x + mm * scale), 1),
            width=round(max(abs(mm) * scale, 1.0), 1),
            total=at == len(corrections),
        )

    bars = tuple(term(at, words, mm) for at, (words, mm) in enumerate(lines))
    return BudgetBars(ROW * len(lines) + 12, round(zero_x, 1), bars)
