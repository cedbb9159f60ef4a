"""The summary of a build for the list of builds, written with every change of its log."""

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex, OpClass
from django.db import models
from django_scopes import ScopedManager

from web.builds.models.build import Build

UNREADABLE = "unreadable"


class Summary(models.Model):
    """One build in short, by the arithmetic of ``version``; every build has one.

    ``facts``, the engine's sizes and ``part_squares`` [mm2] are for the shop's memory (``mockup.memory``). ``rank``
    sorts the worst first: by state, then by margin. ``words``: the text it is searched by, in lower case.
    """

    build = models.OneToOneField(Build, on_delete=models.CASCADE, primary_key=True, related_name="summary")
    version = models.CharField(max_length=16)
    card = models.JSONField()
    state = models.CharField(max_length=24)
    rank = models.FloatField()
    words = models.TextField()
    cylinders = models.PositiveSmallIntegerField(default=0)
    bore_mm = models.FloatField(null=True)
    stroke_mm = models.FloatField(null=True)
    part_squares = models.FloatField(default=0.0)
    part_freedom = models.FloatField(default=0.0)
    facts = models.JSONField(default=dict)
    people = models.JSONField(default=list)
    touched_at = models.DateTimeField()
    touched_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")

    objects = ScopedManager(shop="build__shop")

    class Meta:
        indexes = [
            models.Index(fields=["version"], name="summary_by_version"),
            # The complete sort orders of the list: a page of it is read from the index and never sorted.
            models.Index(fields=["touched_at", "build"], name="summary_by_touch"),
            models.Index(fields=["rank", "build"], name="summary_by_rank"),
            models.Index(fields=["cylinders", "bore_mm"], name="summary_by_engine"),
            # A part of a word is found by its trigrams, without reading every summary of the shop.
            GinIndex(OpClass("words", name="gin_trgm_ops"), name="summary_by_words"),
        ]

    def __str__(self) -> str:
        return f"{self.build_id}: {self.state}"
