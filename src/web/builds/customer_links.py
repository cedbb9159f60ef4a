"""Links for a customer: made, found by their token, ended. Each action is in the history."""

import secrets
from datetime import timedelta

from django.db.models import QuerySet
from django.utils import timezone
from django_scopes import scopes_disabled

from mockup.base.faults import Fault, refuse
from web.builds.entry_kinds import Edited
from web.builds.models import Build, SheetLink
from web.builds.services import locked, write
from web.shops.models import Person
from web.shops.passes import digest_of

DAYS = (7, 30, 90)
"""How long a link may be valid."""
LONGEST_WORDS = 60
MOST_AT_ONCE = 20


def make_link(build: Build, by: Person, days: int, words: str = "") -> str:
    """Make a link; returns its token, which is shown once and not stored. Raises FaultsError."""
    words = words.strip()
    refuse([] if days in DAYS else [Fault("link_for", "Choose how long it is valid.")])
    refuse([] if len(words) <= LONGEST_WORDS else [Fault("link_for", f"At most {LONGEST_WORDS} characters.")])
    token = secrets.token_urlsafe(32)
    with locked(build) as now:
        open_now = alive(now).count()
        refuse([] if open_now < MOST_AT_ONCE else [Fault("link_for", f"{open_now} links are open. End one first.")])
        ends = timezone.now() + timedelta(days=days)
        SheetLink.objects.create(build=now, digest=digest_of(token), words=words, made_by=by, ends_at=ends)
        write(
            now, Edited(changes=((f"link to the build sheet {words}".strip(), "none", f"until {ends:%Y-%m-%d}"),)), by
        )
    return token


def alive(build: Build) -> QuerySet[SheetLink]:
    """Return the valid links of a build."""
    found: QuerySet[SheetLink] = SheetLink.objects.filter(build=build, ended_at=None, ends_at__gt=timezone.now())
    return found.select_related("made_by")


def end_link(build: Build, number: int, by: Person) -> None:
    """End a link of a build. Raises SheetLink.DoesNotExist; an ended one is unchanged."""
    with locked(build) as now:
        link = SheetLink.objects.get(build=now, pk=number)
        if link.ended_at is None:
            link.ended_at = timezone.now()
            link.save(update_fields=["ended_at"])
            write(now, Edited(changes=((f"link to the build sheet {link.words}".strip(), "open", "ended"),)), by)


def end_links_of(person: Person, by: Person) -> None:
    """End every link a person made, because their access ended."""
    for link in SheetLink.objects.filter(made_by=person, ended_at=None, ends_at__gt=timezone.now()):
        end_link(link.build, link.pk, by)


def link_of(token: str) -> SheetLink | None:
    """Return the valid link of a token, or None. Called for visitors without a shop."""
    with scopes_disabled():
        found: SheetLink | None = (
            SheetLink.objects.filter(digest=digest_of(token), ended_at=None, ends_at__gt=timezone.now())
            .filter(made_by__is_active=True)
            .select_related("build__shop", "made_by__shop")
            .first()
        )
    return found
