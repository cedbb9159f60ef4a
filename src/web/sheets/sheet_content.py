"""The content of the build sheet, from report and log, for page and PDF."""

from typing import Any

from django.utils import timezone

from mockup.advice.outlook import verdict_text
from mockup.checks.check import Check, Kind
from mockup.checks.compression import Volumes
from mockup.limits.judge import State
from mockup.quantity.shown import format_piston_volume, format_volume
from mockup.report import Report
from mockup.words.report_text import engine_line, mockup_line
from web.drawings.approach import approach_chart
from web.drawings.deck_plan import deck_plan
from web.drawings.gap_chart import gap_chart
from web.page.assembly_rows import assembly_rows, signatures
from web.page.build_page import BuildPage
from web.page.change_rows import change_rows
from web.page.log_words import gathered, written
from web.sheets.embedded_pictures import pictures_on
from web.shops.models import Person


def sheet_parts(page: BuildPage, by: Person) -> dict[str, Any]:
    """Return everything the build sheet shows, and who made it."""
    report = page.report
    return {
        **_log_parts(page),
        "shop": by.shop,
        "made_by": by.shown_name,
        "made_at": timezone.localtime(),
        "bench": page,
        "build": page.build,
        "report": report,
        "unit": page.unit,
        "engine_line": engine_line(report.job.engine, page.unit),
        "verdict_words": verdict_text(report),
        "groups": [(kind.label, shown) for kind in Kind.all() if (shown := _shown(report.of_kind(kind)))],
        "signed_checks": [check for check in report.checks if check.signed],
        "signed": signatures(page)[:1],
        "chart": gap_chart(report),
        "volumes": [_volumes(cylinder, one) for cylinder, one in report.volumes.items()],
        "plan": deck_plan(report) if report.deck else None,
        "approaches": _approaches(report),
        "mockups": [(mockup.key, mockup_line(mockup, page.unit)) for mockup in report.job.mockups],
        "changes": change_rows(page),
        "lines": [line for line in assembly_rows(page) if not line.out],
        "sheet": report.job.limits,
        "pictures": pictures_on(page),
    }


def _log_parts(page: BuildPage) -> dict[str, Any]:
    """Return the readings of the log, and how many of them were struck out."""
    read = [line for line in written(page) if line.is_reading]
    standing = [line for line in read if not line.struck]
    return {"readings": gathered(standing), "standing": len(standing), "struck": len(read) - len(standing)}


def _approaches(report: Report) -> list[tuple[int, Any]]:
    swept = sorted({figure.place.cylinder for figure in report.sweeps if figure.closest})
    return [(cylinder, chart) for cylinder in swept if (chart := approach_chart(report, cylinder))]


def _volumes(cylinder: int, volumes: Volumes) -> tuple[int, list[str], str]:
    """Return a cylinder's parts in order, and the whole volume above the crown [cm3]."""
    parts = [volumes.chamber, volumes.gasket, volumes.deck]
    shown = [f"{format_volume(part.value)} ±{part.expanded:.1f}" for part in parts]
    piston = f"{format_piston_volume(volumes.piston.value)} ±{volumes.piston.expanded:.1f}"
    return cylinder, [*shown, piston, format_volume(volumes.swept.value)], format_volume(volumes.clearance_cc)


def _shown(checks: tuple[Check, ...]) -> list[Check]:
    return [check for check in checks if check.required or check.figure or check.state is not State.NOT_MEASURED]
