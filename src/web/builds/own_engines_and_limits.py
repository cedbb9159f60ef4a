"""The shop's own engines and limits: put on the shelf from a build, and used for another."""

from typing import Any

from mockup.base.faults import Fault, refuse
from mockup.limits.limit_set import LimitName, LimitSet
from mockup.limits.schools import READY_MADE
from web.builds.entry_kinds import LimitEdit
from web.builds.models import Build
from web.builds.services import choose_limits, locked, write
from web.shelf.kept import kept_engine
from web.shelf.models import ShelfEngine, ShelfLimits
from web.shelf.services import put_on
from web.shops.models import Person

LONGEST_NAME = 60
OWN = "own-"
"""The prefix of the key of a shop's own limits, before its number."""


def _named(name: str, taken: bool) -> str:
    name = name.strip()
    refuse(
        [] if 0 < len(name) <= LONGEST_NAME else [Fault("name", f"Give it a name of 1 to {LONGEST_NAME} characters.")]
    )
    refuse([Fault("name", f"“{name}” is already on the shelf.")] if taken else [])
    return name


def shelve_engine(build: Build, by: Person, name: str) -> ShelfEngine:
    """Put a build's engine on the shelf, to start others from.

    Raises FaultsError without a unique name.
    """
    name = _named(name, ShelfEngine.objects.filter(name=name.strip(), off_since=None).exists())
    row = ShelfEngine(
        name=name,
        unit=build.unit,
        deck_sign=build.deck_sign,
        limits=build.limits,
        engine_kept=kept_engine(build.engine),
    )
    put_on(row, by)
    return row


def shelve_limits(limits: LimitSet, by: Person, name: str) -> ShelfLimits:
    """Put a build's limits on the shelf as the shop's own. Raises FaultsError."""
    name = _named(name, ShelfLimits.objects.filter(name=name.strip(), off_since=None).exists())
    edits = {str(limit): edit.value for limit, edit in limits.edits.items()}
    row = ShelfLimits(name=name, base=limits.key, edits=edits)
    put_on(row, by)
    return row


def own_limits() -> list[tuple[str, str]]:
    """Return the shop's own limits as choices: key and name."""
    return [(f"{OWN}{row.pk}", f"{row.name}, the shop’s own") for row in ShelfLimits.objects.filter(off_since=None)]


def judge_by(build: Build, chosen: str, limits: LimitSet, by: Person) -> None:
    """Judge a build by a ready-made set of limits, or by the shop's own with its edits.

    ``limits``: the present ones. A limit edited on this build that the shop's own set leaves alone returns to the
    base's value.
    """
    if not chosen.startswith(OWN):
        choose_limits(build, chosen, by)
        return
    own = ShelfLimits.objects.get(pk=int(chosen.removeprefix(OWN)), off_since=None)
    base = READY_MADE[own.base]
    wanted: dict[LimitName, Any] = {LimitName.named(name): value for name, value in own.edits.items()}
    back = {limit: base.limits.get(limit) for limit in limits.edits if limit not in wanted}
    with locked(build) as now:
        choose_limits(now, own.base, by)
        for limit, value in {**back, **wanted}.items():
            write(now, LimitEdit(limit=limit, value=value, reason=f"the shop’s limits {own.name}"), by)
