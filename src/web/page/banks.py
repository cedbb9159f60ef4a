"""Readings of one head moved from bank to bank, with its springs on the wrong ends."""

from mockup.readings.clay import ClayReading, HeadReading
from mockup.readings.record import standing
from mockup.readings.sweep import SweepReading
from web.page.build_page import BuildPage

SWAPPED = (
    "Cylinder {cylinder} is on the other bank than all readings of mock-up {letter}. If the head was moved over, its "
    "checking springs are on the wrong ends: move them, and set down a new mock-up."
)


def other_bank(page: BuildPage, cylinder: int, letter: str) -> str:
    """Return what to ask where a mock-up was read on another bank only; empty otherwise."""
    job = page.report.job
    banks = {one: at for at, bank in enumerate(job.engine.banks) for one in bank}
    read = {one.place.cylinder for one in standing(job.of(ClayReading)) if one.mockup == letter}
    read |= {one.place.cylinder for one in standing(job.of(SweepReading)) if one.mockup == letter}
    read |= {one.cylinder for one in standing(job.of(HeadReading)) if one.mockup == letter}
    here = banks[cylinder]
    return SWAPPED.format(cylinder=cylinder, letter=letter) if read and all(banks[one] != here for one in read) else ""
