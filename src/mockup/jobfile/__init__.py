"""The job file: an open JSON format, read into a Job and written from one. docs/job-file.md describes it."""
