"""The public surface of the core (docs/core.md): it changes with a word in the changelog only.

Everything else may be another thing tomorrow. Lengths are millimetres, angles degrees, volumes cm3.
"""

from mockup import __version__
from mockup.evaluate import evaluate
from mockup.faults import FaultsError
from mockup.job import Job
from mockup.jobfile.read import read_job
from mockup.jobfile.report_csv import report_csv
from mockup.jobfile.report_json import report_data
from mockup.jobfile.write import write_job
from mockup.limits.judge import State
from mockup.report import Report, Verdict
from mockup.tables.readings_in import readings_in
from mockup.tables.table import from_csv
from mockup.tables.workbook import to_workbook
from mockup.words import report_text

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
