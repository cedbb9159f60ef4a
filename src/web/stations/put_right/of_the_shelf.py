"""What of the shelf a change may be made of: gaskets of about this bore, and cams."""

from mockup.plans.gaskets import suits
from mockup.report import Report
from web.shelf.models import ShelfCam, ShelfGasket


def gaskets_for(report: Report) -> list[ShelfGasket]:
    """Return the shelf's gaskets of about this engine's bore."""
    return [row for row in ShelfGasket.objects.filter(off_since=None) if suits(row.core(), report.job.engine)]


def cams_on_the_shelf() -> list[ShelfCam]:
    """Return the cams of the shelf, in the shop or available."""
    return list(ShelfCam.objects.filter(off_since=None))
