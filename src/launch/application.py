"""The web application in one process: migrate its database, then run gunicorn.

Started as its own command.

Everything is imported once, before the workers are forked, so that the first page is fast. It is imported while the
database starts; a line on standard input says that the database is up. Each stage is printed as it begins, for people
waiting on a slow machine.
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

from launch.beside import beside, work_through
from launch.restore import forget_old
from launch.sql import AskError
from web.shops.repair import refuse_newer

Application = Callable[..., Any]
BACKUPS_KEPT = 5
ONE_AT_A_TIME = 20_261_130
"""The PostgreSQL advisory lock that a server holds while it migrates the database."""


def main(arguments: list[str]) -> None:
    """Prepare what the arguments ask for, then serve until stopped."""
    parser = argparse.ArgumentParser(prog="launch.application", description=__doc__)
    parser.add_argument("--bind", required=True, help="host:port")
    parser.add_argument("--log", required=True, help="where errors are written")
    parser.add_argument("--demo", action="store_true", help="load the demo's builds where they are missing")
    parser.add_argument("--collect-static", action="store_true", help="gather styles and scripts for the proxy")
    parser.add_argument("--backups", type=Path, help="where the database is backed up before it is brought up to date")
    options = parser.parse_args(arguments)
    _say("reading the program in")
    gc.disable()  # imported modules are never freed, and collecting them takes a tenth of the start
    if options.collect_static:
        # Static files are indexed when the application is imported; collected later, they would not be found.
        django.setup()
        _gather_static()
    from web.wsgi import application  # noqa: PLC0415, the arguments are checked before anything is imported

    if not sys.stdin.readline():
        return  # the starter is gone
    try:
        _up_to_date(options.backups)
    except (CommandError, AskError) as error:
        raise SystemExit(str(error)) from None
    if options.backups:
        forget_old(os.environ["DATABASE_URL"])
    if options.demo:
        _say("looking after the demo's builds")
        from web.demo.scenario import load  # noqa: PLC0415, only the demo has it

        load()
    _summaries()
    if not options.demo:
        _first_shop()
    served = _Served(application, options.bind, options.log)
    # A connection opened before the fork would be shared by all workers.
    connections.close_all()
    gc.freeze()
    beside(work_through)
    gc.enable()
    served.run()


def _up_to_date(backups: Path | None = None) -> None:
    """Migrate the database once; of several servers starting on it at once, the others wait.

    ``backups``: where to back it up first, if it holds anything. Raises CommandError for newer data.
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
    # Tasks older than two weeks are of no interest.
    call_command("prune_db_task_results", "--verbosity", "0")


def _backed_up(backups: Path) -> None:
    """Back up the database before an update; keep the last few such backups."""
    from launch.backup import back_up  # noqa: PLC0415, seldom needed

    backups.mkdir(mode=0o700, exist_ok=True)
    file = backups / f"before-update-{time.strftime('%Y%m%d-%H%M%S')}.mole"
    back_up(os.environ["DATABASE_URL"], file)
    _say(f"the way back, should you want one: ./mole restore {file} --replace, with the program as it was")
    for old in sorted(backups.glob("before-update-*.mole"))[:-BACKUPS_KEPT]:
        old.unlink()


def _gather_static() -> None:
    """Collect styles, scripts and fonts under hashed names, compressed; skip what is unchanged."""
    from django.conf import settings  # noqa: PLC0415, settings are read after everything else

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
    """Recompute outdated summaries beside the serving after an update."""
    from django_scopes import scopes_disabled  # noqa: PLC0415, settings are read after everything else

    from web.builds.summaries import any_old  # noqa: PLC0415

    with scopes_disabled():
        old = any_old()
    if old:
        _say("evaluating the builds again, while serving")
        subprocess.Popen(["setpriv", "--pdeathsig", "TERM", sys.executable, "-m", "django", "summarise"])


def _first_shop() -> None:
    """Print the one-time address that makes the first shop, where nobody can sign in yet."""
    from django.conf import settings  # noqa: PLC0415, settings are read after everything else
    from django.urls import reverse  # noqa: PLC0415

    from web.shops.models import Pass, Shop  # noqa: PLC0415
    from web.shops.once import forget_old  # noqa: PLC0415
    from web.shops.passes import issue  # noqa: PLC0415

    forget_old()
    if not Shop.objects.exists():
        host = next((host for host in settings.ALLOWED_HOSTS if host), "your-host")
        address = f"https://{host}{reverse('welcome', args=[issue(Pass.Kind.FIRST)])}"
        print(f"There is no shop yet. Make it, and yourself its owner, within a day, once, at\n  {address}", flush=True)


ANSWERS_WITHIN_S = 8
"""How long a stopping worker may finish its answer, shorter than its starter waits."""
BEGAN = time.monotonic()


def _say(what: str) -> None:
    print(f"  {time.monotonic() - BEGAN:.0f} s: {what}", file=sys.stderr, flush=True)


class _Served(BaseApplication):  # type: ignore[misc]
    """gunicorn with the application already in memory: its workers are forked from this process."""

    def __init__(self, application: Application, bind: str, log: str) -> None:
        self.options = {"bind": bind, "errorlog": log}
        self.application = application
        super().__init__()

    def load_config(self) -> None:
        """Set gunicorn's options."""
        settings = {"workers": 2, "threads": 4, "preload_app": True, "loglevel": "error"}
        settings |= {"graceful_timeout": ANSWERS_WITHIN_S, **self.options}
        for name, value in settings.items():
            self.cfg.set(name, value)

    def load(self) -> Application:
        """Return the application the workers serve."""
        return self.application


if __name__ == "__main__":
    main(sys.argv[1:])
