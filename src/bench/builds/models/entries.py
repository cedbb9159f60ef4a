"""Entries: what somebody wrote into the book. Struck out with a reason, never edited or deleted."""

from django.conf import settings
from django.db import models
from django_scopes import ScopedManager

from bench.builds.models.build import Build
from bench.builds.models.choices import choices
from bench.builds.models.mockup import MockUp
from mockup.checks.margins import LimitName
from mockup.engine.valves import Side
from mockup.readings.clay import Gap
from mockup.readings.instruments import BRIDGE, CALIPER
from mockup.readings.volumes import Known, Part


class Entry(models.Model):
    """What every entry carries: who wrote what and when, and whether it was struck out."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="%(class)ss")
    typed = models.CharField(max_length=200, blank=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    # Of a reading that came in a job file: who read it and when, in the file's own words.
    read_by = models.CharField(max_length=200, blank=True)
    read_at = models.CharField(max_length=200, blank=True)
    struck_reason = models.CharField(max_length=200, blank=True)
    struck_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="+")
    struck_at = models.DateTimeField(null=True)
    # Made by the browser for each saving, so that one sent again after a lost answer is written once.
    token = models.UUIDField(null=True, blank=True)

    objects = ScopedManager(shop="build__shop")

    class Meta:
        abstract = True
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["build", "token"], name="%(class)s_written_once")]

    def __str__(self) -> str:
        return f"{self._meta.verbose_name} “{self.typed}”"


class DeckReading(Entry):
    """Deck clearance of one cylinder [mm], positive in the hole."""

    cylinder = models.PositiveSmallIntegerField()
    clearance_mm = models.FloatField()
    instrument = models.CharField(max_length=20, default=BRIDGE)


class ClayReading(Entry):
    """One thickness of clay [mm]."""

    mockup = models.ForeignKey(MockUp, on_delete=models.PROTECT, related_name="clay_readings")
    cylinder = models.PositiveSmallIntegerField()
    side = models.CharField(max_length=10, choices=choices(Side))
    valve = models.PositiveSmallIntegerField(default=1)
    gap = models.CharField(max_length=10, choices=choices(Gap), default=Gap.FACE)
    thickness_mm = models.FloatField()
    instrument = models.CharField(max_length=20, default=CALIPER)


class VolumeReading(Entry):
    """A chamber or piston volume [cm3]; no cylinder means it holds for all of them."""

    part = models.CharField(max_length=10, choices=choices(Part))
    cylinder = models.PositiveSmallIntegerField(null=True)
    cc = models.FloatField()
    known = models.CharField(max_length=10, choices=choices(Known), default=Known.MEASURED)


class FinalGasket(Entry):
    """The gasket chosen for final assembly [mm]; the newest one standing holds."""

    name = models.CharField(max_length=60, blank=True)
    compressed_mm = models.FloatField()
    bore_mm = models.FloatField()


class LimitEdit(Entry):
    """A limit changed for this build [mm or 1]; None takes it away. The newest one standing holds."""

    limit = models.CharField(max_length=20, choices=choices(LimitName))
    value = models.FloatField(null=True)
    reason = models.CharField(max_length=200, blank=True)
