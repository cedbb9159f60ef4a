"""manage.py summarise: makes anew what the stand shows of builds, where another version's arithmetic made it."""

from typing import Any

from django.core.management.base import BaseCommand
from django_scopes import scopes_disabled

from bench.builds.summaries import of_another_arithmetic, summarise_old

AT_ONCE = 200


class Command(BaseCommand):
    """Make old summaries anew, a few hundred at a time; safe while people work, and to be stopped and repeated."""

    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:  # noqa: ARG002, Django's signature
        """Make them."""
        made = 0
        with scopes_disabled():
            while found := list(of_another_arithmetic()[:AT_ONCE]):
                made += summarise_old(found)
        if made:
            self.stdout.write(f"{made} builds summarised.")
