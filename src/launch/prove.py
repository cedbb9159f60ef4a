"""./mole prove [N]: evaluate virtual engines of known truth and print how often U holds."""

import argparse
import os
import time

from launch.proof_page import write_table

# Two processes share two cores; numpy's own threads would only get in their way.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

USUAL, FULL, BLUNDERS = 2_000, 20_000, 200


def main(arguments: list[str]) -> int:
    """Print a table of docs/proof.md. Exit code 1 where a row misses its aim."""
    parser = argparse.ArgumentParser(prog="mole prove", description=__doc__)
    parser.add_argument("engines", nargs="?", type=int, help=f"engines a row ({USUAL}; {BLUNDERS} with --blunders)")
    parser.add_argument("--full", action="store_true", help=f"{FULL} engines a row")
    parser.add_argument("--blunders", action="store_true", help="make the mistakes people make instead")
    parser.add_argument("--write", action="store_true", help="write the table into docs/proof.md")
    parser.add_argument("--pictures", type=int, metavar="N", help="try N pictures of cut clay instead (docs/camera.md)")
    options = parser.parse_args(arguments)
    if options.pictures:
        return _pictures(options.pictures)
    usual = BLUNDERS if options.blunders else USUAL
    engines = options.engines or (FULL if options.full else usual)
    began = time.monotonic()
    lines, missed = (_blunders if options.blunders else _rows)(engines)
    print(f"\n{time.monotonic() - began:.0f} s. {'Not as wanted:' if missed else 'Every row is as wanted.'}")
    print("".join(f"  {one}\n" for one in missed), end="")
    if options.write:
        name, more = ("blunders", " --blunders") if options.blunders else ("rows", "")
        write_table(name, f"./mole prove {engines}{more} --write", lines)
    return 1 if missed else 0


def _heading(headings: tuple[str, ...]) -> list[str]:
    lines = [f"| {' | '.join(headings)} |", f"|---|{'---:|' * (len(headings) - 1)}"]
    print("\n".join(lines), flush=True)
    return lines


def _rows(engines: int) -> tuple[list[str], list[str]]:
    from virtual.prove import HEADINGS, chance, prove, table_line  # noqa: PLC0415, after the thread settings

    lines = _heading(HEADINGS)
    rows = prove(engines, told=lambda one: print(table_line(one), flush=True))
    missed = [
        f"{one.row.words}: {one.holds:.1f} % of {one.row.holds:g}"
        for one in rows
        if one.holds < one.row.holds - 2 * chance(one.row.holds, engines)
    ]
    return lines + [table_line(one) for one in rows], missed


def _blunders(engines: int) -> tuple[list[str], list[str]]:
    from virtual.prove_blunders import HEADINGS, missed, prove_blunders, table_line  # noqa: PLC0415, as above

    lines = _heading(HEADINGS)
    rows = prove_blunders(engines, told=lambda one: print(table_line(one), flush=True))
    return lines + [table_line(one) for one in rows], [words for one in rows for words in missed(one)]


def _pictures(count: int) -> int:
    """Print the tables of docs/camera.md. Exit code 1 where the camera misses its aim."""
    from virtual.camera_trial import try_many  # noqa: PLC0415, after the thread settings

    missed = try_many(count, max(count // 20, 1))
    print("\n".join(["", *(f"Missed: {one}" for one in missed)]) if missed else "\nNothing missed.")
    return 1 if missed else 0
