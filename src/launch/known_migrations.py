"""Prints the migrations that this version of the program has, a line each: a backup of a newer one has others."""

import django
from django.db.migrations.loader import MigrationLoader


def main() -> None:
    """Print them."""
    django.setup()
    loader = MigrationLoader(None, ignore_no_migrations=True)
    for app, name in sorted(loader.disk_migrations or {}):
        print(f"{app}.{name}")


if __name__ == "__main__":
    main()
