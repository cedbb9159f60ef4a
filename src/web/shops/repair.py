"""Repair databases of the first two days, whose landed migrations were edited.

What later migrations build on is repaired here, before they run. What only later pages need is repaired by migrations
(builds 0012, exchange 0002).
"""

from django.core.management.base import CommandError
from django.db.backends.base.base import BaseDatabaseWrapper
from django.db.migrations.loader import MigrationLoader
from django.db.migrations.recorder import MigrationRecorder
from django.db.migrations.state import StateApps

LOG = ("builds", "0001_builds_and_their_book")
RECORDS = ("builds", "0003_records_as_the_core_has_them")
"""The migration that removes the columns of engines and mock-ups."""
FIRST_DAY = ("builds", "0001_builds_and_their_entries")
SHELF = ("shelf", "0001_gaskets_shims_pushrods_and_instruments")
SHELF_BEFORE = ("shelf", "0001_gaskets_shims_and_instruments")


def refuse_newer(connection: BaseDatabaseWrapper) -> None:
    """Raise CommandError for data of another version that this one cannot migrate."""
    loader = MigrationLoader(connection, ignore_no_migrations=True)
    applied = set(loader.applied_migrations)
    if FIRST_DAY in applied:
        raise CommandError(
            "This data was made by the very first version of this program, of 24 November 2026, which kept it in"
            " other tables. Take each build out as a job file with that version (its page Export), and bring them in"
            " here. Nothing was changed."
        )
    known = set(loader.disk_migrations) | {SHELF_BEFORE}
    newer = sorted(".".join(key) for key in applied - known if key[0] in loader.migrated_apps)
    if newer:
        raise CommandError(
            f"This data is from a newer version of the program ({', '.join(newer[:3])}). Update the program, or restore"
            " the backup that was made before the data was updated. Nothing was changed."
        )


def repair(connection: BaseDatabaseWrapper) -> None:
    """Repair what edited migrations left behind, before anything migrates.

    Does nothing to sound data.
    """
    loader = MigrationLoader(connection, ignore_no_migrations=True)
    applied = loader.applied_migrations
    recorder = MigrationRecorder(connection)
    if SHELF_BEFORE in applied:
        apps = _apps(loader, SHELF)
        if "shelf_shelfpushrod" not in connection.introspection.table_names():
            with connection.schema_editor() as editor:
                editor.create_model(apps.get_model("shelf", "ShelfPushrod"))
        recorder.record_unapplied(*SHELF_BEFORE)
        recorder.record_applied(*SHELF)
    if LOG in applied and RECORDS not in applied:
        for name in ("Build", "MockUp"):
            add_missing_columns(connection, _apps(loader, LOG), "builds", name)


def _apps(loader: MigrationLoader, key: tuple[str, str]) -> StateApps:
    return loader.project_state([key]).apps


def add_missing_columns(connection: BaseDatabaseWrapper, apps: StateApps, app: str, name: str) -> None:
    """Give a model's table its missing columns, with their defaults."""
    model = apps.get_model(app, name)
    described = model._meta  # noqa: SLF001, Django documents it
    with connection.cursor() as cursor:
        there = {column.name for column in connection.introspection.get_table_description(cursor, described.db_table)}
    with connection.schema_editor() as editor:
        for field in described.local_fields:
            if field.column not in there:
                editor.add_field(model, field)
