"""The rows of a build: the build itself, its mock-ups, and its log, whose entries are struck out but never deleted."""

from web.builds.models.build import Build
from web.builds.models.link import SheetLink
from web.builds.models.log import Entry
from web.builds.models.mockup import MockUp
from web.builds.models.summary import Summary

__all__ = ["Build", "Entry", "MockUp", "SheetLink", "Summary"]
