"""How long a warm ./mole demo takes to its first page, against importing its parts.

The floor is ``python -c 'import django, numpy, scipy.linalg'`` with the same Python; starts and floors take turns.
"""

import os
import signal
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

HOME = Path(__file__).parents[1]
FLOOR = [sys.executable, "-c", "import django, numpy, scipy.linalg"]


def to_first_page(environment: dict[str, str]) -> float:
    """Seconds from the command to the first page, sign-in, in the browser's hands."""
    began = time.perf_counter()
    with subprocess.Popen(
        [str(HOME / "mole"), "demo", "--port", "0"], env=environment, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
    ) as demo:
        assert demo.stdout
        for line in demo.stdout:
            if b"http://" in line:
                address = line.split(b"http://")[1].split()[0].decode()
                with urllib.request.urlopen(f"http://{address}") as page:
                    assert b"Astute Mole" in page.read()
                break
        took = time.perf_counter() - began
        demo.send_signal(signal.SIGINT)
        demo.wait()
    return took


def floor() -> float:
    """Seconds to read in what it is made of."""
    began = time.perf_counter()
    subprocess.run(FLOOR, check=True)
    return time.perf_counter() - began


def main() -> None:
    """One line: both medians and their ratio."""
    turns = int(sys.argv[1]) if len(sys.argv) > 1 else 5
    # The database server of root runs as another user and must be able to pass through.
    with tempfile.TemporaryDirectory(dir="/var/tmp") as state:
        Path(state).chmod(0o711)
        environment = {**os.environ, "MOLE_STATE": state}
        to_first_page(environment)  # makes the database and its builds
        pairs = [(to_first_page(environment), floor()) for _ in range(turns)]
    start, least = (statistics.median(part) for part in zip(*pairs, strict=True))
    print(f"warm start to the first page {start:.2f} s, floor {least:.2f} s: {start / least:.1f} floors (3 wanted)")


if __name__ == "__main__":
    main()
