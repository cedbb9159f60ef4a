"""Printed pages and files of a build: sheet, order, history, pictures, card, PDFs.

What a sheet says comes from the report and the log; nothing is computed here.
"""
