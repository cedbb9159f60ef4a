"""Plant a fixed sample of small faults in the core, and count those that tests notice.

The tests are read in once. Each fault is planted in a process of its own that forks from there, and is held against the
tests that go through the function it stands in, until one fails; those that tell most for their time come first. A
fault that acts as the core is read in (a default, a constant, a declaration) is planted before that, and held against
the tests that go through its module.
"""

import argparse
import json
import os
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path

from tests.mutants.plant import Mutant, sample

SEED = 20261126
OF_EACH = 20


def main() -> int:
    """Plant, count, and print what went unnoticed."""
    parser = argparse.ArgumentParser(prog="mole test mutants", description=__doc__)
    parser.add_argument("each", nargs="?", type=int, default=OF_EACH, help="faults of each folder of the core")
    parser.add_argument("--seed", type=int, default=SEED)
    parser.add_argument("--folder", help="of one folder alone")
    options = parser.parse_args()
    mutants = [m for m in sample(options.each, options.seed) if options.folder in (None, m.folder)]
    began = time.monotonic()
    workers = os.cpu_count() or 1
    with tempfile.TemporaryDirectory() as kept:
        run = [sys.executable, "-m", "tests.mutants.worker", str(options.each), str(options.seed), options.folder or ""]
        shares = [subprocess.Popen([*run, str(at), str(workers), f"{kept}/{at}.json"]) for at in range(workers)]
        codes = [share.wait() for share in shares]
        if any(codes):
            return max(codes)
        noticed = {
            int(at): by for n in range(workers) for at, by in json.loads(Path(kept, f"{n}.json").read_text()).items()
        }
    return _told(mutants, noticed, time.monotonic() - began)


def _told(mutants: list[Mutant], noticed: dict[int, str], seconds: float) -> int:
    total, seen = Counter(m.folder for m in mutants), Counter(m.folder for at, m in enumerate(mutants) if noticed[at])
    for at, mutant in enumerate(mutants):
        if not noticed[at]:
            print(f"unnoticed  {mutant}")
    print()
    for folder in sorted(total):
        print(
            f"{folder:<10} {seen[folder]:>3} of {total[folder]:>3} noticed  {100 * seen[folder] / total[folder]:5.1f} %"
        )
    share = 100 * sum(seen.values()) / sum(total.values())
    print(
        f"{'all':<10} {sum(seen.values()):>3} of {sum(total.values()):>3} noticed  {share:5.1f} %   in {seconds:.0f} s"
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
