"""The public interface of the core (docs/core.md). Changes to it are listed in CHANGELOG.

Everything else may change without notice. Lengths are millimetres, angles degrees, volumes cm3.
"""

from mockup import __version__
from mockup.base.faults import FaultsError
from mockup.evaluate import evaluate
from mockup.formats.job_read import read_job
from mockup.formats.job_write import write_job
from mockup.formats.readings_in import readings_in
from mockup.formats.report_csv import report_csv
from mockup.formats.report_json import report_data
from mockup.formats.table import from_csv
from mockup.formats.workbook import to_workbook
from mockup.job import Job
from mockup.limits.judge import State
from mockup.report import Report, Verdict
from mockup.words.report_text import report_text

__all__ = [
    "FaultsError",
    "Job",
    "Report",
    "State",
    "Verdict",
    "__version__",
    "evaluate",
    "from_csv",
    "read_job",
    "readings_in",
    "report_csv",
    "report_data",
    "report_text",
    "to_workbook",
    "write_job",
]
