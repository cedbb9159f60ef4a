"""Instruments and calibration: readings after its end are noted, and no figure changes."""

from dataclasses import replace

import pytest

from mockup.base.faults import FaultsError
from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.formats.job_write import write_job
from mockup.readings.deck import DeckReading
from mockup.readings.instruments import DEFAULT_INSTRUMENTS, Calibration
from mockup.readings.record import Record
from tests.making import deck, job

BRIDGE = replace(
    DEFAULT_INSTRUMENTS["bridge"],
    key="own-1",
    name="tenth bridge",
    calibrated=(
        Calibration(on="2024-10-01", until="2025-10-01", by="the county laboratory"),
        Calibration(on="2026-03-01", until="2027-03-01"),
    ),
)


def read_on(*days):
    """A job whose decks were read on those days, and what its quench checks caution of."""
    decks = tuple(
        deck(cylinder, 5, instrument="own-1", record=Record(at=f"{day}T10:00:00"))
        for cylinder, day in enumerate(days, start=1)
    )
    found = job(deck=decks, instruments={**DEFAULT_INSTRUMENTS, "own-1": BRIDGE})
    checks = {check.label: check for check in evaluate(found).checks}
    return found, [checks[f"Quench {cylinder}"].governing.cautions for cylinder in range(1, len(days) + 1)]


@pytest.mark.parametrize(
    ("day", "ended"),
    [
        ("2024-09-30", ""),  # nobody says what was before
        ("2024-10-01", ""),
        ("2025-10-01", ""),  # the last day counts
        ("2025-10-02", "2025-10-01"),
        ("2026-02-28", "2025-10-01"),
        ("2026-03-01", ""),
        ("2027-03-02", "2027-03-01"),
    ],
)
def test_a_day_lies_within_a_calibration_or_after_it(day, ended):
    assert BRIDGE.lapsed_on(day) == ended
    _, (cautions, _) = read_on(day, "2026-04-01")
    words = f"Read with tenth bridge after its calibration ended on {ended}."
    assert (words in cautions) == bool(ended)


def test_only_what_rests_on_such_a_reading_says_so_and_no_figure_changes():
    found, (late, good) = read_on("2026-01-05", "2026-04-01")
    assert len(late) == len(good) + 1
    plain = replace(found, instruments={**found.instruments, "own-1": replace(BRIDGE, calibrated=())})
    mine, theirs = evaluate(found), evaluate(plain)
    assert [(c.label, c.figure, c.state) for c in mine.checks] == [(c.label, c.figure, c.state) for c in theirs.checks]


def test_a_reading_nobody_dated_says_nothing():
    found = job(deck=(deck(1, 5, instrument="own-1"),), instruments={**DEFAULT_INSTRUMENTS, "own-1": BRIDGE})
    assert not any(
        "calibration" in words for c in evaluate(found).checks if c.governing for words in c.governing.cautions
    )


def test_calibrations_go_out_and_come_back_in_the_job_file():
    found, _ = read_on("2026-01-05")
    back = read_job(write_job(found))
    assert back.instruments["own-1"] == BRIDGE
    assert back.of(DeckReading) == found.of(DeckReading)


@pytest.mark.parametrize(
    ("on", "until"), [("2026-02-30", "2027-01-01"), ("2026-3-1", "2027-01-01"), ("2027-01-02", "2027-01-01"), ("", "x")]
)
def test_what_is_no_date_is_refused(on, until):
    with pytest.raises(FaultsError):
        Calibration(on=on, until=until)
