"""./mole prove [N]: virtual engines whose truth is known, through the program; prints how often U holds."""

import argparse
import os
import time

# Two processes share two cores: numpy's own threads would only be in each other's way.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

USUAL, FULL = 2_000, 20_000


def main(arguments: list[str]) -> int:
    """Print the table of docs/proof.md. Exit code 1 where a row does not show what it must."""
    from virtual.prove import HEADINGS, chance, prove, table_line  # noqa: PLC0415, after the threads are settled

    parser = argparse.ArgumentParser(prog="mole prove", description=__doc__)
    parser.add_argument("engines", nargs="?", type=int, default=USUAL, help=f"engines a row ({USUAL})")
    parser.add_argument("--full", action="store_true", help=f"{FULL} engines a row")
    parser.add_argument("--pictures", type=int, metavar="N", help="try N pictures of cut clay instead (docs/camera.md)")
    options = parser.parse_args(arguments)
    if options.pictures:
        return _pictures(options.pictures)
    began = time.monotonic()
    print(f"| {' | '.join(HEADINGS)} |\n|{'---|' * len(HEADINGS)}")
    engines = FULL if options.full else options.engines
    rows = prove(engines, told=lambda one: print(table_line(one), flush=True))
    missed = [one for one in rows if one.holds < one.row.holds - 2 * chance(one.row.holds, engines)]
    said = "Rows that hold less than chance explains:" if missed else "Every row holds."
    print(f"\n{time.monotonic() - began:.0f} s. {said}")
    for one in missed:
        print(f"  {one.row.words}: {one.holds:.1f} % of {one.row.holds:g}")
    return 1 if missed else 0


def _pictures(count: int) -> int:
    """Print the tables of docs/camera.md. Exit code 1 where the camera misses what it must."""
    from virtual.camera_trial import try_many  # noqa: PLC0415, after the threads are settled

    missed = try_many(count, max(count // 20, 1))
    print("\n".join(["", *(f"Missed: {one}" for one in missed)]) if missed else "\nNothing missed.")
    return 1 if missed else 0
