"""manage.py migrate: refuse newer data, repair the first days', then run Django's."""

from typing import Any

from django.core.management.commands import migrate
from django.db import connections

from web.shops.repair import refuse_newer, repair


class Command(migrate.Command):
    """Migrate the database."""

    def handle(self, *args: Any, **options: Any) -> Any:
        """Migrate. Raises CommandError for data of a newer version."""
        connection = connections[options["database"]]
        refuse_newer(connection)
        if options.get("app_label") is None:
            repair(connection)
        return super().handle(*args, **options)
