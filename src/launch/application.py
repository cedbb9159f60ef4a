"""The web application in one process: its database brought up to date, then gunicorn. Run as its own command.

Everything is imported once, before the workers are forked, so that the first page waits for nothing. It is imported
while the database starts: a line on standard input says that the database is there. Each stage is printed as it
begins: on a slow machine somebody watches.
"""

import argparse
import gc
import os
import subprocess
import sys
import time
from collections.abc import Callable
from hashlib import sha256
from pathlib import Path
from typing import Any

import django
from django.core.management import CommandError, call_command
from django.db import DEFAULT_DB_ALIAS, connections
from django.db.migrations.executor import MigrationExecutor
from gunicorn.app.base import BaseApplication

from bench.shops.repair import refuse_newer
from launch.beside import beside, work_through
from launch.restore import forget_old
from launch.sql import AskError

Application = Callable[..., Any]
BACKUPS_KEPT = 5
ONE_AT_A_TIME = 20_261_130
"""The advisory lock of PostgreSQL that a server holds while it brings the database up to date."""


def main(arguments: list[str]) -> None:
    """Prepare what is asked for, then serve until stopped."""
    parser = argparse.ArgumentParser(prog="launch.application", description=__doc__)
    parser.add_argument("--bind", required=True, help="host:port")
    parser.add_argument("--log", required=True, help="where errors are written")
    parser.add_argument("--demo", action="store_true", help="load the demo's builds where they are missing")
    parser.add_argument("--collect-static", action="store_true", help="gather styles and scripts for the proxy")
    parser.add_argument("--backups", type=Path, help="where the database is backed up before it is brought up to date")
    options = parser.parse_args(arguments)
    _say("reading the program in")
    gc.disable()  # nothing read in is ever given back, and looking for it takes a tenth of a start
    if options.collect_static:
        # What is served is looked for when the application is read in: gathered later, it would not be found.
        django.setup()
        _gather_static()
    from bench.wsgi import application  # noqa: PLC0415, what is asked for is checked before anything is read in

    if not sys.stdin.readline():
        return  # whoever started this is gone
    try:
        _up_to_date(options.backups)
    except (CommandError, AskError) as error:
        raise SystemExit(str(error)) from None
    if options.backups:
        forget_old(os.environ["DATABASE_URL"])
    if options.demo:
        _say("looking after the demo's builds")
        from bench.demo.scenario import load  # noqa: PLC0415, only the demo has it

        load()
    _summaries()
    if not options.demo:
        _first_shop()
    served = _Served(application, options.bind, options.log)
    # A connection that was open before the fork would be shared by all workers.
    connections.close_all()
    gc.freeze()
    beside(work_through)
    gc.enable()
    served.run()


def _up_to_date(backups: Path | None = None) -> None:
    """Bring the database up to date, once: of several servers that start on it at once, the others wait.

    ``backups``: where it is backed up before, if there is anything in it. Raises CommandError for newer data.
    """
    refuse_newer(connections[DEFAULT_DB_ALIAS])
    # A connection of its own: the lock lasts as long as it does, and ends if the server is killed.
    waiting = connections.create_connection(DEFAULT_DB_ALIAS)
    try:
        with waiting.cursor() as cursor:
            cursor.execute("SELECT pg_try_advisory_lock(%s)", [ONE_AT_A_TIME])
            if not cursor.fetchone()[0]:
                _say("waiting for another server, which brings the database up to date")
                cursor.execute("SELECT pg_advisory_lock(%s)", [ONE_AT_A_TIME])
        executor = MigrationExecutor(connections[DEFAULT_DB_ALIAS])
        if executor.migration_plan(executor.loader.graph.leaf_nodes()):
            if backups and executor.loader.applied_migrations:
                _backed_up(backups)
            _say("bringing the database up to date")
            call_command("migrate", "--verbosity", "0")
    finally:
        waiting.close()
    # What was asked of the worker two weeks ago is nobody's question any more.
    call_command("prune_db_task_results", "--verbosity", "0")


