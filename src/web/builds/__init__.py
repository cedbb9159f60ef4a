"""Builds and their logs as rows, the services that write them, rows to a Job.

Nothing here renders a page.
"""
