"""manage.py migrate: Django's own, after data of a newer version is refused and data of the first days is put right."""

from typing import Any

from django.core.management.commands import migrate
from django.db import connections

from bench.shops.repair import refuse_newer, repair


class Command(migrate.Command):
    """Bring the database up to date."""

    def handle(self, *args: Any, **options: Any) -> Any:
        """Bring it up to date. Raises CommandError for data of a newer version."""
        connection = connections[options["database"]]
        refuse_newer(connection)
        if options.get("app_label") is None:
            repair(connection)
        return super().handle(*args, **options)
