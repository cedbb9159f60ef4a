"""The life of a block: its builds, what was cut off its deck, what is left."""

from typing import Any

from django import forms
from django.db.models import Q

from mockup.engine.block_limit import BlockLimit
from mockup.memory.shop_memory import deck_cut_mm
from web.builds.entry_kinds import item_of
from web.builds.models import Build
from web.page.build_page import BuildPage
from web.page.fields import CoreFormMixin, LengthField, UnitFormMixin

MOST_BUILDS = 50


class BlockLimitForm(CoreFormMixin, UnitFormMixin, forms.Form):
    """The most that may be cut off the deck in all."""

    CORE = BlockLimit
    deck_cut_mm = LengthField(label="The deck may be cut by, in all")
    said = forms.CharField(label="as who says", max_length=200, required=False, help_text="the maker’s figure")


def life_of(page: BuildPage) -> dict[str, Any]:
    """Return every build of this block, oldest first, with cuts and what is left."""
    build, unit = page.build, page.unit
    first = build.first_of_block_id or build.pk
    line = Build.objects.filter(Q(pk=first) | Q(first_of_block=first)).select_related("summary").order_by("begun_at")
    limits = [row for row in page.log if row.kind == "block-limit" and not row.struck_reason]
    limit: BlockLimit | None = item_of("block-limit", limits[-1].data) if limits else None
    cut = deck_cut_mm(page.report.job)
    planned = deck_cut_mm(page.report.job, planned=True)
    return {
        "line": [_one(one, build) for one in line[:MOST_BUILDS]],
        "cut": cut,
        "limit": limit,
        "left": limit.deck_cut_mm - cut if limit else None,
        "left_after": limit.deck_cut_mm - planned if limit and planned > cut else None,
        "unit": unit,
    }


def _one(build: Build, here: Build) -> dict[str, Any]:
    facts = build.summary.facts
    return {
        "build": build,
        "here": build.pk == here.pk,
        "state": build.summary.state,
        "cut": facts.get("deck_cut", 0.0),
        "cam": facts.get("cam", ""),
    }
