"""The final assembly list as somebody left it: made lines ticked, reworded or left out, and lines of their own."""

from dataclasses import dataclass

from bench.builds.kinds import AssemblyLine, BuildSigned, item_of
from bench.page.bench import Bench
from bench.page.entering import record_line
from bench.shops.clock import stamp
from mockup.assembly import final_assembly

OWN = "own-"
"""How the key of a line written by hand begins."""


@dataclass(frozen=True, slots=True)
class AssemblyRow:
    """One line as shown: what it says, what asks for it, whether it is done or left out, and by whom."""

    key: str
    words: str
    why: str
    done: bool
    out: bool
    record: str


def assembly_lines(bench: Bench) -> list[AssemblyRow]:
    """The list: made from the build as it is now, with what was written about its lines, then lines of their own."""
    newest: dict[str, tuple[AssemblyLine, str]] = {}
    for row in bench.book:
        if row.kind == "assembly" and not row.struck_reason:
            item = item_of(row.kind, row.data)
            newest[item.key] = (item, record_line(row.by.shown_name, stamp(row.at), ""))
    found = []
    for made in final_assembly(bench.report):
        own, record = newest.pop(made.key, (AssemblyLine(key=made.key), ""))
        found.append(AssemblyRow(made.key, own.words or made.words, made.why, own.done, own.out, record))
    found += [
        AssemblyRow(key, own.words, "added", own.done, own.out, record)
        for key, (own, record) in newest.items()
        if key.startswith(OWN)
    ]
    return found


@dataclass(frozen=True, slots=True)
class Signed:
    """A signature under the whole build: whose, when, their words, and whether the build still stands as it was.

    ``still_open``: the lines of the list that were signed for though they were not done.
    """

    key: str
    words: str
    note: str
    still_open: tuple[str, ...]
    holds: bool


def signatures(bench: Bench) -> list[Signed]:
    """The signatures under the build that were not struck out, newest first."""
    found = []
    for row in reversed(bench.book):
        if row.kind == "signature" and not row.struck_reason:
            item: BuildSigned = item_of(row.kind, row.data)
            words = record_line(row.by.shown_name, stamp(row.at), "")
            found.append(Signed(row.key, words, item.note, item.still_open, item.standing == bench.report.as_it_stands))
    return found
