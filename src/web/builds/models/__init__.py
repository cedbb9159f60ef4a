"""The rows of a build: itself, its mock-ups and its log.

Entries are struck out and never deleted.
"""

from web.builds.models.build import Build
from web.builds.models.link import SheetLink
from web.builds.models.log import Entry
from web.builds.models.mockup import MockUp
from web.builds.models.summary import Summary

__all__ = ["Build", "Entry", "MockUp", "SheetLink", "Summary"]
