"""Print the migrations of this version, one a line; a backup of a newer one has others."""

import django
from django.db.migrations.loader import MigrationLoader

from web.shops.repair import FIRST_DAY, SHELF_BEFORE


def main() -> None:
    """Print them."""
    django.setup()
    loader = MigrationLoader(None, ignore_no_migrations=True)
    # Two replaced ones: data from before the first is repaired, data from before the second is refused with a message.
    for app, name in sorted({*(loader.disk_migrations or {}), SHELF_BEFORE, FIRST_DAY}):
        print(f"{app}.{name}")


if __name__ == "__main__":
    main()
