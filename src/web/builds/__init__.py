"""Builds and their logs as rows, the services that write them, and the conversion from rows to a Job.

Nothing here renders a page.
"""
