"""Speed of the core on a build of twelve cylinders, four valves each and about 400 readings."""

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.timing import finish, median_seconds, report
from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.formats.job_write import write_job
from tests.making import twelve

job = twelve()
text = write_job(job)
report("evaluate, 12 cylinders x 4 valves, 396 readings", median_seconds(lambda: evaluate(job)), 0.020)
report("read the same as a job file", median_seconds(lambda: read_job(text)), 0.060)
sys.exit(finish())
