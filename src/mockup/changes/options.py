"""How a kind of change is offered: its what-if field, its range, its part in a remedy."""

from dataclasses import dataclass
from enum import StrEnum

from mockup.engine.valves import Side


class WorkedOn(StrEnum):
    """What a machinist works on for a change."""

    NOTHING = "nothing"
    PISTON = "piston"
    HEAD = "head"
    BLOCK = "block"


@dataclass(frozen=True, slots=True, kw_only=True)
class Range:
    """The range of a change's amount in its unit, and the message for one outside."""

    low: float
    high: float
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WhatIfField:
    """The form field for a change: name, label, group, and how it is typed.

    ``{side}`` in a label is replaced for a change of one side's valves. ``own``: the form makes this field itself.
    """

    name: str
    label: str
    group: str
    order: float
    help_text: str = ""
    signed: bool = False
    own: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Cut:
    """A change that can be made by any amount, and is solved for its cure in the shop's steps.

    ``cures``: kinds of check, by their words, and whether it brings them under their upper limit. ``label`` and
    ``help_text``: of the field for the deepest cut. ``untried``: its name where no cut is allowed. ``fine``: it is cut
    in the steps of reliefs, else of heads and decks. ``own``: the form makes that field itself.
    """

    cures: tuple[tuple[str, bool], ...]
    label: str
    help_text: str
    untried: str
    fine: bool = False
    own: bool = False


class Only(StrEnum):
    """The engines in which a change can be made."""

    ANY = "any"
    ONE_DECK = "one deck a bank"
    SEPARATE_BARRELS = "separate barrels"
    PUSHRODS_CHOSEN = "pushrods chosen"


@dataclass(frozen=True, slots=True, kw_only=True)
class RemedyOption:
    """A kind of change as part of a remedy: its work relative to a gasket, its sides, its words.

    ``order``: when it is best done among the others. ``cost``: what it takes, in the shop's words. ``gain``: the name
    of one unit in the table of gains, empty to leave it out. ``cut``: set where it can be made by any amount.
    """

    work: float
    order: float
    words: str
    cost: str
    sides: tuple[Side | None, ...] = (None,)
    gain: str = ""
    cut: Cut | None = None
