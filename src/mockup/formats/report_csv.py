"""Reports as comma-separated values: a line for each check, for spreadsheets and scripts.

Source of the format: RFC 4180.
"""

import csv
import io
from collections.abc import Iterable, Mapping, Sequence

from mockup.checks.check import Check
from mockup.report import Report

COLUMNS = ("file", "check", "state", "required", "figure", "U", "low", "high", "margin", "unit")


def report_csv(reports: Mapping[str, Report]) -> str:
    """Return the checks of reports by name, with a heading line; lengths [mm], ratios [1]."""
    lines = ((name, *_line(check)) for name, report in reports.items() for check in report.checks)
    return table_csv(COLUMNS, lines)


def table_csv(columns: Sequence[str], lines: Iterable[Sequence[str]]) -> str:
    """Return a table with its heading line; a spreadsheet takes none of its text for a formula."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(columns)
    writer.writerows([_plain(cell) for cell in line] for line in lines)
    return out.getvalue()


def _line(check: Check) -> tuple[str, ...]:
    figure, limit = check.figure, check.limit
    numbers = (
        figure.value if figure else None,
        figure.expanded if figure else None,
        limit.low,
        limit.high,
        check.margin,
    )
    shown = ["" if one is None else f"{round(one, 4):g}" for one in numbers]
    unit = "mm" if check.kind.is_length else ""
    return (check.label, str(check.state), "yes" if check.required else "no", *shown, unit)


def _plain(text: str) -> str:
    begins_a_formula = text[:1] in ("=", "+", "@", "\t", "\r", "'") or (text[:1] == "-" and not _is_number(text))
    return f"'{text}" if begins_a_formula else text


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True
