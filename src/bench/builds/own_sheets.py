"""The shop's own engines and margin sheets: put on the shelf from a build, and taken for another."""

from typing import Any

from bench.builds.kinds import LimitEdit
from bench.builds.models import Build
from bench.builds.services import choose_sheet, locked, write
from bench.shelf.kept import kept_engine
from bench.shelf.models import ShelfEngine, ShelfMargins
from bench.shelf.services import put_on
from bench.shops.models import Person
from mockup.faults import Fault, refuse
from mockup.limits.margins import LimitName, MarginSheet
from mockup.limits.sheets import READY_MADE

LONGEST_NAME = 60
OWN = "own-"
"""What the key of a shop's own sheet begins with, before its number."""


def _named(name: str, taken: bool) -> str:
    name = name.strip()
    refuse([] if 0 < len(name) <= LONGEST_NAME else [Fault("name", f"Give it a name of 1 to {LONGEST_NAME} letters.")])
    refuse([Fault("name", f"“{name}” is on the shelf already.")] if taken else [])
    return name


def shelve_engine(build: Build, by: Person, name: str) -> ShelfEngine:
    """Put a build's engine on the shelf, to begin others from. Raises FaultsError without a name of its own."""
    name = _named(name, ShelfEngine.objects.filter(name=name.strip(), off_since=None).exists())
    row = ShelfEngine(
        name=name,
        unit=build.unit,
        deck_sign=build.deck_sign,
        sheet=build.sheet,
        engine_kept=kept_engine(build.engine),
    )
    put_on(row, by)
    return row


def shelve_margins(sheet: MarginSheet, by: Person, name: str) -> ShelfMargins:
    """Put the limits that hold on a build on the shelf as a sheet of the shop's own. Raises FaultsError."""
    name = _named(name, ShelfMargins.objects.filter(name=name.strip(), off_since=None).exists())
    edits = {str(limit): edit.value for limit, edit in sheet.edits.items()}
    row = ShelfMargins(name=name, base=sheet.key, edits=edits)
    put_on(row, by)
    return row


def own_sheets() -> list[tuple[str, str]]:
    """The shop's own sheets to choose from: key and name."""
    return [(f"{OWN}{row.pk}", f"{row.name}, the shop’s own") for row in ShelfMargins.objects.filter(off_since=None)]


def judge_by(build: Build, chosen: str, sheet: MarginSheet, by: Person) -> None:
    """Judge a build by a ready-made sheet, or by one of the shop's own: its base, and a line for each other limit.

    ``sheet``: the one it is judged by now. What was changed for this build and the shop's sheet does not change is as
    the base has it again.
    """
    if not chosen.startswith(OWN):
        choose_sheet(build, chosen, by)
        return
    own = ShelfMargins.objects.get(pk=int(chosen.removeprefix(OWN)), off_since=None)
    base = READY_MADE[own.base]
    wanted: dict[LimitName, Any] = {LimitName.named(name): value for name, value in own.edits.items()}
    back = {limit: base.limits.get(limit) for limit in sheet.edits if limit not in wanted}
    with locked(build) as now:
        choose_sheet(now, own.base, by)
        for limit, value in {**back, **wanted}.items():
            write(now, LimitEdit(limit=limit, value=value, reason=f"the shop’s sheet {own.name}"), by)
