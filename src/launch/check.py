"""./mole check FILE.json: the same computation as the pages, without a database or a browser."""

import argparse
import json
import sys
from pathlib import Path

from mockup.evaluate import evaluate
from mockup.faults import FaultsError
from mockup.jobfile.read import read_job
from mockup.jobfile.report_json import report_data
from mockup.report import Verdict
from mockup.words import report_text

EXIT_CODES = {Verdict.CLEAR: 0, Verdict.NOT_CLEAR: 1, Verdict.UNFINISHED: 3, Verdict.SIGNED: 4}
UNREADABLE = 2


def main(arguments: list[str]) -> int:
    """Judge a job file. Exit code: 0 clear, 4 signed off, 1 short, over or close, 3 not measured, 2 unreadable."""
    parser = argparse.ArgumentParser(
        prog="mole check",
        description="Judge a job file. Exits 0 all clear, 1 something short, over or too close to call, "
        "3 something required not measured, 4 clear or signed off by name, 2 unreadable.",
    )
    parser.add_argument("file", type=Path, help="a job file (docs/job-file.md)")
    parser.add_argument("--json", action="store_true", help="print the report as JSON, lengths in mm")
    options = parser.parse_args(arguments)
    try:
        report = evaluate(read_job(options.file.read_text(encoding="utf-8")))
    except (OSError, UnicodeDecodeError) as error:
        print(f"{options.file}: cannot be read: {error}", file=sys.stderr)
        return UNREADABLE
    except FaultsError as error:
        for fault in error.faults:
            print(f"{options.file}: {fault.path or 'file'}: {fault.message}", file=sys.stderr)
        return UNREADABLE
    print(json.dumps(report_data(report), indent=2) if options.json else report_text(report), end="")
    if options.json:
        print()
    return EXIT_CODES[report.verdict]
