"""The final assembly list as edited: generated items and items written by hand."""

from dataclasses import dataclass

from mockup.advice.assembly_list import final_assembly
from web.builds.entry_kinds import AssemblyItem, BuildSigned, item_of
from web.page.build_page import BuildPage
from web.page.read_fields import record_line
from web.shops.clock import stamp

OWN = "own-"
"""The prefix of the key of an item written by hand."""


@dataclass(frozen=True, slots=True)
class AssemblyRow:
    """One item as shown: text, what asks for it, done or left out, and by whom."""

    key: str
    words: str
    why: str
    done: bool
    out: bool
    record: str


def assembly_rows(page: BuildPage) -> list[AssemblyRow]:
    """Return the list: generated items with their edits, then those written by hand."""
    newest: dict[str, tuple[AssemblyItem, str]] = {}
    for row in page.log:
        if row.kind == "assembly" and not row.struck_reason:
            item = item_of(row.kind, row.data)
            newest[item.key] = (item, record_line(row.by.shown_name, stamp(row.at), ""))
    found = []
    for made in final_assembly(page.report):
        own, record = newest.pop(made.key, (AssemblyItem(key=made.key), ""))
        found.append(AssemblyRow(made.key, own.words or made.words, made.why, own.done, own.out, record))
    found += [
        AssemblyRow(key, own.words, "added", own.done, own.out, record)
        for key, (own, record) in newest.items()
        if key.startswith(OWN)
    ]
    return found


@dataclass(frozen=True, slots=True)
class Signed:
    """A signature for the build: whose, when, words, and whether it still holds.

    ``still_open``: the items that were signed for though they were not done.
    """

    key: str
    words: str
    note: str
    still_open: tuple[str, ...]
    holds: bool


def signatures(page: BuildPage) -> list[Signed]:
    """Return the valid signatures of the build, newest first."""
    found = []
    for row in reversed(page.log):
        if row.kind == "signature" and not row.struck_reason:
            item: BuildSigned = item_of(row.kind, row.data)
            words = record_line(row.by.shown_name, stamp(row.at), "")
            found.append(Signed(row.key, words, item.note, item.still_open, item.standing == page.report.as_it_stands))
    return found
