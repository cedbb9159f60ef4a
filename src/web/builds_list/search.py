"""Finding a build among thousands: the query, and the builds that match it, in order."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from urllib.parse import urlencode

from django.core.paginator import Paginator
from django.db.models import F, QuerySet
from django.db.models.functions import Lower

from mockup.report import Verdict
from web.builds.models import Build
from web.builds.models.summary import UNREADABLE
from web.shops.models import Person

ON_A_PAGE = 25
LONGEST_SEARCH = 100
MOST_FOUND = 1_000
"""A search counts and pages at most this many; a reader refines the search instead of reading on."""
STATES = {
    "": "any state",
    str(Verdict.NOT_CLEAR): "not clear",
    str(Verdict.UNFINISHED): "unfinished",
    str(Verdict.CLEAR): "clear",
    str(Verdict.SIGNED): "clear or signed off",
    UNREADABLE: "unreadable",
}
ORDERS = {"": "touched last", "tight": "tightest first", "name": "by name", "begun": "begun last"}
_BY = {
    "": (F("summary__touched_at").desc(), F("summary__pk").desc()),
    "tight": (F("summary__rank").asc(), F("summary__pk").asc()),
    "name": (Lower("name").asc(), F("pk").asc()),
    "begun": (F("begun_at").desc(), F("pk").desc()),
}


@dataclass(frozen=True, slots=True)
class Asked:
    """The query of the list; invalid choices are ignored."""

    words: str = ""
    state: str = ""
    order: str = ""
    mine: bool = False
    away: bool = False
    page: str = "1"

    @property
    def anything(self) -> bool:
        """Whether it leaves some builds out."""
        return bool(self.words or self.state or self.mine or self.away)

    def address(self) -> str:
        """Return the query as part of an address after ?, without the page."""
        said = {"q": self.words, "state": self.state, "order": self.order}
        said |= {"mine": "1" if self.mine else "", "away": "1" if self.away else ""}
        return urlencode({name: value for name, value in said.items() if value})


def asked_of(query: Mapping[str, str]) -> Asked:
    """Return the query in an address."""
    state, order = query.get("state", ""), query.get("order", "")
    return Asked(
        words=query.get("q", "").strip()[:LONGEST_SEARCH],
        state=state if state in STATES else "",
        order=order if order in ORDERS else "",
        mine=bool(query.get("mine")),
        away=bool(query.get("away")),
        page=query.get("page", "1"),
    )


def found_by(asked: Asked, person: Person) -> QuerySet[Build]:
    """Return the shop's builds that match, in the order asked for, each with its summary."""
    found = _fitting(asked, person).select_related("summary", "summary__touched_by")
    # Every build has a summary: stated here, so that the database may follow the summaries' index.
    return found.filter(summary__isnull=False).order_by(*_BY[asked.order])


class Pages(Paginator):  # type: ignore[type-arg]
    """Pages of builds; counted without their summaries where no summary field is queried."""

    def __init__(self, asked: Asked, person: Person) -> None:
        super().__init__(found_by(asked, person), ON_A_PAGE)
        self._fitting = _fitting(asked, person)
        self._looked_for = asked.anything

    @cached_property
    def _counted(self) -> int:
        counted = self._fitting.order_by()
        return counted[: MOST_FOUND + 1].count() if self._looked_for else counted.count()

    @cached_property
    def count(self) -> int:
        """Return how many builds there are on all pages [1], or of those found."""
        return min(self._counted, MOST_FOUND) if self._looked_for else self._counted

    @property
    def more(self) -> bool:
        """Return whether there are more than on all pages."""
        return self._counted > self.count


def _fitting(asked: Asked, person: Person) -> QuerySet[Build]:
    found: QuerySet[Build] = Build.objects.filter(put_away_at__isnull=not asked.away)
    for word in asked.words.lower().split():
        found = found.filter(summary__words__contains=word)
    if asked.state:
        found = found.filter(summary__state=asked.state)
    if asked.mine:
        found = found.filter(summary__people__contains=person.pk)
    return found
