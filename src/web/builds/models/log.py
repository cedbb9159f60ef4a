"""The log of a build: one entry for all that was read, chosen, decided or done.

An entry's ``data`` is one frozen piece of the core (``web.builds.entry_kinds`` maps kinds to classes), so a new kind of
reading needs no table of its own, and a page reads the whole log in one query.
"""

from datetime import datetime

from django.conf import settings
from django.db import models
from django_scopes import ScopedManager

from web.builds.models.build import Build


class Entry(models.Model):
    """One entry of the log. Struck out with a reason, never edited or deleted."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="book")
    kind = models.CharField(max_length=12)
    data = models.JSONField()
    typed = models.CharField(max_length=200, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    # When the person typed it, if it waited on their device before it was written.
    typed_at = models.DateTimeField(null=True)
    # For a reading from a job file: who read it and when, in the file's own words.
    read_by = models.CharField(max_length=200, blank=True)
    read_at = models.CharField(max_length=200, blank=True)
    struck_reason = models.CharField(max_length=200, blank=True)
    struck_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="+")
    struck_at = models.DateTimeField(null=True)
    # Made for each sent entry, so an entry sent twice is written once, even to another build.
    token = models.UUIDField(null=True, blank=True)

    objects = ScopedManager(shop="build__shop")

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["by", "token"], name="a_line_is_written_once")]

    def __str__(self) -> str:
        return f"{self.key} “{self.typed}”"

    @property
    def read(self) -> datetime:
        """When it was typed, or else written."""
        return self.typed_at or self.at

    @property
    def key(self) -> str:
        """The key by which reports refer to this entry."""
        return f"{self.kind}-{self.pk}"
