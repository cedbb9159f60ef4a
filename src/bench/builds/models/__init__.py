"""Rows of a build: the build itself, its mock-ups, and the book: entries struck out but never deleted."""

from bench.builds.models.book import Entry
from bench.builds.models.build import Build
from bench.builds.models.link import SheetLink
from bench.builds.models.mockup import MockUp
from bench.builds.models.summary import Summary

__all__ = ["Build", "Entry", "MockUp", "SheetLink", "Summary"]
