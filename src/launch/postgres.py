"""A PostgreSQL cluster of our own: made from Debian's server, on loopback, on a free port.

PostgreSQL refuses to run as root. Started by root, the server runs as the ``postgres`` user of Debian's package.
"""

import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from launch.places import LOOPBACK, free_port, kept_secret

SUPERUSER = "mole"
SAFE_TO_LOSE = ("fsync=off", "synchronous_commit=off", "full_page_writes=off")
"""Settings for throw-away clusters only."""
NOTHING_TYPED = ("log_min_messages=log", "log_min_error_statement=panic", "log_error_verbosity=terse")
"""A refused statement is reported to the asker; in the log its text would keep what was typed."""


class PostgresError(RuntimeError):
    """The server could not be made or started; the message is its output."""


WHEN_LOST = (
    "It is the password of the database beside it, which cannot be read without. Put it back from a copy, or restore"
    " a backup into another place (MOLE_STATE, docs/serving.md)."
)
AGAIN = 30
"""How often the restart of a crashed server is tried, one second apart."""
INSTALLED = Path("/usr/lib/postgresql")


def programs(version: str = "") -> Path:
    """Return the directory of PostgreSQL's programs, of that version or the newest.

    Raises PostgresError.
    """
    found = {path.parts[-3]: path.parent for path in INSTALLED.glob("*/bin/initdb")}
    if not found:
        raise PostgresError("PostgreSQL's server is not installed. Debian's package is called postgresql.")
    if not version:
        return found[max(found, key=int)]
    if version not in found:
        raise PostgresError(
            f"The database was made by PostgreSQL {version}; installed is {', '.join(sorted(found))}. Install "
            f"postgresql-{version}, or restore a backup into a new place (docs/serving.md)."
        )
    return found[version]


class Cluster:
    """One cluster in ``data``; its parent directory also has its password and log."""

    def __init__(self, home: Path, *, throw_away: bool = False) -> None:
        self.home = home
        self.data = home / "data"
        self.log = home / "server.log"
        self.throw_away = throw_away
        self.port = 0

    @property
    def url(self) -> str:
        """Return the database's address for Django, valid while the server runs.

        A port that was chosen beforehand makes it valid earlier.
        """
        return f"postgres://{SUPERUSER}:{self._password}@{LOOPBACK}:{self.port}/postgres"

    @property
    def _password(self) -> str:
        self.home.mkdir(parents=True, exist_ok=True)
        return kept_secret(self.home / "password", when_lost=WHEN_LOST)

    def start(self) -> None:
        """Make the cluster if missing, and start it. Raises PostgresError."""
        self.home.mkdir(parents=True, exist_ok=True)
        self._own(self.home)
        if not (self.data / "PG_VERSION").exists():
            if not self.throw_away:
                print(f"Making the database in {self.data}", file=sys.stderr, flush=True)
            self._create()
        self.stop()  # a server left behind by a killed run
        self._start()

    def start_again(self) -> None:
        """Restart the server on its old port. Raises PostgresError.

        Its leftover processes end within a moment; until then it cannot start.
        """
        for _ in range(AGAIN):
            if self._control("start", "-w", "-t", "60", "-l", str(self.log), "-o", self._options()) == 0:
                return
            time.sleep(1)
        raise PostgresError(f"PostgreSQL did not start again. It printed:\n{self._printed()}")

    def _printed(self) -> str:
        try:
            return self.log.read_text(errors="replace")[-2000:]
        except OSError as error:
            return str(error)

    @property
    def is_up(self) -> bool:
        """Return whether its server runs: whether the process in its own file exists."""
        try:
            number = int((self.data / "postmaster.pid").read_text().split()[0])
        except (OSError, IndexError, ValueError):
            return False
        return Path(f"/proc/{number}").exists()

    def join(self) -> bool:
        """Use a server started by another process. Returns whether there is one."""
        try:
            lines = (self.data / "postmaster.pid").read_text().splitlines()
            self.port = int(lines[3])
        except (OSError, IndexError, ValueError):
            return False
        return self.is_up

    def _start(self) -> None:
        for _ in range(5):  # another process may take the port between the probe and the start
            self.port = self.port or free_port()
            if self._control("start", "-w", "-t", "60", "-l", str(self.log), "-o", self._options()) == 0:
                return
            self.port = 0
            time.sleep(0.2)
        raise PostgresError(f"PostgreSQL did not start. It printed:\n{self._printed()}")

    def stop(self) -> None:
        """Stop the server if it runs; open connections are closed."""
        if (self.data / "postmaster.pid").exists():
            self._control("stop", "-m", "fast", "-w")

    def remove(self) -> None:
        """Stop the server and delete the cluster."""
        self.stop()
        shutil.rmtree(self.home, ignore_errors=True)

    def _options(self) -> str:
        # No socket file: its path could be too long, and loopback is enough.
        settings = [f"listen_addresses={LOOPBACK}", f"port={self.port}", "unix_socket_directories="]
        settings += NOTHING_TYPED
        settings += SAFE_TO_LOSE if self.throw_away else []
        return " ".join(f"-c {setting}" for setting in settings)

    def _create(self) -> None:
        shutil.rmtree(self.data, ignore_errors=True)
        with tempfile.NamedTemporaryFile("w") as handover:
            handover.write(self._password + "\n")
            handover.flush()
            self._own(Path(handover.name))
            done = self._run(
                "initdb",
                *("-D", str(self.data), "-U", SUPERUSER, f"--pwfile={handover.name}"),
                *("--auth=scram-sha-256", "--encoding=UTF8", "--locale=C.UTF-8", "--no-instructions"),
            )
        if done.returncode:
            raise PostgresError(f"initdb failed:\n{done.stdout}{done.stderr}")

    def _control(self, *arguments: str) -> int:
        return self._run("pg_ctl", "-D", str(self.data), *arguments).returncode

    def _run(self, program: str, *arguments: str) -> subprocess.CompletedProcess[str]:
        made_by = self.data / "PG_VERSION"
        version = made_by.read_text().strip() if made_by.exists() else ""
        command = [str(programs(version) / program), *arguments]
        if os.geteuid() == 0:
            command = ["setpriv", "--reuid=postgres", "--regid=postgres", "--init-groups", *command]
        # A file, not a pipe: the server that pg_ctl leaves running would keep a pipe open.
        with tempfile.TemporaryFile("w+") as output:
            # A session of its own, so that Ctrl-C does not reach it.
            process = subprocess.Popen(command, stdout=output, stderr=output, cwd="/", start_new_session=True)
            try:
                process.wait()
            finally:
                # Asked to stop meanwhile: a half-started server could not be stopped.
                process.wait()
            output.seek(0)
            return subprocess.CompletedProcess(command, process.returncode, output.read(), "")

    def _own(self, path: Path) -> None:
        if os.geteuid() == 0:
            shutil.chown(path, "postgres", "postgres")


def throw_away_cluster() -> Cluster:
    """Return a cluster for one test run, in a directory that the server's user can reach."""
    return Cluster(Path(tempfile.mkdtemp(prefix="astute-mole-", dir="/var/tmp")), throw_away=True)
