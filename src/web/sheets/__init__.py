"""Printed pages and files of a build: the build sheet, the order, the history, pictures and the reference card; PDFs.

What a sheet says comes from the report and the log; nothing is computed here.
"""
