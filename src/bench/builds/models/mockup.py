"""Mock-ups: the conditions clearance readings are taken under."""

from django.conf import settings
from django.db import models
from django_scopes import ScopedManager

from bench.builds.kinds import kept, record_of
from bench.builds.models.build import Build
from mockup.engine.mockup import MockUp as CoreMockUp


class MockUp(models.Model):
    """One set of conditions, named by a letter; once read under, it is not changed any more."""

    build = models.ForeignKey(Build, on_delete=models.CASCADE, related_name="mockups")
    letter = models.CharField(max_length=3)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    conditions = models.JSONField()

    objects = ScopedManager(shop="build__shop")

    class Meta:
        ordering = ["pk"]
        constraints = [models.UniqueConstraint(fields=["build", "letter"], name="one_mockup_a_letter")]

    def __str__(self) -> str:
        return f"mock-up {self.letter}"

    @property
    def core(self) -> CoreMockUp:
        """Its conditions."""
        found: CoreMockUp = record_of(CoreMockUp, {**self.conditions, "key": self.letter})
        return found

    def keep(self, conditions: CoreMockUp) -> None:
        """Have other conditions; the letter stays its own."""
        self.conditions = kept(conditions) | {"key": ""}
