"""Readings and verdicts as tables: CSV and workbooks, out and in."""
