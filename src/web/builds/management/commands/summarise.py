"""manage.py summarise: make summaries again that another version made."""

from typing import Any

from django.core.management.base import BaseCommand
from django_scopes import scopes_disabled

from web.builds.summaries import of_another_arithmetic, summarise_old

AT_ONCE = 200


class Command(BaseCommand):
    """Recompute old summaries, a few hundred at a time; safe while people work, and restartable."""

    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:  # noqa: ARG002, Django's signature
        """Recompute them."""
        made = 0
        with scopes_disabled():
            while found := list(of_another_arithmetic()[:AT_ONCE]):
                made += summarise_old(found)
        if made:
            self.stdout.write(f"{made} builds summarised.")
