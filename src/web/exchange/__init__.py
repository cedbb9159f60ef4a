"""Builds out and in: job files, tables, workbooks and text.

The formats themselves belong to the core (``mockup.formats``).
"""
