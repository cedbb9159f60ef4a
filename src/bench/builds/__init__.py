"""Builds and their readings as rows, and the way from rows to the core."""
