"""The life of a block: every build of it in a line, what was cut off its deck, and what is left before a limit."""

from typing import Any

from django import forms
from django.db.models import Q

from bench.builds.kinds import item_of
from bench.builds.models import Build
from bench.page.bench import Bench
from bench.page.fields import LengthField, UnitFormMixin
from mockup.engine.block_limit import BlockLimit
from mockup.faults import FaultsError
from mockup.memory import deck_cut_mm
from mockup.quantity.value import Unit

MOST_BUILDS = 50


class BlockLimitForm(UnitFormMixin, forms.Form):
    """How much may be cut off the deck in all."""

    item: BlockLimit
    deck_cut_mm = LengthField(label="The deck may be cut by, in all")
    said = forms.CharField(label="as who says", max_length=200, required=False, help_text="the maker’s figure")

    def __init__(self, unit: Unit, data: Any = None) -> None:
        super().__init__(data, auto_id="limit-%s")
        self.read_in(unit)
        self.dress()

    def clean(self) -> dict[str, Any]:
        """Hold it against the core."""
        found = super().clean() or {}
        if not self.errors:
            try:
                self.item = BlockLimit(**found)
            except FaultsError as error:
                for fault in error.faults:
                    self.add_error(fault.path, fault.message)
        return found


def life_of(bench: Bench) -> dict[str, Any]:
    """Every build of this one's block, oldest first; how much was cut in this one, and what is left."""
    build, unit = bench.build, bench.unit
    first = build.first_of_block_id or build.pk
    line = Build.objects.filter(Q(pk=first) | Q(first_of_block=first)).select_related("summary").order_by("begun_at")
    limits = [row for row in bench.book if row.kind == "block-limit" and not row.struck_reason]
    limit: BlockLimit | None = item_of("block-limit", limits[-1].data) if limits else None
    cut = deck_cut_mm(bench.report.job)
    planned = sum(max(one.front_mm, one.rear_mm) for one in bench.report.job.changes if _is_planned(one))
    return {
        "line": [_one(one, build) for one in line[:MOST_BUILDS]],
        "cut": cut,
        "limit": limit,
        "left": limit.deck_cut_mm - cut if limit else None,
        "left_after": limit.deck_cut_mm - cut - planned if limit and planned else None,
        "unit": unit,
    }


def _is_planned(change: Any) -> bool:
    return change.order is None and change.kind.name == "DECK_CUT"


def _one(build: Build, here: Build) -> dict[str, Any]:
    facts = build.summary.facts
    return {
        "build": build,
        "here": build.pk == here.pk,
        "state": build.summary.state,
        "cut": facts.get("deck_cut", 0.0),
        "cam": facts.get("cam", ""),
    }
