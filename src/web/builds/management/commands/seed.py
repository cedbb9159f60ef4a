"""manage.py seed N: N made-up builds in a shop's list, to see it with many."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django_scopes import scope, scopes_disabled

from web.builds.seed import seed
from web.shops.models import Person

FEWEST_LINES = 20


class Command(BaseCommand):
    """Make them for the shop of one person; existing builds are not touched."""

    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        """Add the number of builds, the length of their logs, and the author."""
        parser.add_argument("builds", type=int)
        parser.add_argument("--lines", type=int, default=100, help="readings in each, 20 or more")
        parser.add_argument("--person", default="ottoline", help="the user name of their author")

    def handle(self, *args: Any, **options: Any) -> None:  # noqa: ARG002, Django's signature
        """Make the builds."""
        if options["builds"] < 1 or options["lines"] < FEWEST_LINES:
            raise CommandError(f"At least one build, and {FEWEST_LINES} entries in each.")
        with scopes_disabled():
            person = Person.objects.filter(username=options["person"]).select_related("shop").first()
        if person is None or person.shop is None:
            raise CommandError(f"No member of a shop has the user name “{options['person']}”.")
        with scope(shop=person.shop):
            seed(person, options["builds"], options["lines"])
        self.stdout.write(f"{options['builds']:,} builds with {options['lines']:,} readings each.")
