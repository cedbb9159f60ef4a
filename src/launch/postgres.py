"""A PostgreSQL cluster of our own: made from Debian's server, on loopback, on a free port.

PostgreSQL refuses to run as root, so where root starts it the server runs as the ``postgres`` user that
Debian's package brings.
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
"""For throw-away clusters only."""
NOTHING_TYPED = ("log_min_messages=log", "log_min_error_statement=panic", "log_error_verbosity=terse")
"""What a statement was refused for is told to who asked; in the log its text, with what was typed, would stay."""


class PostgresError(RuntimeError):
    """The server could not be made or started; the message says what it printed."""


WHEN_LOST = (
    "It is the password of the database beside it, which cannot be read without. Put it back from a copy, or restore"
    " a backup into another place (MOLE_STATE, docs/serving.md)."
)
AGAIN = 30
"""How often a server that died is tried to be started again, a second apart."""
INSTALLED = Path("/usr/lib/postgresql")


def programs(version: str = "") -> Path:
    """Where the programs of an installed PostgreSQL are: of that version, else of the newest. Raises PostgresError."""
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
    """One cluster in ``data``, whose parent directory also keeps its password and log."""

    def __init__(self, home: Path, *, throw_away: bool = False) -> None:
        self.home = home
        self.data = home / "data"
        self.log = home / "server.log"
        self.throw_away = throw_away
        self.port = 0

    @property
    def url(self) -> str:
        """The database's address for Django, valid while the server runs, and before where its port was chosen."""
        return f"postgres://{SUPERUSER}:{self._password}@{LOOPBACK}:{self.port}/postgres"

    @property
    def _password(self) -> str:
        self.home.mkdir(parents=True, exist_ok=True)
        return kept_secret(self.home / "password", when_lost=WHEN_LOST)

    def start(self) -> None:
        """Make the cluster where it is missing, and start it. Raises PostgresError."""
        self.home.mkdir(parents=True, exist_ok=True)
        self._own(self.home)
        if not (self.data / "PG_VERSION").exists():
            if not self.throw_away:
                print(f"Making the database in {self.data}", file=sys.stderr, flush=True)
            self._create()
        self.stop()  # a server left behind by a run that was killed
        self._start()

    def start_again(self) -> None:
        """Start a server that died, where it listened. Raises PostgresError.

        What it left running ends by itself in a moment; until then it cannot start.
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
        """Whether its server runs: the process that its own file names is there."""
        try:
            number = int((self.data / "postmaster.pid").read_text().split()[0])
        except (OSError, IndexError, ValueError):
            return False
        return Path(f"/proc/{number}").exists()

    def join(self) -> bool:
        """Use a server that runs already, started by somebody else. Returns whether there is one."""
        try:
            lines = (self.data / "postmaster.pid").read_text().splitlines()
            self.port = int(lines[3])
        except (OSError, IndexError, ValueError):
            return False
        return self.is_up

    def _start(self) -> None:
        for _ in range(5):  # somebody may take the port between the probe and the start
            self.port = self.port or free_port()
            if self._control("start", "-w", "-t", "60", "-l", str(self.log), "-o", self._options()) == 0:
                return
            self.port = 0
            time.sleep(0.2)
        raise PostgresError(f"PostgreSQL did not start. It printed:\n{self._printed()}")

    def stop(self) -> None:
        """Stop the server where it runs; open connections are closed."""
        if (self.data / "postmaster.pid").exists():
            self._control("stop", "-m", "fast", "-w")

    def remove(self) -> None:
        """Stop the server and delete the cluster."""
        self.stop()
        shutil.rmtree(self.home, ignore_errors=True)

    def _options(self) -> str:
        # No socket file: its path could be too long, and loopback is all that is needed.
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
        # A file, not a pipe: the server that pg_ctl leaves running would hold a pipe open for ever.
        with tempfile.TemporaryFile("w+") as output:
            # A session of its own: Ctrl-C does not reach it.
            process = subprocess.Popen(command, stdout=output, stderr=output, cwd="/", start_new_session=True)
            try:
                process.wait()
            finally:
                # Asked to stop meanwhile: one that is half started could not be stopped.
                process.wait()
            output.seek(0)
            return subprocess.CompletedProcess(command, process.returncode, output.read(), "")

    def _own(self, path: Path) -> None:
        if os.geteuid() == 0:
            shutil.chown(path, "postgres", "postgres")


def throw_away_cluster() -> Cluster:
    """A cluster for one test run, in a directory of its own that the server's user can reach."""
    return Cluster(Path(tempfile.mkdtemp(prefix="astute-mole-", dir="/var/tmp")), throw_away=True)
