"""A summary's version is a digest of what summaries say of the reference jobs."""

import json
from dataclasses import replace
from hashlib import sha256
from pathlib import Path

from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from tests.making_jobs import JOBS
from web.builds import summaries

EXAMPLE = Path("docs/example.job.json")


def plain(value):
    """Round figures to five digits: another processor's last digits are not another arithmetic."""
    if isinstance(value, float):
        return f"{value:.5g}"
    if isinstance(value, dict):
        return {str(key): plain(one) for key, one in value.items()}
    return [plain(one) for one in value] if isinstance(value, list | tuple) else value


def digest(jobs):
    """Return the digest of what a summary says of these jobs."""
    said = [plain(summaries.judged(evaluate(job))) for job in jobs]
    return sha256(json.dumps(said, sort_keys=True, default=str).encode()).hexdigest()[:16]


def reference_jobs():
    """Return the jobs of the core's tests and the docs' example as reference."""
    return [*JOBS.values(), read_job(EXAMPLE.read_text())]


def test_it_is_the_digest_of_the_reference_jobs():
    now = digest(reference_jobs())
    assert now == summaries.VERSION, (
        f"Summaries say something else than before. If that is meant, set VERSION = {now!r} in src/web/builds/"
        "summaries.py, so that the kept ones are made again."
    )


def test_it_notices_another_margin_and_no_comment():
    (first, *_) = reference_jobs()
    gasket = first.final_gasket
    thicker = replace(first, final_gasket=replace(gasket, compressed_mm=gasket.compressed_mm + 0.001))
    assert digest([first]) != digest([thicker])
    assert digest([first]) == digest([replace(first, name=first.name)])
