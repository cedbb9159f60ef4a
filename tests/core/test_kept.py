"""Three whole reports, word by word and figure by figure, as last read through.

Nothing here knows what is right: the other tests do. These notice that something has become another thing. After a
change that is meant, ``MOLE_KEEP=1 ./mole test core -k kept`` writes them anew; read the difference before it lands.
"""

import os
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import pytest

from mockup import PROGRAM
from mockup.advice.assembly_list import final_assembly
from mockup.advice.progress import progress_of
from mockup.checks.before_turning import before_turning
from mockup.engine.running import Running
from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.words.report_text import report_text
from tests.making_jobs import JOBS

KEPT = Path(__file__).parent / "kept"
RUNNING = Running(compression_height_mm=40.0, rpm=6500.0)
REPORTS = {
    "example.job": read_job(Path("docs/example.job.json").read_text()),
    "card-and-clay": replace(JOBS["card and clay"], running=RUNNING),
    "measured-and-swept": replace(JOBS["measured and swept"], running=RUNNING),
}


def whole(report) -> Iterator[str]:
    """The lines of a report, and what the pages show beside it."""
    # Without the version, so that a release changes no kept report.
    yield report_text(report).replace(f"Made with {PROGRAM}.\n", "")
    yield "Progress"
    yield from (f"    {stop.station}: {stop.progress}. {stop.note}" for stop in progress_of(report))
    yield "Final assembly"
    yield from (f"    {one.key}: {one.words} {one.why}".rstrip() for one in final_assembly(report))
    for one in report.job.mockups:
        yield f"Before turning mock-up {one.key}"
        yield from (f"    {look}" for look in before_turning(one))
    for cylinder, budget in report.budgets.items():
        yield f"Budget of {cylinder}: {budget.total_mm:.5f}"


@pytest.mark.parametrize("name", REPORTS)
def test_a_report_is_as_it_was_kept(name):
    path = KEPT / f"{name}.txt"
    text = "".join(f"{line.rstrip()}\n" for line in "\n".join(whole(evaluate(REPORTS[name]))).splitlines())
    if os.environ.get("MOLE_KEEP"):
        path.write_text(text)
    assert text == path.read_text()
