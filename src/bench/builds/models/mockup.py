"""Mock-ups: the conditions clearance readings are taken under."""

from django.conf import settings
from django.db import models
from django_scopes import ScopedManager

from bench.builds.models.build import Build
from bench.builds.models.choices import choices
from mockup.engine.gasket import GasketState
from mockup.engine.mockup import Bolts, Clay, Fasteners, LashAt, Lifters, PistonsIn, Springs


class MockUp(models.Model):
    """One set of conditions, named by a letter; once read under, it is not changed any more."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="mockups")
    letter = models.CharField(max_length=3)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    gasket_state = models.CharField(max_length=12, choices=choices(GasketState))
    gasket_mm = models.FloatField(default=0.0)
    bolts = models.CharField(max_length=12, choices=choices(Bolts), default=Bolts.SNUGGED)
    lifters = models.CharField(max_length=12, choices=choices(Lifters), default=Lifters.BLOCKED)
    springs = models.CharField(max_length=12, choices=choices(Springs), default=Springs.CHECKING)
    lash_mm = models.FloatField(default=0.0)
    lash_at = models.CharField(max_length=10, choices=choices(LashAt), default=LashAt.VALVE)
    shims_mm = models.FloatField(default=0.0)
    clay = models.CharField(max_length=12, choices=choices(Clay), default=Clay.MODELLING)
    two_turns = models.BooleanField(default=True)
    lash_exhaust_mm = models.FloatField(null=True)
    head = models.CharField(max_length=80, blank=True)
    blocked_how = models.CharField(max_length=80, blank=True)
    fasteners = models.CharField(max_length=10, choices=choices(Fasteners), default=Fasteners.OLD)
    rocker_ratio = models.FloatField(null=True)
    caps_as_run = models.BooleanField(default=True)
    cam_advance_deg = models.FloatField(default=0.0)
    wheel_checked = models.BooleanField(default=False)
    gasket_known_to_mm = models.FloatField(default=0.0)
    pistons = models.CharField(max_length=20, choices=choices(PistonsIn), default=PistonsIn.UNKNOWN)

    objects = ScopedManager(shop="build__shop")

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["build", "letter"], name="one_mockup_a_letter")]

    def __str__(self) -> str:
        return f"mock-up {self.letter}"
