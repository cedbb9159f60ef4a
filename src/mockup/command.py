"""./mole check FILE…, or mole-check: the pages' computation without database or browser."""

import argparse
import json
import sys
from collections.abc import Callable, Mapping
from pathlib import Path

from mockup import __version__
from mockup.base.faults import FaultsError
from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.formats.report_csv import report_csv
from mockup.formats.report_json import report_data
from mockup.report import Report, Verdict
from mockup.words.report_text import report_text

EXIT_CODES = {Verdict.CLEAR: 0, Verdict.NOT_CLEAR: 1, Verdict.UNFINISHED: 3, Verdict.SIGNED: 4}
UNREADABLE = 2
WORST_FIRST = (UNREADABLE, 1, 3, 4, 0)
STANDARD_INPUT = "-"


def main(arguments: list[str] | None = None) -> int:
    """Judge job files.

    Exit code: 0 clear, 4 signed off, 1 short, over or close, 3 not measured, 2 unreadable.

    With several files the worst code wins, in the order 2, 1, 3, 4, 0.
    """
    parser = argparse.ArgumentParser(
        prog="mole check" if arguments is not None else None,
        description="Judge job files. Exits 0 all clear, 1 something short, over or too close to call, "
        "3 something required not measured, 4 clear or signed off by name, 2 unreadable; with several files the worst.",
    )
    parser.add_argument(
        "files", nargs="+", metavar="FILE", help="a job file (docs/job-file.md); - reads standard input"
    )
    parser.add_argument("--format", choices=sorted(FORMATS), default="text", help="csv and json have lengths in mm")
    parser.add_argument("--json", action="store_const", const="json", dest="format", help="the same as --format json")
    parser.add_argument("--version", action="version", version=f"Astute Mole {__version__}")
    options = parser.parse_args(arguments)
    reports: dict[str, Report] = {}
    codes = []
    for name in options.files:
        report = _report(name)
        codes.append(UNREADABLE if report is None else EXIT_CODES[report.verdict])
        if report:
            reports[name] = report
    if reports:
        sys.stdout.write(FORMATS[options.format](reports))
    return min(codes, key=WORST_FIRST.index)


def _report(name: str) -> Report | None:
    """Return the report on one file; print why and return None where it cannot be read."""
    try:
        text = sys.stdin.read() if name == STANDARD_INPUT else Path(name).read_text(encoding="utf-8")
        return evaluate(read_job(text))
    except (OSError, UnicodeDecodeError) as error:
        print(f"{name}: cannot be read: {error}", file=sys.stderr)
    except FaultsError as error:
        for fault in error.faults:
            print(f"{name}: {fault.path or 'file'}: {fault.message}", file=sys.stderr)
    return None


def _text(reports: Mapping[str, Report]) -> str:
    alone = len(reports) == 1
    return "\n".join(("" if alone else f"{name}\n") + report_text(report) for name, report in reports.items())


def _json(reports: Mapping[str, Report]) -> str:
    """Return one report as an object, several as an object keyed by file name."""
    data = {name: report_data(report) for name, report in reports.items()}
    return json.dumps(next(iter(data.values())) if len(data) == 1 else data, indent=2) + "\n"


FORMATS: Mapping[str, Callable[[Mapping[str, Report]], str]] = {"text": _text, "json": _json, "csv": report_csv}
