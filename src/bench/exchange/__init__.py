"""Builds out and in, as job files."""
