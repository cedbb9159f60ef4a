"""Mock-ups: the conditions clearance readings are taken under."""

from django.conf import settings
from django.db import models
from django_scopes import ScopedManager

from mockup.engine.mockup import MockUp as CoreMockUp
from web.builds.entry_kinds import kept, record_of
from web.builds.models.build import Build


class MockUp(models.Model):
    """One set of conditions, named by a letter.

    Once readings were taken in it, it no longer changes.
    """

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
        """Replace the conditions; the letter stays."""
        self.conditions = kept(conditions) | {"key": ""}
