"""./mole gauge: a stand-in for a gauge.

Sends readings to a person's open page, or speaks over a serial line.

Readings come from a file or are typed, one a line, such as 0.112, 2.84 mm or 6 down. Each has its own token and is sent
again until acknowledged, so that it arrives once, and in order.
"""

import argparse
import json
import os
import sys
import time
import tty
import urllib.error
import urllib.request
from collections.abc import Iterable, Iterator
from pathlib import Path
from uuid import uuid4

AGAIN_AFTER_S = 1.0
SLICED_CYLINDERS, SLICES, CLAY_REPEATS_THOU = 4, 3, 1.5
USUAL = "http://127.0.0.1:8765/"


def main(arguments: list[str]) -> int:
    """Send readings until there are none; exit code 1 where one was refused."""
    parser = argparse.ArgumentParser(prog="mole gauge", description="Play a gauge (docs/gauges.md).")
    parser.add_argument("--address", default=USUAL, help="where the application is")
    parser.add_argument("--key", default=os.environ.get("MOLE_KEY", ""), help="a key that writes; or in MOLE_KEY")
    parser.add_argument("--gauge", default="", help="the instrument's key on the shelf, as indicator or own-1")
    parser.add_argument("--unit", default="", help="in, mm or thou, for readings that are bare numbers")
    parser.add_argument("--file", type=Path, help="a reading a line; without it they are typed")
    parser.add_argument("--practice", type=int, metavar="SEED", help="clay of a practice engine, whose truth is told")
    parser.add_argument("--every", type=float, default=0.0, help="seconds between two")
    parser.add_argument(
        "--serial", action="store_true", help="speak over a pseudo-terminal instead, and print its name"
    )
    options = parser.parse_args(arguments)
    lines = _lines(options.file) if options.practice is None else _practice(options.practice)
    readings = _paced(lines, options.every)
    if options.serial:
        return _speak(readings, options.unit)
    if not options.key:
        print("A gauge needs a key: make one on your own page, for a program that writes.", file=sys.stderr)
        return 2
    codes = [_send(options.address, options.key, reading, options.unit, options.gauge) for reading in readings]
    return max(codes, default=0)


def _lines(file: Path | None) -> Iterator[str]:
    for line in file.read_text(encoding="utf-8").splitlines() if file else sys.stdin:
        if line.strip() and not line.startswith("#"):
            yield line.strip()


def _practice(seed: int) -> Iterator[str]:
    """Yield caliper readings of a practice engine, and print the truth beside them."""
    # Imported here, so that playing other gauges does not wait for numpy.
    import numpy as np  # noqa: PLC0415

    from virtual.engine import true_engine  # noqa: PLC0415
    from virtual.hand import VirtualBench, a_hand, on_the_final_gasket  # noqa: PLC0415

    rng = np.random.default_rng(seed)
    engine = true_engine(rng, cylinders=SLICED_CYLINDERS)
    bench = VirtualBench(engine, a_hand(rng), on_the_final_gasket(engine))
    for cylinder, side in engine.valves:
        true = bench.square_to_crown(side, cylinder)
        print(f"{side} {cylinder}: truly {true:.3f} mm at its thinnest", file=sys.stderr)
        bench.clay(cylinder, side, SLICES, CLAY_REPEATS_THOU)
        for reading in bench.kept["clay"][-SLICES:]:
            yield f"{reading.thickness_mm:.3f} mm"


def _paced(readings: Iterable[str], every_s: float) -> Iterator[str]:
    for at, reading in enumerate(readings):
        if at and every_s:
            time.sleep(every_s)
        yield reading


def _send(address: str, key: str, reading: str, unit: str, gauge: str) -> int:
    """Send one reading, retrying until it is acknowledged; returns 1 where it was refused."""
    said = json.dumps({"value": reading, "unit": unit, "gauge": gauge, "token": str(uuid4())}).encode()
    headers = {"Authorization": f"Bearer {key}", "Content-Type": "application/json"}
    request = urllib.request.Request(f"{address.rstrip('/')}/api/gauge", said, headers)  # noqa: S310, the address was given by the user
    # The shop's own network is never behind a proxy.
    opened = urllib.request.build_opener(urllib.request.ProxyHandler({}))
    while True:
        try:
            with opened.open(request, timeout=10) as answer:
                waiting = json.load(answer)["waiting"]
        except urllib.error.HTTPError as error:
            if error.code < 500:
                print(f"{reading}: refused: {error.read().decode(errors='replace')[:300]}", file=sys.stderr)
                return 1
        except OSError as error:
            print(f"{reading}: waits, {error}", file=sys.stderr)
        else:
            print(f"{reading}: sent; {waiting} wait for a page", flush=True)
            return 0
        time.sleep(AGAIN_AFTER_S)


def _speak(readings: Iterable[str], unit: str) -> int:
    """Write each reading as a line over a pseudo-terminal: number, unit, CR LF, as a gauge does."""
    ours, theirs = os.openpty()
    tty.setraw(theirs)
    print(os.ttyname(theirs), flush=True)
    for reading in readings:
        os.write(ours, f"{reading} {unit}".strip().encode() + b"\r\n")
    return 0