def _backed_up(backups: Path) -> None:
    """Keep the database as it was before an update; of such backups, the last few."""
    from launch.backup import back_up  # noqa: PLC0415, seldom needed

    backups.mkdir(mode=0o700, exist_ok=True)
    file = backups / f"before-update-{time.strftime('%Y%m%d-%H%M%S')}.mole"
    back_up(os.environ["DATABASE_URL"], file)
    _say(f"the way back, should you want one: ./mole restore {file} --replace, with the program as it was")
    for old in sorted(backups.glob("before-update-*.mole"))[:-BACKUPS_KEPT]:
        old.unlink()


def _gather_static() -> None:
    """Styles, scripts and faces under names of their content, packed: only where one of them is another one now."""
    from django.conf import settings  # noqa: PLC0415, settings are read once everything else is

    mark = sha256(settings.STORAGES["staticfiles"]["BACKEND"].encode())
    for root in settings.STATICFILES_DIRS:
        for path in sorted(Path(root).rglob("*")):
            if path.is_file():
                mark.update(str(path.relative_to(root)).encode() + path.read_bytes())
    kept = Path(str(settings.STATIC_ROOT)) / ".gathered"
    if kept.exists() and kept.read_text() == mark.hexdigest():
        return
    _say("gathering styles and scripts")
    call_command("collectstatic", "--no-input", "--clear", "--verbosity", "0")
    kept.write_text(mark.hexdigest())


def _summaries() -> None:
    """After an update the summaries of all builds are another arithmetic's: made anew beside the serving."""
    from django_scopes import scopes_disabled  # noqa: PLC0415, settings are read once everything else is

    from bench.builds.summaries import any_old  # noqa: PLC0415

    with scopes_disabled():
        old = any_old()
    if old:
        _say("working the stand out anew, beside the serving")
        subprocess.Popen(["setpriv", "--pdeathsig", "TERM", sys.executable, "-m", "django", "summarise"])


def _first_shop() -> None:
    """Where nobody can come in yet: the address by which the first shop and its owner are made, once."""
    from django.conf import settings  # noqa: PLC0415, settings are read once everything else is
    from django.urls import reverse  # noqa: PLC0415

    from bench.shops.models import Pass, Shop  # noqa: PLC0415
    from bench.shops.once import forget_old  # noqa: PLC0415
    from bench.shops.passes import issue  # noqa: PLC0415

    forget_old()
    if not Shop.objects.exists():
        host = next((host for host in settings.ALLOWED_HOSTS if host), "your-host")
        address = f"https://{host}{reverse('welcome', args=[issue(Pass.Kind.FIRST)])}"
        print(f"There is no shop yet. Make it, and yourself its owner, within a day, once, at\n  {address}", flush=True)


ANSWERS_WITHIN_S = 8
"""How long a worker that is told to stop may finish its answer, shorter than its starter waits."""
BEGAN = time.monotonic()


def _say(what: str) -> None:
    print(f"  {time.monotonic() - BEGAN:.0f} s: {what}", file=sys.stderr, flush=True)


class _Served(BaseApplication):  # type: ignore[misc]
    """gunicorn with the application already in memory: its workers are forked from what was read in here."""

    def __init__(self, application: Application, bind: str, log: str) -> None:
        self.options = {"bind": bind, "errorlog": log}
        self.application = application
        super().__init__()

    def load_config(self) -> None:
        """Set what gunicorn is run with."""
        settings = {"workers": 2, "threads": 4, "preload_app": True, "loglevel": "error"}
        settings |= {"graceful_timeout": ANSWERS_WITHIN_S, **self.options}
        for name, value in settings.items():
            self.cfg.set(name, value)

    def load(self) -> Application:
        """The application the workers answer with."""
        return self.application


if __name__ == "__main__":
    main(sys.argv[1:])
