"""The core's files: job files, tables of readings, CSV and workbooks, in and out.

Only text and bytes pass here; ``command`` and the web application open files.
"""
