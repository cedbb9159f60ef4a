"""manage.py load_demo: load the demo shop if it is missing."""

from typing import Any

from django.core.management.base import BaseCommand

from web.demo.scenario import load


class Command(BaseCommand):
    """Load the demo's made-up shop, people and builds; existing ones are kept."""

    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:  # noqa: ARG002, Django's signature
        """Load it."""
        load()
