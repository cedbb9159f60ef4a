"""Where things live on this machine: the checkout, the state kept between runs, free ports, secrets."""

import os
import secrets
import socket
from pathlib import Path

HOME = Path(os.environ.get("MOLE_HOME", Path(__file__).resolve().parents[2]))
LOOPBACK = "127.0.0.1"


def state_directory() -> Path:
    """The directory that keeps databases and secrets between runs; made where it is missing."""
    default = "/var/lib/astute-mole" if os.geteuid() == 0 else "~/.local/share/astute-mole"
    state = Path(os.environ.get("MOLE_STATE", default)).expanduser()
    state.mkdir(parents=True, exist_ok=True)
    # The database server of root runs as another user and must be able to pass through.
    state.chmod(0o711)
    return state


def free_port(wanted: int = 0) -> int:
    """A TCP port free on loopback: ``wanted`` where it is, any other where it is not."""
    for port in (wanted, 0):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind((LOOPBACK, port))
            except OSError:
                continue
            return int(probe.getsockname()[1])
    raise RuntimeError("No free port on loopback.")


def port_or_refuse(wanted: int) -> int:
    """The port asked for, any for 0. Raises RuntimeError where somebody else has it."""
    found = free_port(wanted)
    if wanted and found != wanted:
        raise RuntimeError(f"Port {wanted} on loopback is taken. Name another one with --port.")
    return found


def kept_secret(path: Path) -> str:
    """The secret kept in ``path``, made on first use and readable only by its owner."""
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(48))
    return path.read_text().strip()
