"""manage.py load_demo: the demo shop, where it is not there yet."""

from typing import Any

from django.core.management.base import BaseCommand

from bench.demo.scenario import load


class Command(BaseCommand):
    """Load the demo's made-up shop, people and builds; what is there already is kept."""

    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:  # noqa: ARG002, Django's signature
        """Load it."""
        load()
