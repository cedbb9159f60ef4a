"""Where things are on this machine: checkout, state kept between runs, free ports, secrets."""

import os
import secrets
import socket
import tempfile
import time
from pathlib import Path

HOME = Path(os.environ.get("MOLE_HOME", Path(__file__).resolve().parents[2]))
LOOPBACK = "127.0.0.1"


def state_directory() -> Path:
    """Return the directory that keeps databases and secrets between runs; made if missing."""
    default = "/var/lib/astute-mole" if os.geteuid() == 0 else "~/.local/share/astute-mole"
    state = Path(os.environ.get("MOLE_STATE", default)).expanduser()
    state.mkdir(parents=True, exist_ok=True)
    # Root's database server runs as another user and must be able to pass through.
    state.chmod(0o711)
    return state


def free_port(wanted: int = 0) -> int:
    """Return a TCP port free on loopback: ``wanted`` if it is free, else another."""
    for port in (wanted, 0):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((LOOPBACK, port))
            except OSError:
                continue
            return int(probe.getsockname()[1])
    raise RuntimeError("No free port on loopback.")


def port_or_refuse(wanted: int, *, patience_s: float = 0.0) -> int:
    """Return the port asked for, any for 0.

    Raises RuntimeError if it stays taken longer than ``patience_s``.
    """
    gives_up = time.monotonic() + patience_s
    while wanted and free_port(wanted) != wanted:
        if time.monotonic() > gives_up:
            raise RuntimeError(f"Port {wanted} on loopback is taken. Name another one with --port.")
        time.sleep(0.2)
    return free_port(wanted)


def kept_secret(path: Path, *, when_lost: str) -> str:
    """Return the secret kept in ``path``, made on first use and readable only by its owner.

    Raises RuntimeError for an empty file, with ``when_lost``: what to do then.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    if not path.exists():
        _write_once(path, secrets.token_urlsafe(48))
    secret = path.read_text().strip()
    if not secret:
        raise RuntimeError(f"The secret in {path} is empty. {when_lost}")
    return secret


SIGNS_IN_AGAIN = (
    "Put it back from a copy. Or delete the file: the next start makes a new secret, and everybody signs in again."
)


def _write_once(path: Path, text: str) -> None:
    """Write a file whole or not at all, even beside another writer or on a full disk."""
    handle, written = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}-")
    try:
        with os.fdopen(handle, "w") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        # A link, not a rename: the second process keeps the first one's secret.
        os.link(written, path)
    except FileExistsError:
        pass
    finally:
        os.unlink(written)
