"""How typing becomes a deck clearance: in words, by feelers, or as the tool in hand counts."""

from dataclasses import dataclass
from enum import StrEnum

from mockup.quantity.typed import LengthError, bench_mm, parse_bench_length, take_apart
from mockup.quantity.typed_gap import GapTyped, parse_feelers
from mockup.quantity.value import DeckSign, Unit


class Counts(StrEnum):
    """How the tool in hand counts; a plain number has no meaning without it."""

    WORDS = "words"
    DIAL = "dial"
    DEPTH = "depth"


@dataclass(frozen=True, slots=True)
class Tool:
    """How the tool counts, and what it read on the deck beside the bore [mm]."""

    counts: Counts = Counts.WORDS
    zero_mm: float = 0.0


def parse_deck_reading(text: str, unit: Unit, sign: DeckSign, tool: Tool | None = None) -> GapTyped:
    """Read a deck clearance as it is typed at the bench.

    Accepted: words (``5 out``, ``11 down``, ``zero``); feelers under a straight edge (``goes 11 not 12``, below the
    deck unless ``out`` is added), a uniform interval; or a plain number from a tool zeroed on the deck. A dial that
    rises as its plunger goes in gives deck - piston, a depth gauge piston - deck. Raises LengthError.
    """
    cleaned = " ".join(text.strip().lower().split())
    out = cleaned.endswith("out")
    feelers = parse_feelers(cleaned.removesuffix("out").removesuffix("down"), unit)
    if feelers:
        return GapTyped(-feelers.mm if out else feelers.mm, feelers.half_width_mm)
    tool = tool or Tool()
    if tool.counts is Counts.WORDS or any(word in cleaned for word in (*_DOWN_WORDS, *_OUT_WORDS, *_ZERO_WORDS)):
        return GapTyped(parse_deck(text, unit, sign))
    typed = take_apart(cleaned)
    read = (-1.0 if typed.sign == "-" else 1.0) * bench_mm(typed, unit)
    return GapTyped(tool.zero_mm - read if tool.counts is Counts.DIAL else read - tool.zero_mm)


def dial_reading(divisions: int, shown: float, turns: int, *, backwards: bool) -> float:
    """Return a dial's total reading, ``divisions`` a turn, from where its needle stopped [1].

    Forwards: turns x divisions + shown. Backwards: turns x divisions + (divisions - shown) mod divisions. Raises
    LengthError for a needle position beyond the dial.
    """
    if not (2 <= divisions <= 1000 and 0 <= shown <= divisions and 0 <= turns <= 100):
        raise LengthError("The needle stops from 0 to the last division, after 0 to 100 whole turns.")
    return turns * divisions + ((divisions - shown) % divisions if backwards else shown)


_DOWN_WORDS = ("down", "below", "in the hole", "in hole")
_OUT_WORDS = ("out of the hole", "out", "up", "above", "proud")
_ZERO_WORDS = ("zero", "level", "flush", "zero deck")


def parse_deck(text: str, unit: Unit, sign: DeckSign) -> float:
    """Read a deck clearance: ``5 out``, ``11 down``, ``zero``, or a number by the convention.

    Returns a scalar [mm], positive in the hole (crown below the deck). Raises LengthError on a bare number, whose
    direction is unknown, and on the bare word "in", which could be inches.
    """
    cleaned = " ".join(text.strip().lower().split())
    if cleaned in _ZERO_WORDS:
        return 0.0
    for words, factor in ((_DOWN_WORDS, 1.0), (_OUT_WORDS, -1.0)):
        for word in words:
            if cleaned.endswith(word) and len(cleaned) > len(word):
                return factor * parse_bench_length(cleaned[: -len(word)], unit)
    typed = take_apart(cleaned)
    if not typed.number:
        return 0.0
    if cleaned.endswith("in"):
        raise LengthError("“in” could be inches or in the hole. Type down or out, as in 5 down.")
    if not typed.sign:
        raise LengthError("Which way? Type down (in the hole) or out, as in 5 down.")
    positive_down = 1.0 if sign is DeckSign.DOWN_POSITIVE else -1.0
    return positive_down * (-1.0 if typed.sign == "-" else 1.0) * bench_mm(typed, unit)
