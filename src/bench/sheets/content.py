"""What stands on the build sheet, chosen from the report and the book; page and PDF show the same."""

from typing import Any

from django.utils import timezone

from bench.drawings.approach import approach_chart
from bench.drawings.deck_plan import deck_plan
from bench.drawings.gap_chart import gap_chart
from bench.page.assembly import assembly_lines, signatures
from bench.page.bench import Bench
from bench.page.changes import change_lines
from bench.page.written import gathered, written
from bench.sheets.pictured import pictures_on
from bench.shops.models import Person
from mockup.checks.check import Check, Kind
from mockup.checks.compression import Volumes
from mockup.limits.judge import State
from mockup.outlook import verdict_text
from mockup.quantity.shown import format_piston_volume, format_volume
from mockup.words import engine_line, mockup_line


def sheet_parts(bench: Bench, by: Person) -> dict[str, Any]:
    """Everything the sheet shows, and who made it."""
    report = bench.report
    swept = sorted({figure.place.cylinder for figure in report.sweeps if figure.closest})
    read = [line for line in written(bench) if line.is_reading]
    charts = [(cylinder, chart) for cylinder in swept if (chart := approach_chart(report, cylinder))]
    return {
        "shop": by.shop,
        "made_by": by.shown_name,
        "made_at": timezone.localtime(),
        "bench": bench,
        "build": bench.build,
        "report": report,
        "unit": bench.unit,
        "engine_line": engine_line(report.job.engine, bench.unit),
        "verdict_words": verdict_text(report),
        "groups": [(kind.label, shown) for kind in Kind if (shown := _shown(report.of_kind(kind)))],
        "signed_checks": [check for check in report.checks if check.signed],
        "signed": signatures(bench)[:1],
        "chart": gap_chart(report),
        "volumes": [_volumes(cylinder, one) for cylinder, one in report.volumes.items()],
        "plan": deck_plan(report) if report.deck else None,
        "approaches": charts,
        "mockups": [(mockup.key, mockup_line(mockup, bench.unit)) for mockup in report.job.mockups],
        "changes": change_lines(bench),
        "readings": gathered(line for line in read if not line.struck),
        "standing": sum(not line.struck for line in read),
        "struck": sum(bool(line.struck) for line in read),
        "lines": [line for line in assembly_lines(bench) if not line.out],
        "sheet": report.job.sheet,
        "pictures": pictures_on(bench),
    }


def _volumes(cylinder: int, volumes: Volumes) -> tuple[int, list[str], str]:
    """A cylinder's parts in their order, and the whole above the crown [cm3]."""
    parts = [volumes.chamber, volumes.gasket, volumes.deck]
    shown = [f"{format_volume(part.value)} ±{part.expanded:.1f}" for part in parts]
    piston = f"{format_piston_volume(volumes.piston.value)} ±{volumes.piston.expanded:.1f}"
    return cylinder, [*shown, piston, format_volume(volumes.swept.value)], format_volume(volumes.clearance_cc)


def _shown(checks: tuple[Check, ...]) -> list[Check]:
    return [check for check in checks if check.required or check.figure or check.state is not State.NOT_MEASURED]
